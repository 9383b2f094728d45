package longthread.client;

import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

@Command(
    name = "term",
    description = "The glossary: list, show, define and remove terms, and see where they belong.",
    mixinStandardHelpOptions = true,
    subcommands = {
      TermCommand.ListTerms.class,
      TermCommand.Show.class,
      TermCommand.Define.class,
      TermCommand.Remove.class,
      TermCommand.Suggest.class
    },
    footer = {
      "",
      "Examples:",
      "  longthread term define 'Net volume' --under 'Milk volume' --definition 'After rinse water'",
      "  longthread term show litres",
      "  longthread term list --csv > terms.csv; longthread edit apply terms.csv --dry-run"
    })
final class TermCommand extends Output implements Callable<Integer> {
  @Override
  public Integer call() {
    spec.commandLine().usage(out());
    return 2;
  }

  @Command(
      name = "list",
      description = "List the terms in the order of their tree.",
      mixinStandardHelpOptions = true)
  static final class ListTerms extends Output implements Callable<Integer> {
    @Parameters(arity = "0..1", paramLabel = "WORD", description = "Only terms with this text.")
    private @Nullable String word;

    @Option(names = "--csv", description = "Print as CSV, for edit apply.")
    private boolean csv;

    @Override
    public Integer call() {
      var parameters = new TreeMap<String, @Nullable Object>();
      parameters.put("q", word);
      if (csv) {
        out().print(service().csv("/api/v1/terms", parameters));
        out().flush();
        return 0;
      }
      parameters.put("limit", 1_000);
      JsonNode answer = service().get("/api/v1/terms", parameters, JsonNode.class).json();
      if (json) {
        printJson(answer);
        return 0;
      }
      var table = new Table("TERM", "ID", "USED", "OWNERS", "DEFINITION");
      for (JsonNode term : answer.path("items")) {
        table.row(
            "  ".repeat(Math.max(0, term.path("path").size() - 1))
                + term.path("name").stringValue(""),
            term.path("id").stringValue(""),
            "" + term.path("uses").intValue(0),
            Stating.value(term.path("owners")),
            term.path("definition").stringValue("-"));
      }
      print(table);
      return 0;
    }
  }

  @Command(
      name = "show",
      description = "Show a term, the terms below it, and what has it.",
      mixinStandardHelpOptions = true)
  static final class Show extends Output implements Callable<Integer> {
    @Parameters(paramLabel = "TERM", description = "Its id, name or a synonym.")
    private String term = "";

    @Override
    public Integer call() {
      JsonNode answer = service().get("/api/v1/term", Map.of("id", term), JsonNode.class).json();
      if (json) {
        printJson(answer);
        return 0;
      }
      JsonNode own = answer.path("term");
      out().println(String.join(" / ", words(own.path("path"))));
      out().println(own.path("definition").stringValue("No definition yet."));
      if (!own.path("synonyms").isEmpty()) {
        out().println("also: " + Stating.value(own.path("synonyms")));
      }
      if (!own.path("owners").isEmpty()) {
        out().println("owners: " + Stating.value(own.path("owners")));
      }
      var table = new Table("HAS IT", "KIND");
      answer
          .path("uses")
          .forEach(
              use -> table.row(use.path("ref").stringValue(""), use.path("kind").stringValue("")));
      print(table);
      return 0;
    }

    private static List<String> words(JsonNode list) {
      var words = new java.util.ArrayList<String>();
      list.forEach(word -> words.add(word.stringValue("")));
      return words;
    }
  }

  @Command(
      name = "define",
      description = "Define a term, or replace its definition.",
      mixinStandardHelpOptions = true)
  static final class Define extends Stating implements Callable<Integer> {
    @Parameters(paramLabel = "NAME", description = "What people call it.")
    private String name = "";

    @Option(
        names = "--id",
        paramLabel = "ID",
        description = "Its id; made of the name unless given.")
    private @Nullable String id;

    @Option(names = "--definition", paramLabel = "TEXT", description = "What it means.")
    private @Nullable String definition;

    @Option(names = "--under", paramLabel = "TERM", description = "The term above it.")
    private @Nullable String under;

    @Option(names = "--owner", paramLabel = "OWNER", description = "Who answers for it.")
    private List<String> owners = List.of();

    @Option(names = "--synonym", paramLabel = "WORD", description = "Another word for it.")
    private List<String> synonyms = List.of();

    @Override
    public Integer call() {
      ArrayNode changes = changes();
      ObjectNode change = change(changes, "term");
      if (id != null) {
        change.put("id", id);
      }
      ObjectNode value = change.putObject("value").put("name", name);
      if (definition != null) {
        value.put("definition", definition);
      }
      if (under != null) {
        value.put("parent", under);
      }
      if (!owners.isEmpty()) {
        texts(value, "owners", owners);
      }
      if (!synonyms.isEmpty()) {
        texts(value, "synonyms", synonyms);
      }
      return state(changes);
    }
  }

  @Command(name = "remove", description = "Remove a term.", mixinStandardHelpOptions = true)
  static final class Remove extends Stating implements Callable<Integer> {
    @Parameters(paramLabel = "TERM", description = "Its id, name or a synonym.")
    private String term = "";

    @Override
    public Integer call() {
      ArrayNode changes = changes();
      change(changes, "term").put("id", term).putNull("value");
      return state(changes);
    }
  }

  @Command(
      name = "suggest",
      description = "List columns that hold copies of one that has a term.",
      mixinStandardHelpOptions = true)
  static final class Suggest extends Output implements Callable<Integer> {
    @Override
    public Integer call() {
      JsonNode answer =
          service().get("/api/v1/suggestions/terms", Map.of("limit", 1_000), JsonNode.class).json();
      if (json) {
        printJson(answer);
        return 0;
      }
      var table = new Table("COLUMN", "TERM", "SINCE IT HOLDS THE VALUES OF", "ID");
      for (JsonNode one : answer.path("items")) {
        table.row(
            one.path("of").stringValue(""),
            one.path("termName").stringValue(""),
            one.path("from").stringValue(""),
            one.path("id").stringValue(""));
      }
      print(table);
      return 0;
    }
  }
}
