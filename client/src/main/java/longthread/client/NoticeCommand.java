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
    name = "notice",
    description = "Put a notice on data; it shows on all that is affected, until it is lifted.",
    mixinStandardHelpOptions = true,
    subcommands = {
      NoticeCommand.Put.class,
      NoticeCommand.ListNotices.class,
      NoticeCommand.Lift.class
    },
    footer = {
      "",
      "Examples:",
      "  longthread notice put core.lab_reading#fat --level stop --text 'Fat in g/kg since Monday'",
      "  longthread notice put 'Ten-day payout' --because core.lab_reading --until 2031-05-03",
      "  longthread notice list --on 'Ten-day payout'",
      "  longthread notice lift 7c0e…"
    })
final class NoticeCommand implements Runnable {
  private static final List<String> LEVELS = List.of("info", "warning", "stop");

  @Spec CommandSpec spec = CommandSpec.create();

  @Override
  public void run() {
    spec.commandLine().usage(spec.commandLine().getOut());
  }

  @Command(
      name = "put",
      description = "Put a notice on an asset or column; prints its id.",
      mixinStandardHelpOptions = true)
  static final class Put extends Output implements Callable<Integer> {
    @Parameters(paramLabel = "NAME", description = "What it is about.")
    private String name = "";

    @Option(names = "--text", paramLabel = "TEXT", description = "What is the matter.")
    private @Nullable String text;

    @Option(
        names = "--because",
        paramLabel = "SUSPECT",
        description = "Take the text from this suspect of the causes of NAME.")
    private @Nullable String because;

    @Option(
        names = "--level",
        paramLabel = "LEVEL",
        description = "info, warning or stop; a warning without it.")
    private @Nullable String level;

    @Option(names = "--from", paramLabel = "TIME", description = "When it begins; now without it.")
    private @Nullable String from;

    @Option(names = "--until", paramLabel = "TIME", description = "When it ends by itself.")
    private @Nullable String until;

    @Option(names = "--ticket", paramLabel = "URL", description = "The address of a ticket.")
    private @Nullable String ticket;

    @Override
    public Integer call() {
      ClosedWords.check(spec, "--level", level, LEVELS);
      var body = new LinkedHashMap<String, @Nullable Object>();
      body.put("ref", name);
      body.put("text", because == null ? text : proposed(because));
      body.put("level", level);
      body.put("from", from);
      body.put("until", Json.until(until));
      body.put("ticket", ticket);
      byte[] bytes = ServiceClient.MAPPER.writeValueAsBytes(body);
      JsonNode answer = service().state("/api/v1/notices", Map.of(), "application/json", bytes);
      if (json) {
        printJson(answer);
      } else {
        out().println(answer.path("id").stringValue(""));
      }
      return 0;
    }

    /** The text that the causes of NAME give for a suspect. */
    private String proposed(String suspect) {
      JsonNode causes = service().get("/api/v1/causes", Map.of("ref", name), JsonNode.class).json();
      for (JsonNode one : causes.path("suspects")) {
        boolean isMeant =
            one.path("ref").stringValue("").endsWith(suspect)
                || one.path("name").stringValue("").equals(suspect);
        if (isMeant) {
          return one.path("proposedNotice").stringValue("");
        }
      }
      throw new ServiceException(
          ServiceException.NOT_FOUND,
          "'" + suspect + "' is no suspect for " + name + "; see longthread causes '" + name + "'");
    }
  }

  @Command(
      name = "list",
      description = "List notices, the most serious first.",
      mixinStandardHelpOptions = true)
  static final class ListNotices extends ListOutput implements Callable<Integer> {
    private static final List<String> STATES =
        List.of("active", "planned", "ended", "lifted", "all");

    @Option(names = "--on", paramLabel = "NAME", description = "Only those that show on this.")
    private @Nullable String on;

    @Option(
        names = "--state",
        paramLabel = "STATE",
        description = "active, planned, ended, lifted or all; the active ones without it.")
    private @Nullable String state;

    @Override
    public Integer call() {
      ClosedWords.check(spec, "--state", state, STATES);
      var parameters = new LinkedHashMap<String, @Nullable Object>();
      parameters.put("ref", on);
      parameters.put("state", state);
      parameters.put("limit", paging.orElse(100));
      JsonNode answer = service().get("/api/v1/notices", parameters, JsonNode.class).json();
      if (json) {
        printJson(answer);
        return 0;
      }
      var rows = new ArrayList<List<String>>();
      for (JsonNode notice : answer.path("items")) {
        rows.add(
            List.of(
                notice.path("level").stringValue(""),
                notice.path("name").stringValue(""),
                notice.path("text").stringValue(""),
                notice.path("by").stringValue(""),
                Json.time(notice.path("until")),
                "" + notice.path("affects").intValue(0),
                notice.path("state").stringValue(""),
                notice.path("id").stringValue("")));
      }
      printList(List.of("LEVEL", "ON", "TEXT", "BY", "UNTIL", "SHOWS ON", "STATE", "ID"), rows);
      return 0;
    }
  }

  @Command(
      name = "lift",
      description = "Lift a notice: it shows no more, and those who were notified hear of it.",
      mixinStandardHelpOptions = true)
  static final class Lift extends Output implements Callable<Integer> {
    @Parameters(paramLabel = "ID", description = "Its id, as notice list shows it.")
    private String id = "";

    @Option(names = "--reason", paramLabel = "TEXT", description = "Why.")
    private @Nullable String reason;

    @Override
    public Integer call() {
      var parameters = new LinkedHashMap<String, @Nullable Object>();
      parameters.put("id", id);
      parameters.put("reason", reason);
      JsonNode answer =
          service().state("/api/v1/notices/lift", parameters, "application/json", new byte[0]);
      if (json) {
        printJson(answer);
      } else {
        out().println("lifted " + id);
      }
      return 0;
    }
  }
}
