package longthread.client;

import java.io.IOException;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.ParameterException;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

@Command(
    name = "change",
    description = "Planned changes: propose, look at, agree, and see what became of them.",
    mixinStandardHelpOptions = true,
    subcommands = {
      ChangeCommand.Propose.class,
      ChangeCommand.All.class,
      ChangeCommand.Show.class,
      ChangeCommand.Compare.class,
      ChangeCommand.Move.class,
      ChangeCommand.Answer.class
    },
    footer = {
      "",
      "Examples:",
      "  longthread change propose rename-litres.yaml",
      "  longthread change list --state proposed",
      "  longthread change answer 3f2c… 'Payout office' agrees",
      "  longthread change move 3f2c… done"
    })
final class ChangeCommand {
  private static final List<String> STATES = List.of("proposed", "agreed", "done", "withdrawn");
  private static final String ONE = "/api/v1/planned-change";
  private static final String ALL = "/api/v1/planned-changes";
  private static final int SCREENFUL = 40;

  /** What every command prints that has one change as its answer. */
  private abstract static class OneChange extends Output {
    /** Prints a change whole. */
    void print(JsonNode change) {
      if (json) {
        printJson(change);
        return;
      }
      out()
          .println(
              change.path("title").stringValue("")
                  + " ("
                  + change.path("state").stringValue("")
                  + ")");
      out().println("id " + change.path("id").stringValue(""));
      out()
          .println(
              "planned by "
                  + change.path("author").stringValue("")
                  + (change.path("planned").isString()
                      ? " for " + Json.time(change.path("planned"))
                      : ""));
      if (change.path("reason").isString()) {
        out().println(change.path("reason").stringValue().strip());
      }
      out().println();
      for (JsonNode step : change.path("steps")) {
        String to = step.path("to").stringValue("");
        out()
            .println(
                "  "
                    + step.path("change").stringValue("")
                    + " "
                    + step.path("of").stringValue("")
                    + (to.isEmpty() ? "" : " to " + to));
      }
      if (change.path("problem").isString()) {
        out().println("\nCannot be judged again: " + change.path("problem").stringValue());
      }
      printItems(change);
      printOwners(change);
      if (!change.path("since").isEmpty()) {
        out().println("\nJudged otherwise since it was proposed:");
        change.path("since").forEach(words -> out().println("  " + words.stringValue("")));
      }
      printOutcome(change.path("outcome"));
    }

    private void printItems(JsonNode change) {
      if (change.path("items").isEmpty()) {
        out().println("\nIt touches nothing.");
        return;
      }
      out().println();
      var table = new Table("VERDICT", "HOPS", "KIND", "NAME", "OWNERS");
      for (JsonNode item : change.path("items")) {
        boolean possible = item.path("certainty").stringValue("").equals("possible");
        table.row(
            ClosedWords.spoken(item.path("verdict").stringValue(""))
                + (possible ? " (possible)" : ""),
            "" + item.path("hops").intValue(),
            item.path("kind").stringValue(""),
            item.path("name").stringValue(""),
            Json.words(item.path("owners")).isEmpty() ? "-" : Json.words(item.path("owners")));
      }
      print(table);
    }

    private void printOwners(JsonNode change) {
      if (change.path("owners").isEmpty()) {
        return;
      }
      out().println();
      var table = new Table("OWNER", "ITEMS", "WORST", "ANSWER", "BY", "NOTE");
      for (JsonNode owner : change.path("owners")) {
        table.row(
            owner.path("owner").stringValue(""),
            "" + owner.path("items").intValue(),
            ClosedWords.spoken(owner.path("worst").stringValue("")),
            owner.path("answer").stringValue("not yet"),
            Json.text(owner.path("by")),
            Json.text(owner.path("note")));
      }
      print(table);
    }

