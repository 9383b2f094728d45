package longthread.client;

import java.io.IOException;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.concurrent.Callable;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;
import tools.jackson.databind.node.ObjectNode;

/** Column lineage of SQL files. */
@Command(
    name = "sql",
    description = "Read SQL files: where every output column comes from.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "A folder stands for all files in it that end in .sql; - is standard input. With --column the",
      "text is shown with the parts that compute that column lit. Nothing is kept by the service.",
      "",
      "Examples:",
      "  longthread sql build_payout.sql",
      "  longthread sql build_payout.sql --column amount --dialect postgres",
      "  longthread sql warehouse/ --json"
    })
final class SqlCommand extends Output implements Callable<Integer> {
  private static final JsonMapper MAPPER = new JsonMapper();

  @Parameters(arity = "1..*", paramLabel = "FILE", description = "Files, folders, or -.")
  private List<Path> files = List.of();

  @Option(names = "--column", paramLabel = "NAME", description = "Only this output column.")
  private @Nullable String column;

  @Option(
      names = "--dialect",
      paramLabel = "WORD",
      description = "ansi, postgres, backtick or bracket; else ansi.")
  private @Nullable String dialect;

  @Option(
      names = "--schema",
      paramLabel = "NAME",
      description = "Where unqualified tables are looked up.")
  private @Nullable String schema;

  @Option(
      names = "--tables",
      paramLabel = "FILE",
      description = "Columns of tables, as JSON: {\"core.pickup\": [{\"name\": \"litres\"}]}.")
  private @Nullable Path tables;

  @Option(names = "--strict", description = "Exit with 1 if anything was not understood in full.")
  private boolean strict;

  private boolean found;
  private boolean complete = true;

  @Override
  public Integer call() {
    List<Path> all = texts();
    var answers = new LinkedHashMap<String, JsonNode>();
    ServiceClient service = service();
    for (Path file : all) {
      String text = read(file);
      JsonNode answer =
          service.post(
              "/api/v1/sql/lineage",
              question(text).getBytes(StandardCharsets.UTF_8),
              "application/json",
              false);
      answers.put(file.toString(), answer);
      for (JsonNode statement : answer) {
        complete &= statement.path("complete").booleanValue();
      }
      if (!json) {
        print(all.size() > 1 ? file.toString() : null, text, answer);
      }
    }
    if (json) {
      printJson(all.size() == 1 ? answers.values().iterator().next() : MAPPER.valueToTree(answers));
    } else if (column != null && !found) {
      throw new ServiceException(
          ServiceException.NOT_FOUND, "no statement has an output column named " + column);
    }
    return strict && !complete ? 1 : 0;
  }

  private List<Path> texts() {
    var all = new ArrayList<Path>();
    for (Path file : files) {
      if (Files.isDirectory(file)) {
        try (Stream<Path> inside = Files.walk(file)) {
          inside
              .filter(one -> one.toString().toLowerCase(Locale.ROOT).endsWith(".sql"))
              .sorted()
              .forEach(all::add);
        } catch (IOException e) {
          throw new ServiceException(
              ServiceException.WRONG_USAGE, file + " cannot be listed: " + e.getMessage());
        }
      } else {
        all.add(file);
      }
    }
    if (all.isEmpty()) {
      throw new ServiceException(ServiceException.NOT_FOUND, "there is no file ending in .sql");
    }
    return all;
  }

  private static String read(Path file) {
    try {
      return file.toString().equals("-")
          ? new String(System.in.readAllBytes(), StandardCharsets.UTF_8)
          : Files.readString(file);
    } catch (CharacterCodingException e) {
      throw new ServiceException(ServiceException.WRONG_USAGE, file + " is not a text in UTF-8");
    } catch (IOException e) {
      throw new ServiceException(
          ServiceException.WRONG_USAGE, file + " cannot be read: " + e.getMessage());
    }
  }

  private String question(String text) {
    ObjectNode question = MAPPER.createObjectNode().put("sql", text);
    if (dialect != null) {
      question.put("dialect", dialect);
    }
    if (schema != null) {
      question.put("defaultSchema", schema);
    }
    if (tables != null) {
      try {
        question.set("schemas", MAPPER.readTree(read(tables)));
      } catch (tools.jackson.core.JacksonException e) {
        throw new ServiceException(
            ServiceException.WRONG_USAGE, tables + " is not JSON: " + e.getOriginalMessage());
      }
    }
    return MAPPER.writeValueAsString(question);
  }

