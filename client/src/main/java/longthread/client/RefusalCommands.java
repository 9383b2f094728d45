package longthread.client;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import longthread.client.answers.Refusals;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** What was refused, and trying it again. */
final class RefusalCommands {
  private RefusalCommands() {}

  static Table table(List<Refusals.Refused> refusals) {
    var table = new Table("ID", "REFUSED", "PROBLEM", "REASON", "FROM", "RETRIED");
    for (Refusals.Refused refusal : refusals) {
      table.row(
          "" + refusal.id(),
          Output.time(refusal.receivedAt()),
          Output.text(refusal.problem()),
          Output.text(refusal.reason()),
          refusal.source() == null ? "HTTP" : refusal.source(),
          Output.time(refusal.retriedAt()));
    }
    return table;
  }

  @Command(
      name = "refused",
      description = "List what was refused and why, or open one of it with its bytes.",
      mixinStandardHelpOptions = true)
  static final class Refused extends Output implements Callable<Integer> {
    private static final int SCREENFUL = 50;

    @Parameters(arity = "0..1", paramLabel = "ID", description = "The refusal to open.")
    private @Nullable Long id;

    @Option(names = "--problem", paramLabel = "WORD", description = "Only those with this problem.")
    private @Nullable String problem;

    @Mixin private Paging paging = new Paging();

    @Override
    public Integer call() {
      return id == null ? list() : open(id);
    }

    private int open(long refusal) {
      var reply =
          service().get("/api/v1/intake/refused/" + refusal, Map.of(), Refusals.Opened.class);
      if (json) {
        printJson(reply.json());
      } else {
        String body = reply.value().body();
        note(text(reply.value().refusal().reason()));
        out().println(body == null ? "its bytes are no longer kept" : body);
      }
      return 0;
    }

    private int list() {
      var parameters = new LinkedHashMap<String, @Nullable Object>();
      parameters.put("limit", paging.orElse(SCREENFUL));
      parameters.put("problem", problem);
      var reply = service().get("/api/v1/intake/refused", parameters, Refusals.class);
      if (json) {
        printJson(reply.json());
      } else {
        print(table(reply.value().refusals()));
      }
      return 0;
    }
  }

  @Command(
      name = "retry",
      description = "Try refused events again, after a fix or an upgrade.",
      mixinStandardHelpOptions = true)
  static final class Retry extends Output implements Callable<Integer> {
    @Parameters(arity = "0..*", paramLabel = "ID", description = "The refusals to try again.")
    private List<Long> ids = List.of();

    @Option(names = "--all", description = "Try all of them again.")
    private boolean all;

    @Override
    public Integer call() {
      if (all != ids.isEmpty()) {
        throw new ServiceException(
            ServiceException.WRONG_USAGE, "name the refusals to try again, or use --all");
      }
      int accepted = 0;
      int tried = 0;
      List<String> paths =
          all
              ? List.of("/api/v1/intake/refused/retry")
              : ids.stream().map(id -> "/api/v1/intake/refused/" + id + "/retry").toList();
      for (String path : paths) {
        var reply = service().post(path, null, Refusals.Retried.class);
        accepted += reply.value().accepted();
        tried += reply.value().tried();
        if (json) {
          printJson(reply.json());
        }
        reply.value().refused().forEach(still -> note(still.id() + ": " + still.reason()));
      }
      if (!json) {
        out().printf("%d of %d accepted now%n", accepted, tried);
      }
      return accepted == tried ? 0 : ServiceException.FINDING;
    }
  }
}