    private void printOutcome(JsonNode outcome) {
      if (!outcome.isObject()) {
        return;
      }
      out()
          .println(
              "\nForetold against occurred, "
                  + Json.time(outcome.path("from"))
                  + " to "
                  + Json.time(outcome.path("until"))
                  + (outcome.path("over").booleanValue() ? "" : " (not over)")
                  + ": "
                  + outcome.path("hits").intValue()
                  + " hits, "
                  + outcome.path("misses").intValue()
                  + " misses, "
                  + outcome.path("falseAlarms").intValue()
                  + " false alarms, "
                  + outcome.path("open").intValue()
                  + " open");
      var table = new Table("", "NAME", "FORETOLD", "OCCURRED", "AT");
      for (JsonNode one : outcome.path("occurrences")) {
        table.row(
            ClosedWords.spoken(one.path("kind").stringValue("")),
            one.path("name").stringValue(""),
            one.path("foretold").isString()
                ? ClosedWords.spoken(one.path("foretold").stringValue())
                : "nothing",
            one.path("occurred").stringValue("nothing"),
            Json.time(one.path("at")));
      }
      print(table);
    }

    JsonNode send(String path, Map<String, @Nullable String> parameters) {
      var query = new ArrayList<String>();
      parameters.forEach(
          (name, value) -> {
            if (value != null) {
              query.add(name + "=" + URLEncoder.encode(value, StandardCharsets.UTF_8));
            }
          });
      return service().post(path + "?" + String.join("&", query), null, JsonNode.class).json();
    }
  }

  @Command(
      name = "propose",
      description =
          "Propose a change that a YAML or JSON document describes; it is judged and kept.",
      mixinStandardHelpOptions = true,
      footer = {"", "Examples:", "  longthread change propose rename-litres.yaml"})
  static final class Propose extends OneChange implements Callable<Integer> {
    @Parameters(paramLabel = "FILE", description = "The document.")
    private Path file = Path.of("");

    @Override
    public Integer call() {
      byte[] document;
      try {
        document = Files.readAllBytes(file);
      } catch (IOException e) {
        throw new ParameterException(
            spec.commandLine(), "cannot read " + file + ": " + FileWords.why(e));
      }
      print(service().state(ALL, Map.of(), "application/yaml", document));
      return 0;
    }
  }

  @Command(
      name = "list",
      description = "List planned changes, newest first.",
      mixinStandardHelpOptions = true,
      footer = {
        "",
        "Examples:",
        "  longthread change list --state proposed",
        "  longthread change list --touching mart.payout_statement"
      })
  static final class All extends ListOutput implements Callable<Integer> {
    @Option(
        names = "--state",
        paramLabel = "STATE",
        description = "Only in this state: proposed, agreed, done or withdrawn.")
    private @Nullable String state;

    @Option(
        names = "--touching",
        paramLabel = "NAME",
        description = "Only what touches this asset.")
    private @Nullable String touching;

    @Override
    public Integer call() {
      ClosedWords.check(spec, "--state", state, STATES);
      var parameters = new TreeMap<String, @Nullable Object>();
      parameters.put("state", state);
      parameters.put("ref", touching);
      parameters.put("limit", paging.orElse(csv ? 1_000 : SCREENFUL));
      JsonNode answer = service().get(ALL, parameters, JsonNode.class).json();
      if (json) {
        printJson(answer);
        return 0;
      }
      var rows = new ArrayList<List<String>>();
      for (JsonNode change : answer.path("items")) {
        JsonNode verdicts = change.path("verdicts");
        rows.add(
            List.of(
                change.path("state").stringValue(""),
                change.path("title").stringValue(""),
                Json.time(change.path("planned")),
                "" + verdicts.path("breaks").intValue(),
                "" + verdicts.path("goes-stale").intValue(),
                ""
                    + (verdicts.path("values-shift").intValue()
                        + verdicts.path("rows-shift").intValue()),
                answers(change.path("owners")),
                change.path("author").stringValue(""),
                change.path("id").stringValue("")));
      }
      if (rows.isEmpty() && !csv) {
        note("no change is planned; longthread change propose FILE plans one");
        return 0;
      }
      printList(
          List.of(
              "STATE", "TITLE", "PLANNED", "BREAK", "STALE", "SHIFT", "ANSWERED", "AUTHOR", "ID"),
          rows);
      return 0;
    }

    private static String answers(JsonNode owners) {
      int answered = 0;
      int objects = 0;
      for (JsonNode owner : owners) {
        answered += owner.path("answer").isString() ? 1 : 0;
        objects += owner.path("answer").stringValue("").equals("objects") ? 1 : 0;
      }
      String all = answered + " of " + owners.size();
      return objects == 0 ? all : all + ", " + objects + " object";
    }
  }

