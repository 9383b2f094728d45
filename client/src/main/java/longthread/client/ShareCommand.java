package longthread.client;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;
import tools.jackson.databind.JsonNode;

@Command(
    name = "share",
    description = "Let people without an account see the state of one report, by a link.",
    mixinStandardHelpOptions = true,
    subcommands = {
      ShareCommand.Make.class,
      ShareCommand.ListLinks.class,
      ShareCommand.Revoke.class
    },
    footer = {"", "Example:", "  longthread share make 'Ten-day payout' --until 2031-12-31"})
final class ShareCommand implements Runnable {
  @Spec CommandSpec spec = CommandSpec.create();

  @Override
  public void run() {
    spec.commandLine().usage(spec.commandLine().getOut());
  }

  @Command(
      name = "make",
      description = "Make a link; the addresses of its page and badge are shown this once.",
      mixinStandardHelpOptions = true)
  static final class Make extends Output implements Callable<Integer> {
    @Parameters(paramLabel = "NAME", description = "The report.")
    private String name = "";

    @Option(names = "--until", paramLabel = "DATE", description = "When it ends; in 90 days.")
    private @Nullable String until;

    @Override
    public Integer call() {
      var body = new LinkedHashMap<String, @Nullable Object>();
      body.put("ref", name);
      body.put("until", Json.until(until));
      JsonNode answer = service().post("/api/v1/share-links", body, JsonNode.class).json();
      if (json) {
        printJson(answer);
      } else {
        out().println("page   " + answer.path("page").stringValue(""));
        out().println("badge  " + answer.path("badge").stringValue(""));
        out().println("until  " + Json.time(answer.path("until")));
        out().println("id     " + answer.path("id").stringValue(""));
      }
      return 0;
    }
  }

  @Command(name = "list", description = "List links.", mixinStandardHelpOptions = true)
  static final class ListLinks extends ListOutput implements Callable<Integer> {
    @Override
    public Integer call() {
      JsonNode answer =
          service()
              .get("/api/v1/share-links", Map.of("limit", paging.orElse(100)), JsonNode.class)
              .json();
      if (json) {
        printJson(answer);
        return 0;
      }
      var rows = new ArrayList<List<String>>();
      for (JsonNode link : answer.path("items")) {
        rows.add(
            List.of(
                link.path("name").stringValue(""),
                link.path("state").stringValue(""),
                Json.time(link.path("until")),
                link.path("madeBy").stringValue(""),
                link.path("id").stringValue("")));
      }
      printList(List.of("REPORT", "STATE", "UNTIL", "BY", "ID"), rows);
      return 0;
    }
  }

  @Command(
      name = "revoke",
      description = "Revoke a link: it opens nothing any more.",
      mixinStandardHelpOptions = true)
  static final class Revoke extends Output implements Callable<Integer> {
    @Parameters(paramLabel = "ID", description = "Its id, as share list shows it.")
    private String id = "";

    @Override
    public Integer call() {
      service().delete("/api/v1/share-links", Map.of("id", id));
      out().println("revoked " + id);
      return 0;
    }
  }
}
