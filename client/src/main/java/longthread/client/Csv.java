package longthread.client;

import java.util.List;

/** Comma-separated values (RFC 4180). */
final class Csv {
  private Csv() {}

  static String text(List<String> heading, List<List<String>> rows) {
    var text = new StringBuilder();
    line(text, heading);
    rows.forEach(row -> line(text, row));
    return text.toString();
  }

  private static void line(StringBuilder text, List<String> cells) {
    String separator = "";
    for (String cell : cells) {
      text.append(separator).append('"').append(cell.replace("\"", "\"\"")).append('"');
      separator = ",";
    }
    text.append("\r\n");
  }
}
