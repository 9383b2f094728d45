package longthread.client;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.concurrent.Callable;
import longthread.client.answers.IntakeAnswer;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;

@Command(
    name = "intake",
    description = "What came in, what it changed, what was refused and why, and who sends.",
    mixinStandardHelpOptions = true,
    subcommands = {
      RefusalCommands.Refused.class,
      RefusalCommands.Retry.class,
      EventCommand.class,
      SourceCommands.EmitterList.class,
      SourceCommands.FileList.class
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
  private static final long POLL_MILLIS = 1_000;
  private static final int SCREENFUL = 10;
  private static final int CHANGES_SHOWN = 1;
  private static final int MAX_BETWEEN_POLLS = 500;

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

  @Mixin private Paging paging = new Paging();

  @Override
  public Integer call() {
    if (watch) {
      return watch();
    }
    var reply = state(paging.orElse(SCREENFUL));
    if (json) {
      printJson(reply.json());
      return 0;
    }
    IntakeAnswer intake = reply.value();
    out()
        .printf(
            "%d received, %d applied, %d repeated, %d refused, %s queued%n",
            intake.received(),
            intake.applied(),
            intake.duplicates(),
            intake.refused(),
            queued(intake));
    if (intake.unreachableSince() != null) {
      note("database unreachable since " + time(intake.unreachableSince()));
    }
    out().println();
    var recent = new Table("ID", "RECEIVED", "EVENT TIME", "TYPE", "ABOUT", "CHANGED");
    for (IntakeAnswer.Recent event : intake.recent()) {
      recent.row(
          text(event.id()),
          time(event.receivedAt()),
          time(event.eventTime()),
          text(event.type()),
          text(event.about()),
          brief(event.changed()));
    }
    print(recent);
    if (!intake.refusals().isEmpty()) {
      out().println();
      print(RefusalCommands.table(intake.refusals()));
    }
    return 0;
  }

  /** The first changes, as many as fit; {@code intake event} lists them all. */
  private static String brief(List<String> changes) {
    int more = changes.size() - CHANGES_SHOWN;
    String first = joined(changes.subList(0, Math.min(changes.size(), CHANGES_SHOWN)));
    return more > 0 ? first + " and " + more + " more" : first;
  }

  private ServiceClient.Reply<IntakeAnswer> state(int most) {
    var parameters = new LinkedHashMap<String, @Nullable Object>();
    parameters.put("limit", most);
    parameters.put("about", about);
    return service().get("/api/v1/intake", parameters, IntakeAnswer.class);
  }

  private static String queued(IntakeAnswer intake) {
    return intake.waiting() == 0
        ? "0"
        : String.format(Locale.ROOT, "%d (for %.1f s)", intake.waiting(), intake.lagSeconds());
  }

  /** Prints events as they come, oldest first, until it is stopped. */
  private int watch() {
    long end =
        seconds == null ? Long.MAX_VALUE : System.currentTimeMillis() + seconds * POLL_MILLIS;
    String newest = "";
    while (true) {
      IntakeAnswer intake =
          state(newest.isEmpty() ? paging.orElse(SCREENFUL) : MAX_BETWEEN_POLLS).value();
      for (IntakeAnswer.Recent event : after(newest, intake.recent())) {
        newest = event.id();
        print(event);
      }
      if (!json && intake.waiting() > 0) {
        note(queued(intake) + " queued");
      }
      out().flush();
      if (System.currentTimeMillis() >= end) {
        return 0;
      }
      try {
        Thread.sleep(POLL_MILLIS);
      } catch (InterruptedException e) {
        Thread.currentThread().interrupt();
        return 0;
      }
    }
  }

  /** The events that came after one, oldest first; the list has the newest first. */
  private static List<IntakeAnswer.Recent> after(String known, List<IntakeAnswer.Recent> recent) {
    var fresh = new ArrayList<IntakeAnswer.Recent>();
    for (IntakeAnswer.Recent event : recent) {
      if (event.id().equals(known)) {
        break;
      }
      fresh.add(0, event);
    }
    return fresh;
  }

  private void print(IntakeAnswer.Recent event) {
    if (json) {
      out().println(ServiceClient.MAPPER.writeValueAsString(event));
    } else {
      out()
          .printf(
              "%s  %-9s %s  %s%n",
              time(event.receivedAt()),
              event.type(),
              event.about(),
              styled("faint", joined(event.changed())));
    }
  }
}