  @Command(
      name = "show",
      description = "Show what a planned change does, whom it concerns, and what became of it.",
      mixinStandardHelpOptions = true,
      footer = {"", "Examples:", "  longthread change show 3f2c…"})
  static final class Show extends OneChange implements Callable<Integer> {
    @Parameters(paramLabel = "ID", description = "The change, as 'change list' has it.")
    private String id = "";

    @Override
    public Integer call() {
      print(service().get(ONE, Map.of("id", id), JsonNode.class).json());
      return 0;
    }
  }

  @Command(
      name = "compare",
      description = "Compare two planned changes: what each does to what either touches.",
      mixinStandardHelpOptions = true,
      footer = {"", "Examples:", "  longthread change compare 3f2c… 8a01…"})
  static final class Compare extends Output implements Callable<Integer> {
    @Parameters(index = "0", paramLabel = "ID", description = "A change.")
    private String id = "";

    @Parameters(index = "1", paramLabel = "ID", description = "Another change.")
    private String other = "";

    @Override
    public Integer call() {
      JsonNode found =
          service().get(ONE + "/compare", Map.of("id", id, "with", other), JsonNode.class).json();
      if (json) {
        printJson(found);
        return 0;
      }
      out()
          .println(
              found.path("title").stringValue("")
                  + " against "
                  + found.path("otherTitle").stringValue("")
                  + ": "
                  + found.path("different").intValue()
                  + " of "
                  + found.path("items").size()
                  + " are different\n");
      var table = new Table("", "KIND", "NAME", "FIRST", "SECOND");
      for (JsonNode item : found.path("items")) {
        table.row(
            item.path("same").booleanValue() ? "same" : "different",
            item.path("kind").stringValue(""),
            item.path("name").stringValue(""),
            verdict(item.path("verdict"), item.path("certainty")),
            verdict(item.path("otherVerdict"), item.path("otherCertainty")));
      }
      print(table);
      return 0;
    }

    private static String verdict(JsonNode verdict, JsonNode certainty) {
      if (!verdict.isString()) {
        return "not touched";
      }
      boolean possible = certainty.stringValue("").equals("possible");
      return ClosedWords.spoken(verdict.stringValue()) + (possible ? " (possible)" : "");
    }
  }

  @Command(
      name = "move",
      description = "Say that a change is agreed, done, withdrawn, or proposed again.",
      mixinStandardHelpOptions = true,
      footer = {"", "Examples:", "  longthread change move 3f2c… done"})
  static final class Move extends OneChange implements Callable<Integer> {
    @Parameters(index = "0", paramLabel = "ID", description = "The change.")
    private String id = "";

    @Parameters(
        index = "1",
        paramLabel = "STATE",
        description = "agreed, done, withdrawn or proposed.")
    private String state = "";

    @Override
    public Integer call() {
      ClosedWords.check(spec, "STATE", state, STATES);
      print(send(ALL + "/state", Map.of("id", id, "to", state)));
      return 0;
    }
  }

  @Command(
      name = "answer",
      description = "Answer to a change in the name of an owner whom it concerns.",
      mixinStandardHelpOptions = true,
      footer = {
        "",
        "Examples:",
        "  longthread change answer 3f2c… 'Payout office' objects --note 'not in May'"
      })
  static final class Answer extends OneChange implements Callable<Integer> {
    @Parameters(index = "0", paramLabel = "ID", description = "The change.")
    private String id = "";

    @Parameters(
        index = "1",
        paramLabel = "OWNER",
        description = "An owner that 'change show' lists.")
    private String owner = "";

    @Parameters(index = "2", paramLabel = "ANSWER", description = "agrees or objects.")
    private String answer = "";

    @Option(names = "--note", paramLabel = "TEXT", description = "Why, or what is still needed.")
    private @Nullable String note;

    @Override
    public Integer call() {
      ClosedWords.check(spec, "ANSWER", answer, List.of("agrees", "objects"));
      var parameters = new TreeMap<String, @Nullable String>();
      parameters.put("id", id);
      parameters.put("owner", owner);
      parameters.put("answer", answer);
      parameters.put("note", note);
      print(send(ALL + "/answer", parameters));
      return 0;
    }
  }
}