  private void print(@Nullable String file, String text, JsonNode answer) {
    if (file != null) {
      out().printf("%n%s%n", lit("bold", file));
    }
    for (JsonNode statement : answer) {
      boolean shown = column == null || output(statement) != null;
      if (!shown) {
        continue;
      }
      found = true;
      out().printf("%n%s%n", head(statement));
      var table = new Table("COLUMN", "HOW", "FROM", "DECIDED BY");
      for (JsonNode output : statement.path("outputs")) {
        if (column == null || text(output.path("name")).equalsIgnoreCase(column)) {
          table.row(
              text(output.path("name")),
              how(output),
              sources(output.path("direct")),
              sources(output.path("indirect")));
        }
      }
      if (!table.isEmpty()) {
        print(table);
      }
      if (!statement.path("rows").isEmpty()) {
        out().println("rows decided by: " + deciding(statement.path("rows")));
      }
      for (JsonNode problem : statement.path("problems")) {
        out().println("note: " + text(problem.path("detail")));
      }
      JsonNode output = column == null ? null : output(statement);
      if (output != null) {
        out().println();
        out().print(marked(text, statement, output));
      }
    }
  }

  private @Nullable JsonNode output(JsonNode statement) {
    for (JsonNode output : statement.path("outputs")) {
      if (text(output.path("name")).equalsIgnoreCase(column)) {
        return output;
      }
    }
    return null;
  }

  private static String head(JsonNode statement) {
    String kind = text(statement.path("kind")).replace('-', ' ');
    String target = statement.path("target").isString() ? " " + text(statement.path("target")) : "";
    String temporary = statement.path("temporary").booleanValue() ? " (temporary)" : "";
    String reads =
        statement.path("reads").isEmpty() ? "" : ", reads " + joined(statement.path("reads"));
    return kind + target + temporary + reads;
  }

  private static String how(JsonNode output) {
    var words = new LinkedHashSet<String>();
    for (JsonNode source : output.path("direct")) {
      words.add(
          PathPrinter.words(text(source.path("subtype")))
              + (source.path("masked").booleanValue() ? ", masked" : ""));
    }
    if (output.path("constant").isString()) {
      words.add("constant " + text(output.path("constant")));
    } else if (words.isEmpty() && !output.path("fromRows").isEmpty()) {
      words.add("counts rows of " + joined(output.path("fromRows")));
    }
    return words.isEmpty() ? "-" : String.join("; ", words);
  }

  private static String sources(JsonNode list) {
    var words = new LinkedHashSet<String>();
    for (JsonNode source : list) {
      words.add(
          text(source.path("table"))
              + "#"
              + text(source.path("column"))
              + (source.path("possible").booleanValue() ? " (possible)" : ""));
    }
    return words.isEmpty() ? "-" : String.join(", ", words);
  }

  private static String deciding(JsonNode rows) {
    var words = new ArrayList<String>();
    for (JsonNode row : rows) {
      words.add(
          text(row.path("subtype")).replace('_', ' ').toLowerCase(Locale.ROOT)
              + " "
              + text(row.path("table"))
              + "#"
              + text(row.path("column")));
    }
    return String.join(", ", words);
  }

  /**
   * The statement's text with the parts that compute an output lit; where no colours can be shown,
   * the lines that hold such parts are followed by one that points at them.
   */
  static String marked(String text, JsonNode statement, JsonNode output) {
    int start = statement.path("start").intValue();
    int end = statement.path("end").intValue();
    boolean[] on = new boolean[text.length() + 1];
    for (JsonNode span : output.path("spans")) {
      int to = Math.min(span.path("end").intValue(), text.length());
      for (int i = span.path("start").intValue(); i < to; i++) {
        on[i] = true;
        start = Math.min(start, i);
        end = Math.max(end, i + 1);
      }
    }
    boolean colours = !lit("bold", "x").equals("x");
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
      shown.append(colours && on[at] ? lit("bold,yellow", part) : part);
      pointers.append((on[at] ? "^" : " ").repeat(next - at));
      at = next;
    }
    shown.append('\n');
    if (!colours && pointers.indexOf("^") >= 0) {
      shown.append(pointers.toString().stripTrailing()).append('\n');
    }
  }
}
