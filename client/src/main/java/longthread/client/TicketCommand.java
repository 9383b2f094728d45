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
    name = "ticket",
    description = "Open a ticket from a suspect or a notice, with all that is known attached.",
    mixinStandardHelpOptions = true,
    subcommands = {TicketCommand.Open.class, TicketCommand.ListTickets.class},
    footer = {
      "",
      "Examples:",
      "  longthread ticket open 'Ten-day payout' --suspect core.lab_reading",
      "  longthread ticket list"
    })
final class TicketCommand implements Runnable {
  @Spec CommandSpec spec = CommandSpec.create();

  @Override
  public void run() {
    spec.commandLine().usage(spec.commandLine().getOut());
  }

  @Command(
      name = "open",
      description = "Open a ticket; prints its address.",
      mixinStandardHelpOptions = true)
  static final class Open extends Output implements Callable<Integer> {
    @Parameters(paramLabel = "NAME", description = "What it is about.")
    private String name = "";

    @Option(names = "--suspect", paramLabel = "NAME", description = "A suspect for NAME.")
    private @Nullable String suspect;

    @Option(names = "--notice", paramLabel = "ID", description = "A notice.")
    private @Nullable String notice;

    @Option(names = "--title", paramLabel = "TEXT", description = "Its title.")
    private @Nullable String title;

    @Option(names = "--text", paramLabel = "TEXT", description = "What to add in words.")
    private @Nullable String text;

    @Override
    public Integer call() {
      var body = new LinkedHashMap<String, @Nullable Object>();
      body.put("ref", name);
      body.put("suspect", suspect);
      body.put("notice", notice);
      body.put("title", title);
      body.put("text", text);
      JsonNode answer = service().post("/api/v1/tickets", body, JsonNode.class).json();
      if (json) {
        printJson(answer);
      } else {
        out().println(answer.path("url").stringValue(""));
      }
      return 0;
    }
  }

  @Command(name = "list", description = "List tickets.", mixinStandardHelpOptions = true)
  static final class ListTickets extends ListOutput implements Callable<Integer> {
    @Override
    public Integer call() {
      JsonNode answer =
          service()
              .get("/api/v1/tickets", Map.of("limit", paging.orElse(100)), JsonNode.class)
              .json();
      if (json) {
        printJson(answer);
        return 0;
      }
      var rows = new ArrayList<List<String>>();
      for (JsonNode ticket : answer.path("items")) {
        rows.add(
            List.of(
                ticket.path("title").stringValue(""),
                ticket.path("name").stringValue(""),
                Json.time(ticket.path("openedAt")),
                ticket.path("openedBy").stringValue(""),
                ticket.path("closedAt").isString()
                    ? "closed " + Json.time(ticket.path("closedAt"))
                    : "open",
                Json.text(ticket.path("outcome")),
                ticket.path("url").stringValue("")));
      }
      printList(List.of("TICKET", "ABOUT", "OPENED", "BY", "STATE", "OUTCOME", "ADDRESS"), rows);
      return 0;
    }
  }
}
