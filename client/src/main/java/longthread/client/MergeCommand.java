package longthread.client;

import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ArrayNode;

@Command(
    name = "merge",
    description = "Make two names one asset, hold them apart, or see which names probably are one.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Examples:",
      "  longthread merge transform/mart.payout mart.payout_statement",
      "  longthread merge --separate transform/mart.payout mart.payout_statement",
      "  longthread merge --lead mart.payout_statement",
      "  longthread merge --suggest",
      "  longthread merge --rule '^transform/(mart\\..+)$ => postgres://barn:5432/barn.$1' --dry-run",
      "  longthread merge --copies"
    })
final class MergeCommand extends Stating implements Callable<Integer> {
  @Parameters(arity = "0..2", paramLabel = "NAME", description = "Two names of one thing.")
  private List<String> names = List.of();

  @Option(names = "--separate", description = "Hold the two names apart, whatever joins them.")
  private boolean separate;

  @Option(names = "--forget", description = "Forget what was decided of the two names by hand.")
  private boolean forget;

  @Option(names = "--lead", paramLabel = "NAME", description = "Let this name stand for its asset.")
  private @Nullable String lead;

  @Option(names = "--no-lead", paramLabel = "NAME", description = "Let this name lead no longer.")
  private @Nullable String noLead;

  @Option(
      names = "--rule",
      paramLabel = "'PATTERN => REPLACEMENT'",
      description = "A rule on namespace/name by which all names that fit become others.")
  private @Nullable String rule;

  @Option(names = "--rule-id", paramLabel = "ID", description = "The rule to replace or remove.")
  private @Nullable String ruleId;

  @Option(names = "--remove-rule", description = "Remove the rule of --rule-id.")
  private boolean removeRule;

  @Option(names = "--suggest", description = "List names that probably are one, with the evidence.")
  private boolean suggest;

  @Option(names = "--decline", paramLabel = "ID", description = "Decline a suggestion.")
  private @Nullable String decline;

  @Option(names = "--copies", description = "List tables that are copied column by column.")
  private boolean copies;

  @Override
  public Integer call() {
    if (suggest) {
      return suggestions();
    }
    if (copies) {
      return copies();
    }
    ArrayNode changes = changes();
    if (decline != null) {
      change(changes, "dismissed").put("id", decline).putObject("value");
      return state(changes);
    }
    if (rule != null || removeRule) {
      return rule(changes);
    }
    if (lead != null || noLead != null) {
      var change = change(changes, "lead").put("of", lead != null ? lead : noLead);
      if (lead != null) {
        change.put("value", true);
      } else {
        change.putNull("value");
      }
      return state(changes);
    }
    if (names.size() != 2) {
      throw wrong("Give two names; or --suggest, --rule, --lead or --copies");
    }
    var change = change(changes, "join").put("of", names.get(0)).put("with", names.get(1));
    if (forget) {
      change.putNull("value");
    } else {
      change.put("value", separate ? "apart" : "one");
    }
    return state(changes);
  }

  private int rule(ArrayNode changes) {
    if (removeRule && ruleId == null) {
      throw wrong("Give the rule to remove with --rule-id");
    }
    if (dryRun && rule != null) {
      JsonNode tried =
          service().get("/api/v1/rules/try", Map.of("rule", rule), JsonNode.class).json();
      if (json) {
        printJson(tried);
        return 0;
      }
      var table = new Table("NAME", "BECOMES", "");
      tried.path("joined").forEach(one -> row(table, one, "is known: joined"));
      tried.path("dangling").forEach(one -> row(table, one, "nothing has this name"));
      print(table);
      out().println(tried.path("fits").intValue(0) + " names fit; nothing was changed.");
      return 0;
    }
    var change = change(changes, "rule");
    if (ruleId != null) {
      change.put("id", ruleId);
    }
    if (removeRule) {
      change.putNull("value");
    } else {
      change.putObject("value").put("rule", rule);
    }
    return state(changes);
  }

  private static void row(Table table, JsonNode one, String what) {
    table.row(one.path("name").stringValue(""), one.path("becomes").stringValue(""), what);
  }

  private int suggestions() {
    JsonNode answer =
        service().get("/api/v1/suggestions/merges", Map.of("limit", 1_000), JsonNode.class).json();
    if (json) {
      printJson(answer);
      return 0;
    }
    for (JsonNode one : answer.path("items")) {
      out()
          .printf(
              "%s  is probably  %s%n",
              one.path("with").stringValue(""), one.path("of").stringValue(""));
      one.path("evidence").forEach(line -> out().println("    " + line.stringValue("")));
      if (one.path("rule").isString()) {
        out().println("    rule: " + one.path("rule").stringValue());
      }
      out().println("    to decline: longthread merge --decline " + one.path("id").stringValue(""));
    }
    if (answer.path("items").isEmpty()) {
      out().println("No names look like one asset.");
    }
    return 0;
  }

  private int copies() {
    JsonNode answer =
        service().get("/api/v1/copies", Map.of("limit", 1_000), JsonNode.class).json();
    if (json) {
      printJson(answer);
      return 0;
    }
    var table = new Table("COPIED", "COPY", "COLUMNS", "READERS");
    for (JsonNode copied : answer.path("items")) {
      for (JsonNode copy : copied.path("copies")) {
        table.row(
            copied.path("ref").stringValue(""),
            copy.path("ref").stringValue(""),
            copy.path("copied").intValue(0) + " of " + copy.path("columns").intValue(0),
            "" + copy.path("readers").size());
      }
    }
    print(table);
    return 0;
  }
}
