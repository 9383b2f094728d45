package longthread.client;

import java.util.ArrayList;
import java.util.List;
import java.util.TreeMap;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

@Command(
    name = "recall",
    description = "List what rests on the data that a run wrote, and what was replaced since.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Examples:",
      "  longthread recall run:0190a7c2-8f1e-7c3a-9d24-6a1f4b2c8d10",
      "  longthread recall @load_readings --state holds --csv",
      "  longthread recall @load_readings --fail-on holds"
    })
final class RecallCommand extends ListOutput implements Callable<Integer> {
  private static final int SCREENFUL = 100;

  @Parameters(
      paramLabel = "RUN",
      description = "A run as run:…, or a job for the newest run of it that completed.")
  private String run = "";

  @Option(
      names = "--state",
      paramLabel = "STATE",
      description = "Only assets in this state: holds, may-hold or replaced.")
  private @Nullable String state;

  @Mixin private AsOf asOf = new AsOf();
  @Mixin private FailOn failOn = new FailOn();

  @Override
  public Integer call() {
    ClosedWords.check(spec, "--state", state, List.of("holds", "may-hold", "replaced"));
    failOn.check(spec, "holds", "may-hold");
    var parameters = new TreeMap<String, @Nullable Object>();
    parameters.put("ref", run);
    parameters.put("state", state);
    asOf.addTo(parameters);
    parameters.put("limit", paging.orElse(csv ? 1_000 : SCREENFUL));
    JsonNode answer = service().get("/api/v1/recall", parameters, JsonNode.class).json();
    if (json) {
      printJson(answer);
    } else {
      print(answer);
    }
    return failOn.exitCode(
        word -> answer.path(word.equals("holds") ? "holds" : "mayHold").intValue(0) > 0);
  }

  private void print(JsonNode answer) {
    if (!csv) {
      JsonNode of = answer.path("of");
      out()
          .println(
              of.path("name").stringValue("")
                  + " of "
                  + Json.time(of.path("start"))
                  + ", version "
                  + ExactRuns.version(of)
                  + ": "
                  + answer.path("holds").intValue()
                  + " hold its data, "
                  + answer.path("mayHold").intValue()
                  + " may, "
                  + answer.path("replaced").intValue()
                  + " replaced since.\n");
    }
    var rows = new ArrayList<List<String>>();
    for (JsonNode item : answer.path("items")) {
      rows.add(
          List.of(
              ClosedWords.spoken(item.path("state").stringValue("")),
              "" + item.path("hops").intValue(),
              item.path("kind").stringValue(""),
              item.path("name").stringValue(""),
              Json.time(item.path("newestAt")),
              Json.time(item.path("replacedAt")),
              item.path("owners").isEmpty() ? "-" : Json.words(item.path("owners")),
              item.path("ref").stringValue("")));
    }
    if (rows.isEmpty() && !csv) {
      note("nothing rests on it");
    } else {
      printList(
          List.of("STATE", "HOPS", "KIND", "NAME", "WRITTEN", "REPLACED", "OWNERS", "REFERENCE"),
          rows);
    }
    int more = answer.path("total").intValue(0) - answer.path("items").size();
    if (more > 0 && !csv) {
      note(more + " more; --limit N lists them");
    }
    if (answer.path("truncated").booleanValue() && !csv) {
      note("more than 2,000 runs rest on it; those beyond were not looked at");
    }
  }
}
