package longthread.client;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/** The commands by which a steward says what labels are, what gets them, and where they may be. */
final class LabelSettings {
  private LabelSettings() {}

  private static void texts(ObjectNode value, String member, List<String> words) {
    if (!words.isEmpty()) {
      Stating.texts(value, member, words);
    }
  }

  @Command(
      name = "define",
      description = "Define a label, or replace its definition.",
      mixinStandardHelpOptions = true)
  static final class Define extends Stating implements Callable<Integer> {
    @Parameters(paramLabel = "TITLE", description = "What people call it.")
    private String title = "";

    @Option(
        names = "--id",
        paramLabel = "ID",
        description = "Its id; made of the title unless given.")
    private @Nullable String id;

    @Option(
        names = "--level",
        paramLabel = "1-4",
        description = "How careful one has to be with it; 2 without it.")
    private int level = 2;

    @Option(
        names = "--category",
        paramLabel = "WORD",
        description = "What sort of thing it is about.")
    private @Nullable String category;

    @Option(names = "--definition", paramLabel = "TEXT", description = "What it means.")
    private @Nullable String definition;

    @Option(names = "--tag", paramLabel = "TAG", description = "A tag of sources that sets it.")
    private List<String> tags = List.of();

    @Option(names = "--into-sums", description = "It goes on into sums and counts.")
    private boolean intoSums;

    @Option(names = "--into-decisions", description = "It goes on into what it only decides.")
    private boolean intoDecisions;

    @Option(names = "--through-masks", description = "It goes on through hashes and masks.")
    private boolean throughMasks;

    @Override
    public Integer call() {
      ArrayNode changes = changes();
      ObjectNode change = change(changes, "label");
      if (id != null) {
        change.put("id", id);
      }
      ObjectNode value = change.putObject("value").put("title", title).put("level", level);
      if (category != null) {
        value.put("category", category);
      }
      if (definition != null) {
        value.put("definition", definition);
      }
      LabelSettings.texts(value, "words", tags);
      value.put("overAggregation", intoSums).put("overConditional", intoDecisions);
      value.put("overMasks", throughMasks);
      return state(changes);
    }
  }

  @Command(
      name = "remove",
      description = "Remove a label; it is nowhere any more.",
      mixinStandardHelpOptions = true)
  static final class Remove extends Stating implements Callable<Integer> {
    @Parameters(paramLabel = "LABEL", description = "Its id.")
    private String label = "";

    @Override
    public Integer call() {
      JsonNode known =
          service()
              .get("/api/v1/label", Map.of("id", label, "limit", 1), JsonNode.class)
              .json()
              .path("label");
      ArrayNode changes = changes();
      // Labels that come with the product are retired: they would be there again without a word.
      change(changes, "label")
          .put("id", known.path("id").stringValue(""))
          .putObject("value")
          .put("title", known.path("title").stringValue(""))
          .put("retired", true);
      return state(changes);
    }
  }

  /** The conditions of a rule. */
  static final class Conditions {
    @Option(
        names = "--name",
        paramLabel = "NAME",
        split = ",",
        description = "Names of columns; * stands for any letters.")
    private List<String> names = List.of();

    @Option(
        names = "--except",
        paramLabel = "NAME",
        split = ",",
        description = "Names that do not count though they fit.")
    private List<String> except = List.of();

    @Option(
        names = "--type",
        paramLabel = "TYPE",
        split = ",",
        description = "Only columns of these types, such as varchar*.")
    private List<String> types = List.of();

    @Option(
        names = "--term",
        paramLabel = "TERM",
        split = ",",
        description = "Only columns with one of these glossary terms.")
    private List<String> terms = List.of();

    @Option(
        names = "--system",
        paramLabel = "SYSTEM",
        split = ",",
        description = "Only columns in these systems.")
    private List<String> systems = List.of();

    private Map<String, List<String>> all() {
      return Map.of(
          "names", names, "except", except, "types", types, "terms", terms, "systems", systems);
    }
  }

  @Command(
      name = "try",
      description = "Show which columns a rule would label, before it is set.",
      mixinStandardHelpOptions = true)
  static final class Try extends ListOutput implements Callable<Integer> {
    @Parameters(paramLabel = "LABEL", description = "The label that the rule gives.")
    private String label = "";

