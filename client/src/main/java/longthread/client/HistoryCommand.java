package longthread.client;

import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import longthread.client.answers.Checks;
import longthread.client.answers.History;
import longthread.client.answers.Parts;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

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
final class HistoryCommand extends ListOutput implements Callable<Integer> {
  private static final int MAX_CHECKS = 1_000;
  private static final int SCREENFUL = 50;

  @Parameters(paramLabel = "NAME", description = "The asset.")
  private String name = "";

  @Option(names = "--checks", description = "The results of its checks instead.")
  private boolean checks;

  @Option(names = "--parts", description = "The partitions or shards it folds from instead.")
  private boolean parts;

  @Override
  public Integer call() {
    int limit = paging.orElse(SCREENFUL);
    if (checks) {
      var reply =
          service().get("/api/v1/checks", Map.of("ref", name, "limit", MAX_CHECKS), Checks.class);
      if (json) {
        printJson(reply.json());
      } else {
        printChecks(reply.value(), limit);
      }
      return 0;
    }
    Map<String, Object> parameters = Map.of("ref", name, "limit", limit);
    if (parts) {
      var reply = service().get("/api/v1/parts", parameters, Parts.class);
      if (json) {
        printJson(reply.json());
      } else {
        printParts(reply.value());
      }
      return 0;
    }
    var reply = service().get("/api/v1/history", parameters, History.class);
    if (json) {
      printJson(reply.json());
    } else {
      printList(
          List.of("AT", "WHAT", "CHANGE"),
          reply.value().changes().stream()
              .map(change -> List.of(time(change.at()), change.kind(), joined(change.words())))
              .toList());
    }
    return 0;
  }

  private void printChecks(Checks answer, int limit) {
    var rows = new ArrayList<List<String>>();
    for (Checks.CheckLine check : answer.checks()) {
      check.results().stream()
          .limit(limit)
          .forEach(
              result ->
                  rows.add(
                      List.of(
                          check.name(),
                          text(check.column()),
                          time(result.at()),
                          result.status(),
                          text(result.detail()))));
    }
    printList(List.of("CHECK", "COLUMN", "AT", "RESULT", "DETAIL"), rows);
  }

  private void printParts(Parts answer) {
    printList(
        List.of("PART", "WRITTEN", "BY", "READ"),
        answer.parts().stream()
            .map(
                part ->
                    List.of(
                        part.part() == null ? "the whole" : part.part(),
                        time(part.writtenAt()),
                        joined(part.writtenBy()),
                        time(part.readAt())))
            .toList());
    if (!answer.missingDays().isEmpty()) {
      note("missing: " + joined(answer.missingDays()));
    }
  }
}
