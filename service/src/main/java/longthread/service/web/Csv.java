package longthread.service.web;

import de.siegmar.fastcsv.writer.CsvWriter;
import de.siegmar.fastcsv.writer.LineDelimiter;
import de.siegmar.fastcsv.writer.QuoteStrategies;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.io.OutputStreamWriter;
import java.io.Writer;
import java.nio.charset.StandardCharsets;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpHeaders;

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
                        : cell instanceof Number
                            ? cell.toString()
                            : harmless(OutgoingText.of(cell.toString())))
            .toList());
  }

  /** A spreadsheet would run a cell that begins like a formula; numbers are what they seem. */
  private static String harmless(String cell) {
    return !cell.isEmpty() && FORMULA_STARTS.indexOf(cell.charAt(0)) >= 0 ? "'" + cell : cell;
  }

  /** Whether a caller asks for a sheet. */
  public static boolean isWanted(HttpServletRequest request) {
    String accept = request.getHeader(HttpHeaders.ACCEPT);
    return accept != null && accept.contains("text/csv");
  }

  /** Answers with a sheet, to be saved as a file. */
  public static void send(
      HttpServletResponse response,
      String file,
      List<String> heading,
      Iterable<? extends List<? extends @Nullable Object>> rows)
      throws IOException {
    response.setContentType("text/csv;charset=UTF-8");
    response.setHeader(HttpHeaders.CONTENT_DISPOSITION, "attachment; filename=\"" + file + "\"");
    try (var sheet =
        new Csv(
            new OutputStreamWriter(response.getOutputStream(), StandardCharsets.UTF_8), heading)) {
      rows.forEach(sheet::row);
    }
  }

  @Override
  public void close() throws IOException {
    writer.close();
  }
}