    @Mixin private Conditions conditions = new Conditions();

    @Override
    public Integer call() {
      var parameters = new TreeMap<String, @Nullable Object>();
      parameters.put("label", label);
      conditions
          .all()
          .forEach(
              (name, words) ->
                  parameters.put(name, words.isEmpty() ? null : String.join(",", words)));
      JsonNode answer = service().get("/api/v1/labels/try", parameters, JsonNode.class).json();
      if (json) {
        printJson(answer);
        return 0;
      }
      var rows = new ArrayList<List<String>>();
      for (JsonNode column : answer.path("columns")) {
        rows.add(
            List.of(
                column.path("name").stringValue(""),
                column.path("type").stringValue("-"),
                column.path("system").stringValue(""),
                column.path("has").booleanValue(false) ? "has it already" : "would get it"));
      }
      printList(
          List.of("COLUMN", "TYPE", "SYSTEM", label.toUpperCase(java.util.Locale.ROOT)), rows);
      if (!csv) {
        out()
            .println(
                answer.path("fits").intValue(0)
                    + " columns fit, "
                    + answer.path("added").intValue(0)
                    + " of them would get the label.");
      }
      return 0;
    }
  }

  @Command(
      name = "rule",
      description = "Label columns by names, types or terms; without conditions list the rules.",
      mixinStandardHelpOptions = true)
  static final class Rule extends Stating implements Callable<Integer> {
    @Parameters(
        arity = "0..1",
        paramLabel = "LABEL",
        description = "The label that the rule gives.")
    private @Nullable String label;

    @Mixin private Conditions conditions = new Conditions();

    @Option(names = "--id", paramLabel = "ID", description = "Under which it is kept.")
    private @Nullable String id;

    @Option(names = "--remove", paramLabel = "ID", description = "Remove this rule.")
    private @Nullable String removed;

    @Override
    public Integer call() {
      if (removed != null) {
        ArrayNode changes = changes();
        change(changes, "label-rule").put("id", removed).putNull("value");
        return state(changes);
      }
      if (label == null) {
        return list(
            "/api/v1/labels/rules",
            this,
            List.of("LABEL", "NAMES", "EXCEPT", "TYPES", "TERMS", "SYSTEMS", "BY", "ID"),
            rule ->
                List.of(
                    rule.path("label").stringValue(""),
                    Stating.value(rule.path("names")),
                    Stating.value(rule.path("except")),
                    Stating.value(rule.path("types")),
                    Stating.value(rule.path("terms")),
                    Stating.value(rule.path("systems")),
                    rule.path("by").stringValue(""),
                    rule.path("id").stringValue("")));
      }
      ArrayNode changes = changes();
      ObjectNode change = change(changes, "label-rule");
      if (id != null) {
        change.put("id", id);
      }
      ObjectNode value = change.putObject("value").put("label", label);
      conditions.all().forEach((name, words) -> LabelSettings.texts(value, name, words));
      return state(changes);
    }
  }

  /** Prints a list of what is set. */
  private static int list(
      String path,
      Output out,
      List<String> heading,
      java.util.function.Function<JsonNode, List<String>> row) {
    JsonNode answer = out.service().get(path, Map.of("limit", 1_000), JsonNode.class).json();
    if (out.json) {
      out.printJson(answer);
      return 0;
    }
    var table = new Table(heading.toArray(String[]::new));
    answer.path("items").forEach(item -> table.row(row.apply(item).toArray(String[]::new)));
    out.print(table);
    return 0;
  }

  @Command(
      name = "stop",
      description =
          "End a label at an asset or column, until a review; without NAME list the stops.",
      mixinStandardHelpOptions = true)
  static final class Stop extends Stating implements Callable<Integer> {
    @Parameters(index = "0", arity = "0..1", paramLabel = "LABEL", description = "Its id.")
    private @Nullable String label;

    @Parameters(index = "1", arity = "0..1", paramLabel = "NAME", description = "Where it ends.")
    private @Nullable String name;

    @Option(
        names = "--review",
        paramLabel = "DATE",
        description = "When somebody is to look at it again, such as 2027-03-31.")
    private @Nullable String review;

