package longthread.client;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.ArgGroup;
import picocli.CommandLine.Command;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.Spec;
import tools.jackson.databind.JsonNode;

@Command(
    name = "watch",
    description = "Be notified, by webhook or mail, of what goes wrong with what you watch.",
    mixinStandardHelpOptions = true,
    subcommands = {
      WatchCommand.Make.class,
      WatchCommand.ListWatches.class,
      WatchCommand.Try.class,
      WatchCommand.End.class,
      WatchCommand.Messages.class
    },
    footer = {
      "",
      "Examples:",
      "  longthread watch make --asset 'Ten-day payout' --webhook https://chat.example.org/in",
      "  longthread watch make --owner Warehouse --mail ops@example.org --digest daily --at 07:00",
      "  longthread watch make --workspace 'Board Room' --about notice --mail board@example.org",
      "  longthread watch messages --state dead"
    })
final class WatchCommand implements Runnable {
  private static final List<String> ABOUT =
      List.of("failure", "lateness", "check", "unusual", "notice", "leak");
  private static final List<String> DIGESTS = List.of("at-once", "hourly", "daily");
  private static final List<String> STATES = List.of("waiting", "sent", "dead");

  @Spec CommandSpec spec = CommandSpec.create();

  @Override
  public void run() {
    spec.commandLine().usage(spec.commandLine().getOut());
  }

  /** What is watched. */
  static final class Target {
    @Option(names = "--asset", paramLabel = "NAME", description = "This asset or job.")
    private @Nullable String asset;

    @Option(names = "--owner", paramLabel = "OWNER", description = "All that somebody owns.")
    private @Nullable String owner;

    @Option(names = "--label", paramLabel = "LABEL", description = "All that has a label.")
    private @Nullable String label;

    @Option(names = "--workspace", paramLabel = "NAME", description = "All in a workspace.")
    private @Nullable String workspace;
  }

  /** Where messages go. */
  static final class Channel {
    @Option(names = "--webhook", paramLabel = "URL", description = "Post to this address.")
    private @Nullable String webhook;

    @Option(names = "--mail", paramLabel = "MAILBOX", description = "Send to this mailbox.")
    private @Nullable String mail;
  }

  @Command(
      name = "make",
      description = "Make a watch; the secret that signs its webhook messages is shown this once.",
      mixinStandardHelpOptions = true)
  static final class Make extends Output implements Callable<Integer> {
    @ArgGroup(multiplicity = "1")
    private Target target = new Target();

    @ArgGroup(multiplicity = "1")
    private Channel channel = new Channel();

    @Option(
        names = "--about",
        paramLabel = "WORD",
        split = ",",
        description = "failure, lateness, check, unusual, notice, leak; all without it.")
    private List<String> about = List.of();

    @Option(names = "--title", paramLabel = "TEXT", description = "What to call it.")
    private @Nullable String title;

    @Option(
        names = "--digest",
        paramLabel = "WORD",
        description = "at-once, hourly or daily; at once without it.")
    private @Nullable String digest;

    @Option(names = "--at", paramLabel = "HH:MM", description = "When a daily digest is sent.")
    private @Nullable String at;

    @Option(
        names = "--quiet",
        paramLabel = "HH:MM-HH:MM",
        description = "Hours in which nothing is sent, such as 22:00-06:00.")
    private @Nullable String quiet;

    @Option(names = "--zone", paramLabel = "ZONE", description = "Of these times; UTC without it.")
    private @Nullable String zone;

    @Override
    public Integer call() {
      about.forEach(word -> ClosedWords.check(spec, "--about", word, ABOUT));
      ClosedWords.check(spec, "--digest", digest, DIGESTS);
      var body = new LinkedHashMap<String, @Nullable Object>();
      target(body);
      body.put("channel", channel.webhook == null ? "email" : "webhook");
      body.put("address", channel.webhook == null ? channel.mail : channel.webhook);
      body.put("about", about.isEmpty() ? null : about);
      body.put("title", title);
      body.put("digest", digest);
      body.put("digestAt", at);
      String[] hours = quiet == null ? new String[0] : quiet.split("-", 2);
      body.put("quietFrom", hours.length == 0 ? null : hours[0]);
      body.put("quietUntil", hours.length < 2 ? null : hours[1]);
      body.put("zone", zone);
      JsonNode answer = service().post("/api/v1/watches", body, JsonNode.class).json();
      if (json) {
        printJson(answer);
        return 0;
      }
      out().println(answer.path("id").stringValue(""));
      if (answer.path("secret").isString()) {
        out().println("secret " + answer.path("secret").stringValue());
        note("The secret is not shown again; docs/notify.md says how to check signatures.");
      }
      return 0;
    }

