package longthread.service.web;

import java.io.IOException;
import java.util.List;

/** Comma-separated values that a spreadsheet opens cleanly (RFC 4180, with a UTF-8 mark). */
public final class Csv {
  private final Appendable out;

  /** Starts a sheet with its heading. */
  public Csv(Appendable out, List<String> heading) throws IOException {
    this.out = out;
    out.append('\uFEFF');
    row(heading);
  }

  /** Writes a row; null is an empty cell. */
  public void row(List<? extends @org.jspecify.annotations.Nullable Object> cells)
      throws IOException {
    String separator = "";
    for (Object cell : cells) {
      out.append(separator).append(quoted(cell == null ? "" : cell.toString()));
      separator = ",";
    }
    out.append("\r\n");
  }

  private static String quoted(String cell) {
    // A spreadsheet would run a cell that begins like a formula. References of jobs begin with @
    // and
    // must stay what they are for scripts, so those are only quoted.
    boolean formula = !cell.isEmpty() && "=+-\t".indexOf(cell.charAt(0)) >= 0;
    String safe = formula ? "'" + cell : cell;
    return "\"" + safe.replace("\"", "\"\"") + "\"";
  }
}