    @Option(names = "--remove", paramLabel = "ID", description = "Take this stop away.")
    private @Nullable String removed;

    @Override
    public Integer call() {
      ArrayNode changes = changes();
      if (removed != null) {
        change(changes, "label-stop").put("id", removed).putNull("value");
        return state(changes);
      }
      if (label == null || name == null) {
        return list(
            "/api/v1/labels/stops",
            this,
            List.of("LABEL", "ENDS AT", "REASON", "BY", "REVIEW", "ID"),
            stop ->
                List.of(
                    stop.path("label").stringValue(""),
                    stop.path("ref").stringValue(""),
                    stop.path("reason").stringValue(""),
                    stop.path("by").stringValue(""),
                    Json.time(stop.path("review")),
                    stop.path("id").stringValue("")));
      }
      if (reason.isBlank() || review == null) {
        throw wrong("Say why with --reason, and with --review when to look at it again");
      }
      change(changes, "label-stop")
          .putObject("value")
          .put("label", label)
          .put("at", name)
          .put("reason", reason)
          .put("review", review);
      return state(changes);
    }
  }

  @Command(
      name = "policy",
      description = "Say where a label may be, or may not; without LABEL list the policies.",
      mixinStandardHelpOptions = true)
  static final class Policy extends Stating implements Callable<Integer> {
    @Parameters(arity = "0..1", paramLabel = "LABEL", description = "Its id.")
    private @Nullable String label;

    @Option(names = "--forbid", description = "It may not be there.")
    private boolean forbid;

    @Option(names = "--allow", description = "It may be there, whatever else forbids it.")
    private boolean allow;

    @Option(
        names = "--kind",
        paramLabel = "KIND",
        split = ",",
        description = "In assets of these kinds, such as report,dashboard.")
    private List<String> kinds = List.of();

    @Option(
        names = "--system",
        paramLabel = "SYSTEM",
        split = ",",
        description = "In these systems.")
    private List<String> systems = List.of();

    @Option(
        names = "--workspace",
        paramLabel = "TITLE",
        split = ",",
        description = "In these workspaces.")
    private List<String> workspaces = List.of();

    @Option(
        names = "--audience",
        paramLabel = "READERS",
        split = ",",
        description = "Where any of these read; with --allow, where only these do.")
    private List<String> audience = List.of();

    @Option(
        names = "--location",
        paramLabel = "PLACE",
        split = ",",
        description = "Where the namespace, or a tag location, is this; * stands for any letters.")
    private List<String> locations = List.of();

    @Option(names = "--id", paramLabel = "ID", description = "Under which it is kept.")
    private @Nullable String id;

    @Option(names = "--remove", paramLabel = "ID", description = "Remove this policy.")
    private @Nullable String removed;

    @Override
    public Integer call() {
      ArrayNode changes = changes();
      if (removed != null) {
        change(changes, "label-policy").put("id", removed).putNull("value");
        return state(changes);
      }
      if (label == null) {
        return list(
            "/api/v1/labels/policies",
            this,
            List.of("LABEL", "", "KINDS", "SYSTEMS", "WORKSPACES", "AUDIENCE", "LOCATIONS", "ID"),
            policy ->
                List.of(
                    policy.path("label").stringValue(""),
                    policy.path("allowed").booleanValue(false) ? "may be in" : "may not be in",
                    Stating.value(policy.path("kinds")),
                    Stating.value(policy.path("systems")),
                    Stating.value(policy.path("workspaces")),
                    Stating.value(policy.path("audience")),
                    Stating.value(policy.path("locations")),
                    policy.path("id").stringValue("")));
      }
      if (forbid == allow) {
        throw wrong("Give either --forbid or --allow");
      }
      ObjectNode change = change(changes, "label-policy");
      if (id != null) {
        change.put("id", id);
      }
      ObjectNode value = change.putObject("value").put("label", label).put("allowed", allow);
      LabelSettings.texts(value, "kinds", kinds);
      LabelSettings.texts(value, "systems", systems);
      LabelSettings.texts(value, "workspaces", workspaces);
      LabelSettings.texts(value, "audience", audience);
      LabelSettings.texts(value, "locations", locations);
      return state(changes);
    }
  }