    private void target(Map<String, @Nullable Object> body) {
      var kinds = new LinkedHashMap<String, @Nullable String>();
      kinds.put("asset", target.asset);
      kinds.put("owner", target.owner);
      kinds.put("label", target.label);
      kinds.put("workspace", target.workspace);
      kinds.forEach(
          (kind, value) -> {
            if (value != null) {
              body.put("targetKind", kind);
              body.put("target", value);
            }
          });
    }
  }

  @Command(name = "list", description = "List watches.", mixinStandardHelpOptions = true)
  static final class ListWatches extends ListOutput implements Callable<Integer> {
    @Override
    public Integer call() {
      JsonNode answer =
          service()
              .get("/api/v1/watches", Map.of("limit", paging.orElse(100)), JsonNode.class)
              .json();
      if (json) {
        printJson(answer);
        return 0;
      }
      var rows = new ArrayList<List<String>>();
      for (JsonNode watch : answer.path("items")) {
        rows.add(
            List.of(
                watch.path("title").stringValue(""),
                watch.path("targetKind").stringValue(""),
                Json.words(watch.path("about")),
                watch.path("channel").stringValue("") + " " + watch.path("address").stringValue(""),
                watch.path("digest").stringValue(""),
                watch.path("owner").stringValue(""),
                watch.path("id").stringValue("")));
      }
      printList(List.of("WATCH", "OF", "ABOUT", "TO", "WHEN", "OWNER", "ID"), rows);
      return 0;
    }
  }

  @Command(
      name = "try",
      description = "Send a test message to a watch.",
      mixinStandardHelpOptions = true)
  static final class Try extends Output implements Callable<Integer> {
    @Parameters(paramLabel = "ID", description = "Its id, as watch list shows it.")
    private String id = "";

    @Override
    public Integer call() {
      service().state("/api/v1/watches/try", Map.of("id", id), "application/json", new byte[0]);
      out().println("a test message waits to be sent; see longthread watch messages");
      return 0;
    }
  }

  @Command(name = "end", description = "End a watch.", mixinStandardHelpOptions = true)
  static final class End extends Output implements Callable<Integer> {
    @Parameters(paramLabel = "ID", description = "Its id, as watch list shows it.")
    private String id = "";

    @Override
    public Integer call() {
      service().delete("/api/v1/watches", Map.of("id", id));
      out().println("ended " + id);
      return 0;
    }
  }

  @Command(
      name = "messages",
      description = "List what watches sent and could not send.",
      mixinStandardHelpOptions = true)
  static final class Messages extends ListOutput implements Callable<Integer> {
    @Option(names = "--state", paramLabel = "STATE", description = "waiting, sent or dead.")
    private @Nullable String state;

    @Option(
        names = "--retry",
        paramLabel = "ID",
        description = "Send this message again that was given up.")
    private @Nullable String retry;

    @Override
    public Integer call() {
      ClosedWords.check(spec, "--state", state, STATES);
      if (retry != null) {
        service()
            .state(
                "/api/v1/deliveries/retry", Map.of("id", retry), "application/json", new byte[0]);
        out().println("waits to be sent again");
        return 0;
      }
      var parameters = new LinkedHashMap<String, @Nullable Object>();
      parameters.put("state", state);
      parameters.put("limit", paging.orElse(40));
      JsonNode answer = service().get("/api/v1/deliveries", parameters, JsonNode.class).json();
      if (json) {
        printJson(answer);
        return 0;
      }
      var rows = new ArrayList<List<String>>();
      for (JsonNode message : answer.path("items")) {
        rows.add(
            List.of(
                Json.time(message.path("madeAt")),
                message.path("subject").stringValue(""),
                message.path("state").stringValue(""),
                "" + message.path("tries").intValue(0),
                Json.text(message.path("problem")),
                message.path("id").stringValue("")));
      }
      printList(List.of("MADE", "SUBJECT", "STATE", "TRIES", "PROBLEM", "ID"), rows);
      return 0;
    }
  }
}
