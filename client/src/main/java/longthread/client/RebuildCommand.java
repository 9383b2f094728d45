package longthread.client;

import java.util.Map;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import tools.jackson.databind.JsonNode;

@Command(
    name = "rebuild",
    description = "Make the catalog anew from the log beside the live one, compare, and switch.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Where the two differ, nothing is switched and the differences are listed (exit code 1);",
      "after a change of the rules they are meant to differ: --accept switches all the same."
    })
final class RebuildCommand extends Output implements Callable<Integer> {
  private static final long PAUSE_MILLIS = 300;

  @Option(names = "--accept", description = "Switch also if the new catalog differs.")
  private boolean accept;

  @Override
  public Integer call() throws InterruptedException {
    service()
        .post(
            "/api/v1/rebuild" + (accept ? "?accept=true" : ""),
            new byte[0],
            "application/json",
            false);
    JsonNode status;
    long told = 0;
    do {
      Thread.sleep(PAUSE_MILLIS);
      status = service().get("/api/v1/rebuild", Map.of());
      long done = status.path("blocksDone").longValue(0);
      if (!json && done >= told + 1_000) {
        note(done + " of " + text(status.path("blocks")) + " blocks read …");
        told = done;
      }
    } while (text(status.path("state")).equals("running"));
    if (json) {
      printJson(status);
    } else {
      out()
          .printf(
              "%s: %s events read, %s facts carried over%n",
              text(status.path("state")),
              text(status.path("events")),
              text(status.path("carried")));
      status.path("differences").forEach(line -> note(text(line)));
      status.path("unreadable").forEach(line -> note("not readable now: " + text(line)));
      if (status.path("problem").isString()) {
        note(text(status.path("problem")));
      }
    }
    return text(status.path("state")).equals("switched") ? 0 : ServiceException.FINDING;
  }
}
