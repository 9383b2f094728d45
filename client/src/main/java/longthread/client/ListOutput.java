package longthread.client;

import de.siegmar.fastcsv.writer.CsvWriter;
import de.siegmar.fastcsv.writer.LineDelimiter;
import de.siegmar.fastcsv.writer.QuoteStrategies;
import java.io.PrintWriter;
import java.util.List;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;

/** What every command that lists shares: as a table, or as CSV. */
abstract class ListOutput extends Output {
  private static final String FORMULA_STARTS = "=+-@\t\r\n";

  @Option(names = "--csv", description = "Print as CSV.")
  boolean csv;

  @Mixin Paging paging = new Paging();

  /** Prints rows under a heading: as CSV if that is asked for, else as a table. */
  void printList(List<String> heading, List<List<String>> rows) {
    if (csv) {
      printCsv(out(), heading, rows);
    } else {
      var table = new Table(heading.toArray(String[]::new));
      rows.forEach(row -> table.row(row.toArray(String[]::new)));
      print(table);
    }
  }

  static void printCsv(PrintWriter out, List<String> heading, List<List<String>> rows) {
    CsvWriter writer =
        CsvWriter.builder()
            .bufferSize(0) // the output has a buffer of its own
            .quoteStrategy(QuoteStrategies.ALWAYS)
            .lineDelimiter(LineDelimiter.CRLF)
            .build(out);
    writer.writeRecord(heading);
    rows.forEach(row -> writer.writeRecord(row.stream().map(ListOutput::harmless).toList()));
    out.flush();
  }

  /** A cell that a spreadsheet does not run; what is missing is an empty cell. */
  private static String harmless(String cell) {
    if (cell.isEmpty() || cell.equals("-")) {
      return "";
    }
    return FORMULA_STARTS.indexOf(cell.charAt(0)) >= 0 ? "'" + cell : cell;
  }
}
