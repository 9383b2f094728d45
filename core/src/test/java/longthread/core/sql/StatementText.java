package longthread.core.sql;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Collectors;
import longthread.core.sql.SqlStatement.Output;
import longthread.core.sql.SqlStatement.Source;

/** Statements as the lines of the golden files, and the tables those files stand on. */
final class StatementText {
  private StatementText() {}

  /** {@code farm(farm_id int, name); core.x(a, b)} as tables with known columns. */
  static KnownTables tables(String text) {
    Map<String, List<KnownColumn>> tables = new LinkedHashMap<>();
    for (String one : text.split(";")) {
      if (one.isBlank()) {
        continue;
      }
      String name = one.substring(0, one.indexOf('(')).strip();
      String inside = one.substring(one.indexOf('(') + 1, one.lastIndexOf(')'));
      var columns = new ArrayList<KnownColumn>();
      for (String column : inside.split(",(?![^(]*\\))")) {
        if (!column.isBlank()) {
          String[] words = column.strip().split("\\s+", 2);
          columns.add(new KnownColumn(words[0], words.length > 1 ? words[1] : null));
        }
      }
      tables.put(name, columns);
    }
    return new KnownTables(tables, List.of());
  }

  static String of(List<SqlStatement> statements) {
    var text = new StringBuilder();
    for (SqlStatement statement : statements) {
      boolean plain = statements.size() == 1 && statement.target() == null;
      if (!plain) {
        text.append(statement.kind());
        text.append(statement.target() == null ? "" : " " + statement.target());
        text.append(statement.temporary() ? " (temporary)" : "").append('\n');
      }
      statement.outputs().forEach(output -> text.append(line(output)).append('\n'));
      if (!statement.rows().isEmpty()) {
        text.append("rows: ").append(list(statement.rows())).append('\n');
      }
      if (!statement.reads().isEmpty()) {
        text.append("reads: ").append(String.join(", ", statement.reads())).append('\n');
      }
      if (!statement.complete()) {
        text.append("partial\n");
      }
    }
    return text.toString();
  }

  private static String line(Output output) {
    var parts = new ArrayList<String>();
    if (!output.direct().isEmpty()) {
      parts.add(list(output.direct()));
    }
    if (!output.indirect().isEmpty()) {
      parts.add(list(output.indirect()));
    }
    if (!output.constants().isEmpty()) {
      parts.add(
          "constant "
              + output.constants().stream()
                  .map(Constant::text)
                  .collect(Collectors.joining(" or ")));
    }
    if (output.countsRows()) {
      parts.add("counts " + String.join(", ", output.fromRows()));
    }
    return "-> " + output.name() + (parts.isEmpty() ? "" : ": " + String.join(" | ", parts));
  }

  private static String list(List<Source> sources) {
    return sources.stream()
        .map(
            s ->
                s.table()
                    + "."
                    + s.column()
                    + " "
                    + s.flow()
                    + (s.masked() ? " masked" : "")
                    + (s.possible() ? " possible" : ""))
        .collect(Collectors.joining(", "));
  }
}
