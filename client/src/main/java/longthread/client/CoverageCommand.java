package longthread.client;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.TreeMap;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ArrayNode;

@Command(
    name = "coverage",
    description =
        "Of how much lineage is known, by system; what is missing, as a list to work off.",
    mixinStandardHelpOptions = true,
    subcommands = {CoverageCommand.Missing.class, CoverageCommand.Ignore.class},
    footer = {
      "",
      "Examples:",
      "  longthread coverage",
      "  longthread coverage missing --kind never-written",
      "  longthread coverage missing --fail-on silent-emitter",
      "  longthread coverage ignore 'never-written:collect/pickup' --reason 'filled by hand'"
    })
final class CoverageCommand extends Output implements Callable<Integer> {
  @Option(names = "--system", paramLabel = "SYSTEM", description = "Only this system.")
  private @Nullable String system;

  @Option(names = "--csv", description = "Print as CSV.")
  private boolean csv;

  @Override
  public Integer call() {
    var parameters = new TreeMap<String, @Nullable Object>();
    parameters.put("system", system);
    parameters.put("limit", 1_000);
    JsonNode answer = service().get("/api/v1/coverage", parameters, JsonNode.class).json();
    if (json) {
      printJson(answer);
      return 0;
    }
    var rows = new ArrayList<List<String>>();
    for (JsonNode one : answer.path("items")) {
      rows.add(
          List.of(
              one.path("workspace").isString()
                  ? "  " + one.path("workspace").stringValue()
                  : one.path("system").stringValue(""),
              "" + one.path("assets").intValue(0),
              String.format(Locale.ROOT, "%.0f %%", 100 * one.path("share").doubleValue(0)),
              "" + one.path("columnLevel").intValue(0),
              "" + one.path("tableLevel").intValue(0),
              "" + one.path("noLineage").intValue(0),
              Stating.value(one.path("evidence"))));
    }
    List<String> heading =
        List.of("SYSTEM", "ASSETS", "KNOWN", "BY COLUMN", "BY TABLE", "UNKNOWN", "EVIDENCE");
    if (csv) {
      ListOutput.printCsv(out(), heading, rows);
    } else {
      var table = new Table(heading.toArray(String[]::new));
      rows.forEach(row -> table.row(row.toArray(String[]::new)));
      print(table);
    }
    return 0;
  }

  @Command(
      name = "missing",
      description = "List blind spots: what the catalog has reason to expect and does not have.",
      mixinStandardHelpOptions = true)
  static final class Missing extends ListOutput implements Callable<Integer> {
    private static final int SCREENFUL = 40;
    private static final List<String> KINDS =
        List.of(
            "silent-emitter",
            "unmatched-source",
            "never-written",
            "sql-not-understood",
            "job-without-outputs",
            "never-observed",
            "recorded-questioned",
            "recorded-ending",
            "recorded-ended",
            "unowned",
            "over-merged");

    @Option(names = "--kind", paramLabel = "KIND", description = "Only this kind of blind spot.")
    private @Nullable String kind;

    @Option(names = "--system", paramLabel = "SYSTEM", description = "Only in this system.")
    private @Nullable String system;

    @Option(names = "--ignored", description = "List those that were set aside, with the reason.")
    private boolean ignored;

    @Mixin private FailOn failOn = new FailOn();

    @Override
    public Integer call() {
      ClosedWords.check(spec, "--kind", kind, KINDS);
      failOn.check(spec, KINDS.toArray(String[]::new));
      var parameters = new TreeMap<String, @Nullable Object>();
      parameters.put("kind", kind);
      parameters.put("system", system);
      parameters.put("ignored", ignored ? "true" : null);
      parameters.put("limit", paging.orElse(csv ? 1_000 : SCREENFUL));
      JsonNode answer = service().get("/api/v1/blind-spots", parameters, JsonNode.class).json();
      if (json) {
        printJson(answer);
      } else {
        var rows = new ArrayList<List<String>>();
        for (JsonNode spot : answer.path("items")) {
          rows.add(
              List.of(
                  ClosedWords.spoken(spot.path("kind").stringValue("")),
                  spot.path("name").stringValue("") + " in " + spot.path("system").stringValue(""),
                  spot.path("ignored").isObject()
                      ? spot.path("ignored").path("by").stringValue("")
                          + ": "
                          + spot.path("ignored").path("reason").stringValue("")
                      : spot.path("why").stringValue(""),
                  "" + spot.path("rests").intValue(0),
                  spot.path("since").stringValue("-").replaceFirst("T.*", ""),
                  spot.path("action").stringValue(""),
                  spot.path("id").stringValue("")));
        }
        printList(
            List.of("WHAT IS MISSING", "WHERE", "WHY", "RESTS ON IT", "SINCE", "HELPS", "ID"),
            rows);
        int more = answer.path("total").intValue(0) - answer.path("items").size();
        if (more > 0 && !csv) {
          note(more + " more; --limit N lists them");
        }
      }
      JsonNode counts = answer.path("counts");
      return failOn.exitCode(word -> counts.path(word).intValue(0) > 0);
    }
  }

  @Command(
      name = "ignore",
      description = "Set a blind spot aside, with a reason.",
      mixinStandardHelpOptions = true)
  static final class Ignore extends Stating implements Callable<Integer> {
    @Parameters(
        paramLabel = "ID",
        description = "Its id, as coverage missing lists it; or a kind, with --system.")
    private String id = "";

    @Option(
        names = "--system",
        paramLabel = "SYSTEM",
        description = "Set aside all of this kind in a system, also those to come.")
    private @Nullable String system;

    @Option(names = "--until", paramLabel = "DATE", description = "When to list it again.")
    private @Nullable String until;

    @Option(names = "--again", description = "List it again from now on.")
    private boolean again;

    @Override
    public Integer call() {
      if (!again && reason.isBlank()) {
        throw wrong("Say why with --reason: others will read it");
      }
      ArrayNode changes = changes();
      if (system != null) {
        ClosedWords.check(spec, "ID", id, Missing.KINDS);
      }
      var change =
          change(changes, "dismissed").put("id", system == null ? id : id + ":system:" + system);
      if (again) {
        change.putNull("value");
      } else {
        var value = change.putObject("value");
        if (until != null) {
          value.put("until", until.length() == 10 ? until + "T00:00:00Z" : until);
        }
      }
      return state(changes);
    }
  }
}
