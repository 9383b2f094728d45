package longthread.client;

import java.util.Map;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import tools.jackson.databind.JsonNode;

@Command(
    name = "intake",
    description = "What came in: counts, the newest events, and what was refused and why.",
    mixinStandardHelpOptions = true,
    footer = {"", "Example:", "  longthread intake --limit 20"})
final class IntakeCommand extends Output implements Callable<Integer> {
  @Option(
      names = "--limit",
      defaultValue = "10",
      paramLabel = "N",
      description = "How many of each to list (${DEFAULT-VALUE}).")
  private int limit;

  @Override
  public Integer call() {
    JsonNode intake = service().get("/api/v1/intake", Map.of("limit", limit));
    if (json) {
      printJson(intake);
      return 0;
    }
    out()
        .printf(
            "%s received, %s applied, %s duplicates, %s refused, %s waiting%n%n",
            text(intake.path("received")),
            text(intake.path("applied")),
            text(intake.path("duplicates")),
            text(intake.path("refused")),
            text(intake.path("waiting")));
    var recent = new Table("RECEIVED", "EVENT TIME", "TYPE", "ABOUT");
    for (JsonNode event : intake.path("recent")) {
      recent.row(
          time(event.path("receivedAt")),
          time(event.path("eventTime")),
          text(event.path("type")),
          text(event.path("about")));
    }
    print(recent);
    if (!intake.path("refusals").isEmpty()) {
      out().println();
      var refused = new Table("REFUSED", "PROBLEM", "REASON");
      for (JsonNode one : intake.path("refusals")) {
        refused.row(
            time(one.path("receivedAt")), text(one.path("problem")), text(one.path("reason")));
      }
      print(refused);
    }
    return 0;
  }
}
