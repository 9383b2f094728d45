package longthread.client;

import java.util.Map;
import java.util.concurrent.Callable;
import longthread.client.answers.RebuildStatus;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;

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
  private static final long POLL_MILLIS = 300;
  private static final int BLOCKS_A_NOTE = 1_000;

  @Option(names = "--accept", description = "Switch also if the new catalog differs.")
  private boolean accept;

  @Override
  public Integer call() throws InterruptedException {
    ServiceClient service = service();
    service.post("/api/v1/rebuild" + (accept ? "?accept=true" : ""), null, RebuildStatus.class);
    ServiceClient.Reply<RebuildStatus> reply;
    long noted = 0;
    do {
      Thread.sleep(POLL_MILLIS);
      reply = service.get("/api/v1/rebuild", Map.of(), RebuildStatus.class);
      long done = reply.value().blocksDone();
      if (!json && done >= noted + BLOCKS_A_NOTE) {
        note(done + " of " + reply.value().blocks() + " blocks read …");
        noted = done;
      }
    } while (reply.value().state().equals("running"));
    if (json) {
      printJson(reply.json());
    } else {
      print(reply.value());
    }
    return reply.value().state().equals("switched") ? 0 : ServiceException.FINDING;
  }

  private void print(RebuildStatus status) {
    out()
        .printf(
            "%s: %d events read, %d facts carried over%n",
            status.state(), status.events(), status.carried());
    status.differences().forEach(this::note);
    status.unreadable().forEach(line -> note("not readable now: " + line));
    if (status.problem() != null) {
      note(status.problem());
    }
  }
}
