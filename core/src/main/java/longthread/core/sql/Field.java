package longthread.core.sql;

import org.jspecify.annotations.Nullable;

/** A column of a relation. Two fields are the same only if they are one object. */
final class Field {
  private final Relation of;
  private final String name;
  private final @Nullable String type;
  private final Uses uses;
  private final @Nullable Span span;

  Field(Relation of, String name, @Nullable String type, Uses uses, @Nullable Span span) {
    this.of = of;
    this.name = name;
    this.type = type;
    this.uses = uses;
    this.span = span;
  }

  Relation of() {
    return of;
  }

  String name() {
    return name;
  }

  /** The type as the database spells it; null if unknown. */
  @Nullable String type() {
    return type;
  }

  /** What it is made of one step back; empty for a column of a table. */
  Uses uses() {
    return uses;
  }

  /** The text that computes it; null if there is none of its own. */
  @Nullable Span span() {
    return span;
  }

  @Override
  public String toString() {
    return of.name() + "." + name;
  }
}
