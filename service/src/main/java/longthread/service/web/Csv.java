package longthread.service.web;

import de.siegmar.fastcsv.writer.CsvWriter;
import de.siegmar.fastcsv.writer.LineDelimiter;
import de.siegmar.fastcsv.writer.QuoteStrategies;
import java.io.IOException;
import java.io.Writer;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** Comma-separated values that a spreadsheet opens cleanly (RFC 4180, with a UTF-8 mark). */
public final class Csv implements AutoCloseable {
  private static final char MARK = '\uFEFF';
  private static final String FORMULA_STARTS = "=+-@\t\r\n";

  private final CsvWriter writer;

  /** Starts a sheet with its heading. */
  public Csv(Writer out, List<String> heading) throws IOException {
    out.append(MARK);
    writer =
        CsvWriter.builder()
            .quoteStrategy(QuoteStrategies.ALWAYS)
            .lineDelimiter(LineDelimiter.CRLF)
            .build(out);
    row(heading);
  }

  /** Writes a row; null is an empty cell. */
  public void row(List<? extends @Nullable Object> cells) {
    writer.writeRecord(
        cells.stream()
            .map(
                cell ->
                    cell == null
                        ? ""
                        : cell instanceof Number ? cell.toString() : harmless(cell.toString()))
            .toList());
  }

  /** A spreadsheet would run a cell that begins like a formula; numbers are what they seem. */
  private static String harmless(String cell) {
    return !cell.isEmpty() && FORMULA_STARTS.indexOf(cell.charAt(0)) >= 0 ? "'" + cell : cell;
  }

  @Override
  public void close() throws IOException {
    writer.close();
  }
}
