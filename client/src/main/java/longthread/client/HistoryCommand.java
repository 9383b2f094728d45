package longthread.client;

import java.util.HashMap;
import java.util.Map;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

@Command(
    name = "history",
    description = "What changed of an asset and when; its checks over time; its parts.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Examples:",
      "  longthread history core.lab_reading",
      "  longthread history core.lab_reading --checks",
      "  longthread history landed/pickup --parts"
    })
final class HistoryCommand extends Output implements Callable<Integer> {
  @Parameters(paramLabel = "NAME", description = "The asset.")
  private String name = "";

  @Option(names = "--checks", description = "The results of its checks instead.")
  private boolean checks;

  @Option(names = "--parts", description = "The partitions or shards it folds from instead.")
  private boolean parts;

  @Option(
      names = "--limit",
      defaultValue = "50",
      paramLabel = "N",
      description = "At most so many (${DEFAULT-VALUE}).")
  private int limit;

  @Override
  public Integer call() {
    String path = checks ? "checks" : parts ? "parts" : "history";
    var parameters = new HashMap<String, Object>(Map.of("ref", name));
    parameters.put("limit", checks ? null : limit);
    JsonNode answer = service().get("/api/v1/" + path, parameters);
    if (json) {
      printJson(answer);
    } else if (checks) {
      printChecks(answer);
    } else if (parts) {
      printParts(answer);
    } else {
      var table = new Table("AT", "WHAT", "CHANGE");
      for (JsonNode change : answer.path("changes")) {
        table.row(time(change.path("at")), text(change.path("kind")), joined(change.path("words")));
      }
      print(table);
    }
    return 0;
  }

  private void printChecks(JsonNode answer) {
    var table = new Table("CHECK", "COLUMN", "AT", "RESULT", "DETAIL");
    for (JsonNode check : answer.path("checks")) {
      int shown = 0;
      for (JsonNode result : check.path("results")) {
        if (shown++ < limit) {
          table.row(
              text(check.path("name")),
              text(check.path("column")),
              time(result.path("at")),
              text(result.path("status")),
              text(result.path("detail")));
        }
      }
    }
    print(table);
  }

  private void printParts(JsonNode answer) {
    var table = new Table("PART", "WRITTEN", "BY", "READ");
    for (JsonNode part : answer.path("parts")) {
      table.row(
          part.path("part").stringValue("the whole"),
          time(part.path("writtenAt")),
          joined(part.path("writtenBy")),
          time(part.path("readAt")));
    }
    print(table);
    if (!answer.path("missingDays").isEmpty()) {
      out().println("missing: " + joined(answer.path("missingDays")));
    }
  }
}
