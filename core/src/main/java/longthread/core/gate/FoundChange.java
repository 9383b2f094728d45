package longthread.core.gate;

import org.jspecify.annotations.Nullable;

/**
 * A change that two versions of files show.
 *
 * @param change drop, rename, retype, values, rows or delay
 * @param table the table as the text names it
 * @param column its column; null for the whole table
 * @param to the new name or type; null where there is none
 * @param file where it is seen
 * @param line in the later version of the file, or in the earlier if it is gone there; from 1
 * @param why what was seen, in words
 * @param mayBeNew whether nothing in the earlier version wrote the table, so that one that the
 *     catalog lacks is a new one
 */
public record FoundChange(
    String change,
    String table,
    @Nullable String column,
    @Nullable String to,
    String file,
    int line,
    String why,
    boolean mayBeNew) {
  /** A change of something that was there. */
  public FoundChange(
      String change,
      String table,
      @Nullable String column,
      @Nullable String to,
      String file,
      int line,
      String why) {
    this(change, table, column, to, file, line, why, false);
  }

  /** The table, or the column as {@code table#column}. */
  public String of() {
    return column == null ? table : table + "#" + column;
  }
}
