package longthread.client;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

@Command(
    name = "trail",
    description = "List what you looked at, mark what to look at later, note threads found right.",
    mixinStandardHelpOptions = true,
    subcommands = {
      TrailCommand.Later.class,
      TrailCommand.Share.class,
      TrailCommand.Followed.class,
    },
    footer = {
      "",
      "Examples:",
      "  longthread trail",
      "  longthread trail later core.lab_reading --note 'fat looks odd'",
      "  longthread trail followed core.lab_reading#fat 'Ten-day payout' --right",
      "  longthread trail followed"
    })
final class TrailCommand extends ListOutput implements Callable<Integer> {
  @Option(names = "--of", paramLabel = "PERSON", description = "The trail that somebody shares.")
  private @Nullable String person;

  @Override
  public Integer call() {
    var parameters = new LinkedHashMap<String, @Nullable Object>();
    parameters.put("person", person);
    parameters.put("limit", paging.orElse(40));
    JsonNode answer = service().get("/api/v1/trail", parameters, JsonNode.class).json();
    if (json) {
      printJson(answer);
      return 0;
    }
    var rows = new ArrayList<List<String>>();
    for (JsonNode step : answer.path("items")) {
      rows.add(
          List.of(
              Json.time(step.path("at")),
              step.path("name").stringValue(""),
              step.path("kind").stringValue(""),
              step.path("later").booleanValue(false) ? "look at later" : "looked at",
              Json.text(step.path("note"))));
    }
    printList(List.of("WHEN", "NAME", "KIND", "MARK", "NOTE"), rows);
    return 0;
  }

  @Command(
      name = "later",
      description = "Mark something to be looked at later.",
      mixinStandardHelpOptions = true)
  static final class Later extends Output implements Callable<Integer> {
    @Parameters(paramLabel = "NAME", description = "What to look at.")
    private String name = "";

    @Option(names = "--note", paramLabel = "TEXT", description = "Why.")
    private @Nullable String note;

    @Option(names = "--done", description = "Take it off the list.")
    private boolean done;

    @Override
    public Integer call() {
      if (done) {
        service().delete("/api/v1/trail", Map.of("ref", name));
        out().println("taken off");
        return 0;
      }
      var body = new LinkedHashMap<String, @Nullable Object>();
      body.put("ref", name);
      body.put("later", true);
      body.put("note", note);
      byte[] bytes = ServiceClient.MAPPER.writeValueAsBytes(body);
      service().state("/api/v1/trail", Map.of(), "application/json", bytes);
      out().println("marked");
      return 0;
    }
  }

  @Command(
      name = "share",
      description = "Let others see your trail, or no longer.",
      mixinStandardHelpOptions = true)
  static final class Share extends Output implements Callable<Integer> {
    @Option(names = "--stop", description = "No longer.")
    private boolean stop;

    @Override
    public Integer call() {
      service().change("PUT", "/api/v1/trail/sharing", Map.of(), Map.of("shared", !stop));
      out().println(stop ? "others do not see your trail" : "others see your trail");
      return 0;
    }
  }

  @Command(
      name = "followed",
      description = "List threads that were followed and found right, or note one.",
      mixinStandardHelpOptions = true)
  static final class Followed extends ListOutput implements Callable<Integer> {
    @Parameters(
        paramLabel = "FROM",
        index = "0",
        arity = "0..1",
        description = "Where the thread begins; alone: only threads at it.")
    private @Nullable String from;

    @Parameters(
        paramLabel = "TO",
        index = "1",
        arity = "0..1",
        description = "Where the thread ends.")
    private @Nullable String to;

    @Option(names = "--right", description = "Note that the thread is right.")
    private boolean right;

    @Option(names = "--note", paramLabel = "TEXT", description = "In your own words.")
    private @Nullable String note;

    @Override
    public Integer call() {
      if (right) {
        var body = new LinkedHashMap<String, @Nullable Object>();
        body.put("from", from);
        body.put("to", to);
        body.put("note", note);
        byte[] bytes = ServiceClient.MAPPER.writeValueAsBytes(body);
        service().state("/api/v1/followed", Map.of(), "application/json", bytes);
        out().println("noted; it lapses when a link or code on the thread changes");
        return 0;
      }
      var parameters = new LinkedHashMap<String, @Nullable Object>();
      parameters.put("ref", from);
      parameters.put("limit", paging.orElse(100));
      JsonNode answer = service().get("/api/v1/followed", parameters, JsonNode.class).json();
      if (json) {
        printJson(answer);
        return 0;
      }
      var rows = new ArrayList<List<String>>();
      for (JsonNode one : answer.path("items")) {
        rows.add(
            List.of(
                one.path("from").stringValue(""),
                one.path("to").stringValue(""),
                one.path("by").stringValue(""),
                Json.time(one.path("at")),
                one.path("state").stringValue(""),
                Json.text(one.path("lapsed"))));
      }
      printList(List.of("FROM", "TO", "BY", "WHEN", "STATE", "WHAT CHANGED"), rows);
      return 0;
    }
  }
}
