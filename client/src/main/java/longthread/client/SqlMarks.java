package longthread.client;

import longthread.client.answers.SqlStatement;

/** The text of a statement with the parts marked that compute one of its output columns. */
final class SqlMarks {
  private SqlMarks() {}

  /**
   * The statement's lines with those parts in a colour; where no colours can be shown, a line that
   * holds such a part is followed by one that points at it.
   */
  static String of(String text, SqlStatement statement, SqlStatement.Output output) {
    int start = statement.start();
    int end = statement.end();
    boolean[] on = new boolean[text.length() + 1];
    for (SqlStatement.Span span : output.spans()) {
      int to = Math.min(span.end(), text.length());
      for (int i = span.start(); i < to; i++) {
        on[i] = true;
        start = Math.min(start, i);
        end = Math.max(end, i + 1);
      }
    }
    boolean colours = !Output.styled("bold", "x").equals("x");
    var shown = new StringBuilder();
    int lineStart = text.lastIndexOf('\n', Math.max(0, start - 1)) + 1;
    while (lineStart < end) {
      int newline = text.indexOf('\n', lineStart);
      int lineEnd = newline < 0 ? text.length() : newline;
      line(text, on, lineStart, lineEnd, colours, shown);
      lineStart = lineEnd + 1;
    }
    return shown.toString();
  }

  private static void line(
      String text, boolean[] on, int from, int to, boolean colours, StringBuilder shown) {
    var pointers = new StringBuilder();
    int at = from;
    while (at < to) {
      int next = at;
      while (next < to && on[next] == on[at]) {
        next++;
      }
      String part = text.substring(at, next);
      shown.append(colours && on[at] ? Output.styled("bold,yellow", part) : part);
      pointers.append((on[at] ? "^" : " ").repeat(next - at));
      at = next;
    }
    shown.append('\n');
    if (!colours && pointers.indexOf("^") >= 0) {
      shown.append(pointers.toString().stripTrailing()).append('\n');
    }
  }
}
