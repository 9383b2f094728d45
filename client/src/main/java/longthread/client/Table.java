package longthread.client;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;

/** Rows of text in columns that line up, cut to the terminal where there is one. */
final class Table {
  private static final String GAP = "  ";
  private static final int MIN_WIDTH = 8;

  private final List<String> heading;
  private final List<List<String>> rows = new ArrayList<>();

  Table(String... heading) {
    this.heading = Arrays.asList(heading);
  }

  void row(String... cells) {
    rows.add(Arrays.asList(cells));
  }

  boolean isEmpty() {
    return rows.isEmpty();
  }

  /** The table as lines; the last column takes what room is left of {@code width}, 0 for no end. */
  String text(int width) {
    int[] widths = new int[heading.size()];
    var all = new ArrayList<List<String>>(List.of(heading));
    all.addAll(rows);
    for (List<String> row : all) {
      for (int i = 0; i < row.size(); i++) {
        widths[i] = Math.max(widths[i], length(row.get(i)));
      }
    }
    shrink(widths, width);
    var text = new StringBuilder();
    for (List<String> row : all) {
      var line = new StringBuilder();
      for (int i = 0; i < row.size(); i++) {
        String cell = cut(row.get(i).replace('\n', ' '), widths[i]);
        line.append(cell);
        if (i < row.size() - 1) {
          line.append(" ".repeat(widths[i] - length(cell))).append(GAP);
        }
      }
      text.append(line.toString().stripTrailing()).append('\n');
    }
    return text.toString();
  }

  /** Takes from the widest column until all fit. */
  private static void shrink(int[] widths, int width) {
    if (width <= 0) {
      return;
    }
    int total = Arrays.stream(widths).sum() + GAP.length() * (widths.length - 1);
    while (total > width) {
      int widest = 0;
      for (int i = 1; i < widths.length; i++) {
        widest = widths[i] > widths[widest] ? i : widest;
      }
      if (widths[widest] <= MIN_WIDTH) {
        return;
      }
      widths[widest]--;
      total--;
    }
  }

  private static int length(String cell) {
    return cell.codePointCount(0, cell.length());
  }

  /**
   * Of a text the end is left out; of a name the middle, since names differ at their ends as much
   * as at their beginnings.
   */
  private static String cut(String cell, int width) {
    int length = length(cell);
    if (length <= width) {
      return cell;
    }
    int head = cell.indexOf(' ') >= 0 ? width - 1 : (width - 1) / 2;
    int tail = width - 1 - head;
    return cell.substring(0, cell.offsetByCodePoints(0, head))
        + "…"
        + cell.substring(cell.offsetByCodePoints(0, length - tail));
  }
}