  @Command(
      name = "mask",
      description = "Say how much of labelled values a role sees; without LABEL list it.",
      mixinStandardHelpOptions = true)
  static final class Mask extends Stating implements Callable<Integer> {
    private static final List<String> ROLES = List.of("reader", "steward", "admin");
    private static final List<String> SHOWN =
        List.of("shown", "generalised", "partial", "hashed", "hidden");

    @Parameters(arity = "0..1", paramLabel = "LABEL", description = "Its id.")
    private @Nullable String label;

    @Option(names = "--role", paramLabel = "ROLE", description = "reader, steward or admin.")
    private @Nullable String role;

    @Option(
        names = "--show",
        paramLabel = "HOW",
        description = "shown, generalised, partial, hashed or hidden.")
    private @Nullable String shown;

    @Override
    public Integer call() {
      ClosedWords.check(spec, "--role", role, ROLES);
      ClosedWords.check(spec, "--show", shown, SHOWN);
      if (label == null) {
        return list(
            "/api/v1/labels/masks",
            this,
            List.of("LABEL", "ROLE", "SEES", "SET BY"),
            mask ->
                List.of(
                    mask.path("label").stringValue(""),
                    mask.path("role").stringValue(""),
                    mask.path("shown").stringValue(""),
                    mask.path("by").stringValue("by its level")));
      }
      if (role == null || shown == null) {
        throw wrong("Give --role and --show");
      }
      ArrayNode changes = changes();
      change(changes, "label-mask")
          .putObject("value")
          .put("label", label)
          .put("role", role)
          .put("shown", shown);
      return state(changes);
    }
  }

  @Command(
      name = "work",
      description = "List what is left to do: suggestions, disagreements, reviews; or coverage.",
      mixinStandardHelpOptions = true)
  static final class Work extends Output implements Callable<Integer> {
    private static final List<String> WHAT =
        List.of("suggestions", "disagreements", "reviews", "coverage");

    @Parameters(
        arity = "0..1",
        paramLabel = "WHAT",
        description = "suggestions, disagreements, reviews or coverage; suggestions without it.")
    private String what = "suggestions";

    @Override
    public Integer call() {
      ClosedWords.check(spec, "WHAT", what, WHAT);
      String path = "/api/v1/labels/" + what;
      return switch (what) {
        case "suggestions" ->
            list(
                path,
                this,
                List.of("COLUMN", "LABEL", "BECAUSE", "OWNERS", "ID"),
                one ->
                    List.of(
                        one.path("name").stringValue(""),
                        one.path("label").stringValue(""),
                        Json.words(one.path("evidence")),
                        Json.owners(one.path("owners")),
                        one.path("id").stringValue("")));
        case "disagreements" ->
            list(
                path,
                this,
                List.of("COLUMN", "SOURCES SAY", "OWNERS"),
                one ->
                    List.of(
                        one.path("name").stringValue(""),
                        sources(one.path("sources")),
                        Json.owners(one.path("owners"))));
        case "reviews" ->
            list(
                path,
                this,
                List.of("DUE", "WHAT", "LABEL", "WHERE", "REASON", "BY"),
                one ->
                    List.of(
                        Json.time(one.path("due"))
                            + (one.path("isDue").booleanValue(false) ? " (now)" : ""),
                        ClosedWords.spoken(one.path("what").stringValue("")),
                        one.path("label").stringValue(""),
                        one.path("name").stringValue(""),
                        one.path("reason").stringValue(""),
                        one.path("by").stringValue("")));
        default ->
            list(
                path,
                this,
                List.of("SYSTEM", "COLUMNS", "LABELLED", "PERHAPS", "SUGGESTED"),
                one ->
                    List.of(
                        one.path("system").stringValue(""),
                        "" + one.path("columns").intValue(0),
                        "" + one.path("labelled").intValue(0),
                        "" + one.path("perhaps").intValue(0),
                        "" + one.path("suggested").intValue(0)));
      };
    }

    private static String sources(JsonNode sources) {
      var words = new ArrayList<String>();
      for (JsonNode source : sources) {
        String labels = Json.words(source.path("labels"));
        words.add(
            source.path("part").stringValue("") + ": " + (labels.isEmpty() ? "none" : labels));
      }
      return String.join("; ", words);
    }
  }
}
