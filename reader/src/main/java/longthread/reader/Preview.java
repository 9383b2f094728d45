package longthread.reader;

import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * A few rows as they are at their source. Values are texts; null where there is none.
 *
 * @param columns as the source spells them
 * @param rows each with as many values as there are columns
 * @param isCut whether there are more rows, or values were cut
 */
public record Preview(List<String> columns, List<List<@Nullable String>> rows, boolean isCut) {
  public Preview {
    columns = List.copyOf(columns);
    rows = List.copyOf(rows);
  }

  /** What bounds a preview: rows, letters of a value, letters of all together. */
  public record Bounds(int rows, int value, int total) {}

  /** Collects rows until the bounds are reached. */
  static final class Collector {
    private final Bounds bounds;
    private final List<List<@Nullable String>> rows = new ArrayList<>();
    private int letters;
    private boolean isCut;

    Collector(Bounds bounds) {
      this.bounds = bounds;
    }

    /** Adds a row; returns whether another one has room. */
    boolean add(List<@Nullable String> values) {
      if (rows.size() == bounds.rows() || letters > bounds.total()) {
        isCut = true;
        return false;
      }
      var row = new ArrayList<@Nullable String>(values.size());
      for (String value : values) {
        String shown = value;
        if (value != null && value.codePointCount(0, value.length()) > bounds.value()) {
          shown = value.substring(0, value.offsetByCodePoints(0, bounds.value())) + "…";
          isCut = true;
        }
        letters += shown == null ? 0 : shown.length();
        row.add(shown);
      }
      rows.add(java.util.Collections.unmodifiableList(row));
      return true;
    }

    Preview of(List<String> columns) {
      return new Preview(columns, rows, isCut);
    }
  }
}
