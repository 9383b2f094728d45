package longthread.core.lineage;

import java.util.Locale;
import java.util.Optional;

/**
 * How a link works. The first four carry values (the standard's DIRECT), the next seven only decide
 * (INDIRECT); the last five are Long Thread's own.
 */
public enum Flow {
  IDENTITY(Group.DIRECT),
  TRANSFORMATION(Group.DIRECT),
  AGGREGATION(Group.DIRECT),
  /** A DIRECT flow whose subtype the emitter did not state. */
  DIRECT(Group.DIRECT),
  CONDITIONAL(Group.DECIDES_VALUE),
  WINDOW(Group.DECIDES_VALUE),
  JOIN(Group.DECIDES_ROWS),
  FILTER(Group.DECIDES_ROWS),
  GROUP_BY(Group.DECIDES_ROWS),
  SORT(Group.DECIDES_ROWS),
  /** An INDIRECT flow whose subtype the emitter did not state. */
  INDIRECT(Group.DECIDES_ROWS),
  /** The rows of an input run on into the rows of an output. */
  ROWS(Group.ROWS),
  /** The rows of an input decide a value made from many of them. */
  ROWS_TO_VALUE(Group.ROWS),
  /** A link between whole datasets, where nothing is known of the columns. */
  COARSE(Group.COARSE),
  /**
   * An input that was read while the column map shows none of its columns landing in the output.
   */
  READS(Group.READS),
  /** A report or dashboard holds a chart: containment, passed like IDENTITY. */
  HOLDS(Group.HOLDS);

  /** What a change does when it meets the flow. */
  public enum Group {
    DIRECT,
    DECIDES_VALUE,
    DECIDES_ROWS,
    ROWS,
    COARSE,
    READS,
    HOLDS
  }

  private final Group group;

  Flow(Group group) {
    this.group = group;
  }

  public Group group() {
    return group;
  }

  /** How it works, in words: what happens to the source on its way to the target. */
  public String words() {
    return switch (this) {
      case IDENTITY -> "copied";
      case TRANSFORMATION -> "computed";
      case AGGREGATION -> "aggregated";
      case DIRECT -> "carried";
      case ROWS -> "feeds rows";
      case ROWS_TO_VALUE -> "rows counted";
      case COARSE -> "feeds (columns unknown)";
      case READS -> "read";
      case HOLDS -> "contained";
      case INDIRECT -> "decides";
      default -> "decides (" + name().toLowerCase(Locale.ROOT).replace('_', ' ') + ")";
    };
  }

  /** Whether a value of the source, or a part of it, arrives in the target. */
  public boolean carriesValues() {
    return group == Group.DIRECT || group == Group.HOLDS;
  }

  /** Whether the source decides what value stands in the target, carried or not. */
  public boolean shapesValues() {
    return carriesValues() || group == Group.DECIDES_VALUE;
  }

  /** Whether a column made this way depends on which rows there are. */
  public boolean dependsOnRows() {
    return this == AGGREGATION || this == WINDOW;
  }

  /** The flow of a transformation as the standard spells it; empty if the words are unknown. */
  public static Optional<Flow> ofTransformation(String type, String subtype) {
    for (Flow flow : values()) {
      boolean standard = flow.ordinal() <= INDIRECT.ordinal() || flow == READS; // as we export it
      if (standard && flow.name().equals(subtype.toUpperCase(Locale.ROOT))) {
        return Optional.of(flow);
      }
    }
    return switch (type.toUpperCase(Locale.ROOT)) {
      case "DIRECT" -> Optional.of(DIRECT);
      case "INDIRECT" -> Optional.of(INDIRECT);
      default -> Optional.empty();
    };
  }
}
