package longthread.client.answers;

import java.util.List;
import org.jspecify.annotations.Nullable;

/** What one SQL statement says. */
public record SqlStatement(
    int start,
    int end,
    String kind,
    @Nullable String target,
    boolean temporary,
    List<Output> outputs,
    List<Source> rows,
    List<String> reads,
    boolean complete,
    List<Note> problems) {
  public SqlStatement {
    outputs = outputs == null ? List.of() : List.copyOf(outputs);
    rows = rows == null ? List.of() : List.copyOf(rows);
    reads = reads == null ? List.of() : List.copyOf(reads);
    problems = problems == null ? List.of() : List.copyOf(problems);
  }

  /** An output column. */
  public record Output(
      String name,
      List<Source> direct,
      List<Source> indirect,
      @Nullable String constant,
      List<String> fromRows,
      List<Span> spans) {
    public Output {
      direct = direct == null ? List.of() : List.copyOf(direct);
      indirect = indirect == null ? List.of() : List.copyOf(indirect);
      fromRows = fromRows == null ? List.of() : List.copyOf(fromRows);
      spans = spans == null ? List.of() : List.copyOf(spans);
    }
  }

  /** A column of a table. */
  public record Source(
      String table, String column, String subtype, String how, boolean masked, boolean possible) {}

  /** A part of the text, in UTF-16 units, the end excluded. */
  public record Span(int start, int end) {}

  /** What was not understood. */
  public record Note(String detail) {}
}
