package longthread.client;

import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

@Command(
    name = "intake",
    description = "What came in, what it changed, what was refused and why, and who sends.",
    mixinStandardHelpOptions = true,
    subcommands = {
      IntakeCommand.Refused.class,
      IntakeCommand.Retry.class,
      IntakeCommand.Event.class,
      IntakeCommand.Emitters.class,
      IntakeCommand.FileList.class
    },
    footer = {
      "",
      "Examples:",
      "  longthread intake --limit 20",
      "  longthread intake --watch --about core.pickup",
      "  longthread intake event 12.0",
      "  longthread intake retry --all"
    })
final class IntakeCommand extends Output implements Callable<Integer> {
  private static final long PAUSE_MILLIS = 1_000;

  @Option(
      names = "--limit",
      defaultValue = "10",
      paramLabel = "N",
      description = "How many of each to list (${DEFAULT-VALUE}).")
  private int limit;

  @Option(
      names = "--about",
      paramLabel = "TEXT",
      description = "Only events about, or from, what has this in its name.")
  private @Nullable String about;

  @Option(names = "--watch", description = "Go on and print each event as it is applied.")
  private boolean watch;

  @Option(
      names = "--for",
      paramLabel = "SECONDS",
      description = "With --watch: end after so many seconds.")
  private @Nullable Integer seconds;

  @Override
  public Integer call() {
    if (watch) {
      return watch();
    }
    JsonNode intake = ask(limit);
    if (json) {
      printJson(intake);
      return 0;
    }
    out()
        .printf(
            "%s received, %s applied, %s repeated, %s refused, %s waiting%n",
            text(intake.path("received")),
            text(intake.path("applied")),
            text(intake.path("duplicates")),
            text(intake.path("refused")),
            waiting(intake));
    if (intake.path("awaySince").isString()) {
      note("the database is away since " + time(intake.path("awaySince")));
    }
    out().println();
    var recent = new Table("ID", "RECEIVED", "EVENT TIME", "TYPE", "ABOUT", "CHANGED");
    for (JsonNode event : intake.path("recent")) {
      recent.row(
          text(event.path("id")),
          time(event.path("receivedAt")),
          time(event.path("eventTime")),
          text(event.path("type")),
          text(event.path("about")),
          joined(event.path("changed")));
    }
    print(recent);
    if (!intake.path("refusals").isEmpty()) {
      out().println();
      print(refusals(intake.path("refusals")));
    }
    return 0;
  }

  private JsonNode ask(int most) {
    var parameters = new HashMap<String, Object>();
    parameters.put("limit", most);
    parameters.put("about", about);
    return service().get("/api/v1/intake", parameters);
  }

  private static String waiting(JsonNode intake) {
    long waiting = intake.path("waiting").longValue(0);
    return waiting == 0
        ? "0"
        : waiting + String.format(" (for %.1f s)", intake.path("lagSeconds").doubleValue(0));
  }

  /** Prints events as they come, oldest first, until it is stopped. */
  private int watch() {
    long end =
        seconds == null ? Long.MAX_VALUE : System.currentTimeMillis() + seconds * PAUSE_MILLIS;
    String newest = "";
    while (true) {
      JsonNode intake = ask(newest.isEmpty() ? limit : 500);
      var fresh = new java.util.ArrayList<JsonNode>();
      for (JsonNode event : intake.path("recent")) {
        if (text(event.path("id")).equals(newest)) {
          break;
        }
        fresh.add(0, event);
      }
      for (JsonNode event : fresh) {
        newest = text(event.path("id"));
        if (json) {
          out().println(event);
        } else {
          out()
              .printf(
                  "%s  %-9s %s  %s%n",
                  time(event.path("receivedAt")),
                  text(event.path("type")),
                  text(event.path("about")),
                  lit("faint", joined(event.path("changed"))));
        }
      }
      if (!json && intake.path("waiting").longValue(0) > 0) {
        note(waiting(intake) + " waiting");
      }
      out().flush();
      if (System.currentTimeMillis() >= end) {
        return 0;
      }
      try {
        Thread.sleep(PAUSE_MILLIS);
      } catch (InterruptedException e) {
        Thread.currentThread().interrupt();
        return 0;
      }
    }
  }

  static Table refusals(JsonNode list) {
    var refused = new Table("ID", "REFUSED", "PROBLEM", "REASON", "FROM", "TRIED AGAIN");
    for (JsonNode one : list) {
      refused.row(
          text(one.path("id")),
          time(one.path("receivedAt")),
          text(one.path("problem")),
          text(one.path("reason")),
          one.path("source").stringValue("HTTP"),
          time(one.path("retriedAt")));
    }
    return refused;
  }

  @Command(
      name = "refused",
      description = "List what was refused and why, or open one of it with its bytes.",
      mixinStandardHelpOptions = true)
  static final class Refused extends Output implements Callable<Integer> {
    @Parameters(arity = "0..1", paramLabel = "ID", description = "The refusal to open.")
    private @Nullable Long id;

    @Option(names = "--problem", paramLabel = "WORD", description = "Only those with this problem.")
    private @Nullable String problem;

    @Option(
        names = "--limit",
        defaultValue = "50",
        paramLabel = "N",
        description = "At most so many (${DEFAULT-VALUE}).")
    private int limit;

