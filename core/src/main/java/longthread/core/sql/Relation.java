package longthread.core.sql;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import longthread.core.lineage.Flow;
import org.jspecify.annotations.Nullable;

/** Something with columns and rows: a table, or the result of a query. */
final class Relation {
  /** What sort of step a relation is. */
  enum Kind {
    /** A stored table, a view, a file: nothing lies behind it here. */
    TABLE("table"),
    CTE("cte"),
    SUBQUERY("subquery"),
    /** A query within an expression. */
    SCALAR("subquery"),
    BRANCH("branch"),
    TEMPORARY("temporary"),
    FUNCTION("function"),
    VALUES("values"),
    PIVOT("pivot"),
    RESULT("result");

    private final String word;

    Kind(String word) {
      this.word = word;
    }

    String word() {
      return word;
    }
  }

  private final Kind kind;
  private final String name;
  private final @Nullable Span span;
  private final Map<String, Field> byName = new HashMap<>();

  /** By name in lower case: the first field of that spelling or another. */
  private final Map<String, Field> byFoldedName = new HashMap<>();

  private final List<Field> fields = new ArrayList<>();
  private final Set<Field> made = new HashSet<>();
  private boolean open;
  private @Nullable Uses ofMade;

  /** Of a query that selects all columns of relations with unknown columns: those relations. */
  private final Set<Relation> stars = new LinkedHashSet<>();

  /** What decides which rows there are; its constants and direct fields stay empty. */
  final Uses rows = new Uses();

  /** The relations whose rows run on into this one's. */
  final Set<Relation> from = new LinkedHashSet<>();

  Relation(Kind kind, String name, @Nullable Span span) {
    this.kind = kind;
    this.name = name;
    this.span = span;
  }

  /**
   * A stored table.
   *
   * @param columns in order; empty if unknown, and then any name is one of its columns
   */
  static Relation table(String name, List<KnownColumn> columns) {
    var table = new Relation(Kind.TABLE, name, null);
    columns.forEach(column -> table.add(column.name(), column.type(), new Uses(), null));
    table.open = columns.isEmpty();
    return table;
  }

  Field add(String column, @Nullable String type, Uses uses, @Nullable Span at) {
    var field = new Field(this, column, type, uses, at);
    Budget.keep(3L + uses.direct.size() + uses.decides.size());
    fields.add(field);
    byName.putIfAbsent(column, field);
    byFoldedName.putIfAbsent(column.toLowerCase(Locale.ROOT), field);
    return field;
  }

  Kind kind() {
    return kind;
  }

  boolean isTable() {
    return kind == Kind.TABLE;
  }

  String name() {
    return name;
  }

  @Nullable Span span() {
    return span;
  }

  /** Whether it may have columns that are not known. */
  boolean open() {
    return open;
  }

  /** Makes every column of {@code other}, known or not, a column of this one too. */
  void addStar(Relation other) {
    open = true;
    stars.add(other);
  }

  Set<Relation> stars() {
    return stars;
  }

  /** Lets any name be one of its columns, made in this way. */
  void openWith(Uses uses) {
    open = true;
    ofMade = uses;
  }

  List<Field> fields() {
    return fields;
  }

  /** The field that a name means; null if there is none. */
  @Nullable Field find(Ident name) {
    Field exact = byName.get(name.name());
    if (exact != null || name.exact()) {
      return exact;
    }
    return byFoldedName.get(name.name().toLowerCase(Locale.ROOT));
  }

  /** The field of that name, made if the columns are unknown. */
  Field findOrMake(Ident name) {
    Field found = find(name);
    if (found != null) {
      return found;
    }
    var uses = new Uses();
    if (ofMade != null) {
      uses.add(ofMade);
    }
    for (Relation star : stars) {
      var how = new Uses.How(Flow.IDENTITY, false, stars.size() > 1);
      uses.direct(star.findOrMake(name), how);
    }
    Field field = add(name.name(), null, uses, null);
    made.add(field);
    return field;
  }

  /** Whether a field is there for certain, and not just since some text mentions its name. */
  boolean isKnown(Field field) {
    return !made.contains(field);
  }

  @Override
  public String toString() {
    return kind.word() + " " + name;
  }
}
