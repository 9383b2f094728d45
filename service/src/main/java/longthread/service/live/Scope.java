package longthread.service.live;

import java.util.Locale;
import java.util.Optional;
import java.util.stream.Stream;

/**
 * A part of the catalog.
 *
 * @param value the name of a system or workspace, or the id of a label; empty for everything
 */
public record Scope(Kind kind, String value) {
  public static final Scope EVERYTHING = new Scope(Kind.EVERYTHING, "");

  /** What marks a part off. */
  public enum Kind {
    /** The whole catalog. */
    EVERYTHING,
    /** What has a name in one system. */
    SYSTEM,
    /**
     * The steps, models, charts, reports and dashboards of one workspace, and what refreshes them.
     */
    WORKSPACE,
    /** What has a label for certain: set on it or on a column, or inherited. */
    LABEL;

    public String word() {
      return name().toLowerCase(Locale.ROOT);
    }

    public static Optional<Kind> of(String word) {
      return Stream.of(values()).filter(kind -> kind.word().equals(word)).findFirst();
    }
  }
}
