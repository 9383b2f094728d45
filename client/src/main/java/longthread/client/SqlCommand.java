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
import longthread.client.answers.SqlStatement;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.JsonNode;

/** Column lineage of SQL files. */
@Command(
    name = "sql",
    description = "Read SQL files: where every output column comes from.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "A folder stands for all files in it that end in .sql; - is standard input. With --column the",
      "text is shown with the parts that compute that column marked. The service stores nothing.",
      "",
      "Examples:",
      "  longthread sql build_payout.sql",
      "  longthread sql build_payout.sql --column amount --dialect postgres",
      "  longthread sql warehouse/ --json"
    })
final class SqlCommand extends Output implements Callable<Integer> {
  private static final List<String> DIALECTS = List.of("ansi", "postgres", "backtick", "bracket");

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

  @Mixin private FailOn failOn = new FailOn();

  private boolean found;
  private boolean complete = true;

  @Override
  public Integer call() {
    failOn.check(spec, "incomplete");
    ClosedWords.check(spec, "--dialect", dialect, DIALECTS);
    List<Path> all = texts();
    var answers = new LinkedHashMap<String, JsonNode>();
    ServiceClient service = service();
    for (Path file : all) {
      String text = read(file);
      var reply = service.postForList("/api/v1/sql/lineage", request(text), SqlStatement.class);
      answers.put(file.toString(), reply.json());
      for (SqlStatement statement : reply.value()) {
        complete &= statement.complete();
      }
      if (!json) {
        print(all.size() > 1 ? file.toString() : null, text, reply.value());
      }
    }
    if (json) {
      printJson(all.size() == 1 ? answers.values().iterator().next() : answers);
    } else if (column != null && !found) {
      throw new ServiceException(
          ServiceException.NOT_FOUND, "no statement has an output column named " + column);
    }
    return failOn.exitCode(word -> !complete);
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
              ServiceException.WRONG_USAGE, file + " cannot be listed: " + FileWords.why(e));
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
          ServiceException.WRONG_USAGE, file + " cannot be read: " + FileWords.why(e));
    }
  }

  /** One call of the service. */
  private record Request(
      String sql,
      @Nullable String dialect,
      @Nullable String defaultSchema,
      @Nullable JsonNode schemas) {}

  private Request request(String text) {
    try {
      JsonNode schemas = tables == null ? null : ServiceClient.MAPPER.readTree(read(tables));
      return new Request(text, dialect, schema, schemas);
    } catch (JacksonException e) {
      throw new ServiceException(
          ServiceException.WRONG_USAGE, tables + " is not JSON: " + e.getOriginalMessage());
    }
  }

  private void print(@Nullable String file, String text, List<SqlStatement> statements) {
    if (file != null) {
      out().printf("%n%s%n", styled("bold", file));
    }
    for (SqlStatement statement : statements) {
      List<SqlStatement.Output> outputs =
          statement.outputs().stream()
              .filter(output -> column == null || output.name().equalsIgnoreCase(column))
              .toList();
      if (column == null || !outputs.isEmpty()) {
        found = true;
        print(text, statement, outputs);
      }
    }
  }

  private void print(String text, SqlStatement statement, List<SqlStatement.Output> outputs) {
    out().printf("%n%s%n", head(statement));
    var table = new Table("COLUMN", "HOW", "FROM", "DECIDED BY");
    for (SqlStatement.Output output : outputs) {
      table.row(output.name(), how(output), sources(output.direct()), sources(output.indirect()));
    }
    if (!table.isEmpty()) {
      print(table);
    }
    if (!statement.rows().isEmpty()) {
      out().println("columns that filter, join or group: " + deciding(statement.rows()));
    }
    statement.problems().forEach(problem -> out().println("note: " + problem.detail()));
    if (column != null) {
      out().println();
      out().print(SqlMarks.of(text, statement, outputs.get(0)));
    }
  }

  private static String head(SqlStatement statement) {
    return ClosedWords.spoken(statement.kind())
        + (statement.target() == null ? "" : " " + statement.target())
        + (statement.temporary() ? " (temporary)" : "")
        + (statement.reads().isEmpty() ? "" : ", reads " + joined(statement.reads()));
  }

  private static String how(SqlStatement.Output output) {
    var words = new LinkedHashSet<String>();
    output
        .direct()
        .forEach(source -> words.add(source.how() + (source.masked() ? ", masked" : "")));
    if (output.constant() != null) {
      words.add("constant " + output.constant());
    } else if (words.isEmpty() && !output.fromRows().isEmpty()) {
      words.add("counts rows of " + joined(output.fromRows()));
    }
    return words.isEmpty() ? "-" : String.join("; ", words);
  }

  private static String sources(List<SqlStatement.Source> list) {
    var words = new LinkedHashSet<String>();
    for (SqlStatement.Source source : list) {
      words.add(source.table() + "#" + source.column() + (source.possible() ? " (possible)" : ""));
    }
    return words.isEmpty() ? "-" : String.join(", ", words);
  }

  private static String deciding(List<SqlStatement.Source> rows) {
    return joined(
        rows.stream()
            .map(row -> ClosedWords.spoken(row.subtype()) + " " + row.table() + "#" + row.column())
            .toList());
  }
}
