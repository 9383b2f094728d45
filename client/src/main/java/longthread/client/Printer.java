package longthread.client;

import java.io.PrintWriter;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import longthread.client.answers.Owner;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;
import tools.jackson.databind.SerializationFeature;

/** How every command prints. */
abstract class Printer {
  private static final DateTimeFormatter TIME = DateTimeFormatter.ofPattern("yyyy-MM-dd HH:mm");
  private static final int DEFAULT_WIDTH = 100;
  private static final double MILLIS = 1_000;
  private static final double MILLI = 1e-3;
  private static final double MICRO = 1e-6;
  private static final double NANO = 1e-9;

  @Spec CommandSpec spec = CommandSpec.create();

  @Option(names = "--json", description = "Print the service's answer as JSON.")
  boolean json;

  PrintWriter out() {
    return spec.commandLine().getOut();
  }

  void note(String line) {
    spec.commandLine().getErr().println(line);
  }

  void print(Table table) {
    out().print(table.text(width()));
  }

  /** The width to fit into; 0 where the output is not a terminal and nothing may be cut. */
  static int width() {
    Map<String, String> environment = Main.environment();
    if (!environment.containsKey("LONGTHREAD_TERMINAL")) {
      return 0;
    }
    try {
      return Integer.parseInt(environment.getOrDefault("COLUMNS", "" + DEFAULT_WIDTH));
    } catch (NumberFormatException e) {
      return DEFAULT_WIDTH;
    }
  }

  /** A text in a colour, where the output is a terminal that shows colours. */
  static String styled(String style, String text) {
    boolean plain =
        Main.environment().containsKey("NO_COLOR")
            || !Main.environment().containsKey("LONGTHREAD_TERMINAL");
    return plain ? text : CommandLine.Help.Ansi.ON.string("@|" + style + " " + text + "|@");
  }

  void printJson(Object answer) {
    out()
        .println(
            ServiceClient.MAPPER
                .writer()
                .with(SerializationFeature.INDENT_OUTPUT)
                .writeValueAsString(answer));
  }

  static String time(@Nullable Instant at) {
    return at == null ? "-" : TIME.format(LocalDateTime.ofInstant(at, ZoneId.systemDefault()));
  }

  /** How long something took, from nanoseconds to hours. */
  static String seconds(@Nullable Double seconds) {
    if (seconds == null) {
      return "-";
    }
    if (seconds > 0 && seconds < MICRO) {
      return String.format(Locale.ROOT, "%.0f ns", seconds / NANO);
    }
    if (seconds > 0 && seconds < MILLI) {
      return String.format(Locale.ROOT, "%.4g µs", seconds / MICRO);
    }
    if (seconds == 0) {
      return "0 s";
    }
    if (seconds < 1) {
      return String.format(Locale.ROOT, "%.4g ms", seconds * MILLIS);
    }
    if (seconds < 60) {
      return String.format(Locale.ROOT, "%.1f s", seconds);
    }
    Duration duration = Duration.ofMillis((long) (seconds * MILLIS));
    return duration.toMinutes() + " min " + duration.toSecondsPart() + " s";
  }

  /** A value as a cell; {@code -} where there is none. */
  static String text(@Nullable Object value) {
    return value == null ? "-" : value.toString();
  }

  static String joined(List<String> words) {
    return String.join(", ", words);
  }

  /** Everyone to turn to, with their addresses. */
  static String owners(List<Owner> owners) {
    var words = owners.stream().map(Printer::owner).toList();
    return words.isEmpty() ? "-" : joined(words);
  }

  private static String owner(Owner owner) {
    return owner.address() == null ? owner.name() : owner.name() + " <" + owner.address() + ">";
  }
}