    @Override
    public Integer call() {
      if (id != null) {
        JsonNode one = service().get("/api/v1/intake/refused/" + id, Map.of());
        if (json) {
          printJson(one);
        } else {
          note(text(one.path("refusal").path("reason")));
          out().println(one.path("body").stringValue("its bytes are no longer kept"));
        }
        return 0;
      }
      var parameters = new HashMap<String, Object>();
      parameters.put("limit", limit);
      parameters.put("problem", problem);
      JsonNode list = service().get("/api/v1/intake/refused", parameters);
      if (json) {
        printJson(list);
      } else {
        print(refusals(list.path("refusals")));
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
      if (all == !ids.isEmpty()) {
        throw new ServiceException(
            ServiceException.WRONG_USAGE, "name the refusals to try again, or take --all");
      }
      int accepted = 0;
      int tried = 0;
      List<String> paths =
          all
              ? List.of("/api/v1/intake/refused/retry")
              : ids.stream().map(id -> "/api/v1/intake/refused/" + id + "/retry").toList();
      for (String path : paths) {
        JsonNode answer = service().post(path, new byte[0], "application/json", false);
        accepted += answer.path("accepted").intValue(0);
        tried += answer.path("tried").intValue(0);
        if (json) {
          printJson(answer);
        }
        for (JsonNode still : answer.path("refused")) {
          note(text(still.path("id")) + ": " + text(still.path("reason")));
        }
      }
      if (!json) {
        out().printf("%d of %d accepted now%n", accepted, tried);
      }
      return accepted == tried ? 0 : ServiceException.FINDING;
    }
  }

  @Command(
      name = "event",
      description = "Open an event: what it changed, the facts it gave, its bytes.",
      mixinStandardHelpOptions = true)
  static final class Event extends Output implements Callable<Integer> {
    @Parameters(paramLabel = "ID", description = "The event's id, as intake lists it.")
    private String id = "";

    @Option(names = "--bytes", description = "Print only its bytes, exactly as received.")
    private boolean bytes;

    @Override
    public Integer call() {
      JsonNode event = service().get("/api/v1/intake/event", Map.of("id", id));
      if (bytes) {
        out().println(event.path("body").stringValue(""));
        return 0;
      }
      if (json) {
        printJson(event);
        return 0;
      }
      out().printf("%s %s%n", text(event.path("type")), text(event.path("job")));
      out()
          .printf(
              "happened %s, received %s, %s bytes, told by %s%n",
              time(event.path("eventTime")),
              time(event.path("receivedAt")),
              text(event.path("bytes")),
              text(event.path("producer")));
      out().printf("reads  %s%n", joined(event.path("inputs")));
      out().printf("writes %s%n", joined(event.path("outputs")));
      out().println();
      event.path("changed").forEach(words -> out().println("  " + text(words)));
      out().println();
      var facets = new Table("FACET", "OF", "AS", "STANDS");
      for (JsonNode facet : event.path("facets")) {
        facets.row(
            text(facet.path("key")),
            text(facet.path("about")),
            text(facet.path("role")),
            facet.path("stands").booleanValue(false) ? "yes" : "a newer one does");
      }
      print(facets);
      out().printf("%n%d column links told%n", event.path("links").size());
      return 0;
    }
  }

  @Command(
      name = "emitters",
      description = "Who sends, in which version, and who fell silent.",
      mixinStandardHelpOptions = true)
  static final class Emitters extends Output implements Callable<Integer> {
    @Option(names = "--strict", description = "End with exit code 1 if any is overdue.")
    private boolean strict;

    @Override
    public Integer call() {
      JsonNode answer = service().get("/api/v1/intake/emitters", Map.of());
      if (json) {
        printJson(answer);
      } else {
        var table = new Table("REPORTS OF", "EMITTER", "VERSION", "EVENTS", "LAST EVENT", "STATE");
        for (JsonNode emitter : answer.path("emitters")) {
          table.row(
              text(emitter.path("namespace")),
              text(emitter.path("producer")),
              text(emitter.path("version")),
              text(emitter.path("events")),
              time(emitter.path("lastEvent")),
              emitter.path("overdueSince").isString()
                  ? "silent, due " + time(emitter.path("overdueSince"))
                  : emitter.path("usualRest").isNumber() ? "as usual" : "no rhythm yet");
        }
        print(table);
      }
      return strict && answer.path("overdue").intValue(0) > 0 ? ServiceException.FINDING : 0;
    }
  }

  @Command(
      name = "files",
      description = "The files that were picked up, with what of each was refused.",
      mixinStandardHelpOptions = true)
  static final class FileList extends Output implements Callable<Integer> {
    @Override
    public Integer call() {
      JsonNode answer = service().get("/api/v1/intake/files", Map.of());
      if (json) {
        printJson(answer);
        return 0;
      }
      var table = new Table("FILE", "PICKED UP", "DONE", "ACCEPTED", "REPEATED", "REFUSED");
      for (JsonNode file : answer.path("files")) {
        table.row(
            text(file.path("path")),
            time(file.path("firstAt")),
            time(file.path("doneAt")),
            text(file.path("accepted")),
            text(file.path("duplicates")),
            text(file.path("refused")));
      }
      print(table);
      return 0;
    }
  }
}
