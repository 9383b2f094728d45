package longthread.core.impact;

import java.util.Locale;
import org.jspecify.annotations.Nullable;

/**
 * A change to one asset or column.
 *
 * @param node the node of the column, or the rows node for the whole asset
 * @param to the new name or type, where the kind has one
 * @param narrows for a retype, whether the new type holds less than the old one or that is unknown
 */
public record Change(int node, Kind kind, @Nullable String to, boolean narrows) {
  /** The kinds of change that can be judged. */
  public enum Kind {
    DROP,
    RENAME,
    RETYPE,
    VALUES,
    ROWS,
    DELAY;

    public String word() {
      return name().toLowerCase(Locale.ROOT);
    }
  }
}
