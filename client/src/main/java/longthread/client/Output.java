package longthread.client;

import java.io.PrintWriter;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine;
import picocli.CommandLine.Model.CommandSpec;
import picocli.CommandLine.Option;
import picocli.CommandLine.Spec;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.SerializationFeature;
import tools.jackson.databind.json.JsonMapper;

/** What every command shares: where the service is, and how to print. */
abstract class Output {
  private static final DateTimeFormatter TIME = DateTimeFormatter.ofPattern("yyyy-MM-dd HH:mm");

  @Spec CommandSpec spec = CommandSpec.create();

  @Option(names = "--json", description = "Print the service's answer as JSON.")
  boolean json;

  @Option(
      names = "--url",
      paramLabel = "URL",
      description = "Where the service is; else LONGTHREAD_URL, else the demo of this checkout.")
  @Nullable String url;

  @Option(
      names = "--token",
      paramLabel = "KEY",
      description = "The bearer key; else LONGTHREAD_TOKEN.")
  @Nullable String token;

  private static final JsonMapper PRETTY =
      JsonMapper.builder().enable(SerializationFeature.INDENT_OUTPUT).build();

  ServiceClient service() {
    Map<String, String> environment = Main.environment();
    String address = url != null ? url : environment.getOrDefault("LONGTHREAD_URL", "");
    if (address.isEmpty()) {
      throw new ServiceException(
          ServiceException.NOT_REACHABLE,
          "it is not known where the service is; start one with ./longthread demo, or name it"
              + " with --url or LONGTHREAD_URL");
    }
    return new ServiceClient(
        address, token != null ? token : environment.getOrDefault("LONGTHREAD_TOKEN", ""));
  }

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
      return Integer.parseInt(environment.getOrDefault("COLUMNS", "100"));
    } catch (NumberFormatException e) {
      return 100;
    }
  }

  /** A text in a colour, where the output is a terminal that shows colours. */
  static String lit(String style, String text) {
    boolean plain =
        Main.environment().containsKey("NO_COLOR")
            || !Main.environment().containsKey("LONGTHREAD_TERMINAL");
    return plain ? text : CommandLine.Help.Ansi.ON.string("@|" + style + " " + text + "|@");
  }

  void printJson(JsonNode answer) {
    out().println(PRETTY.writeValueAsString(answer));
  }

  static String time(JsonNode at) {
    return at.isString()
        ? TIME.format(
            LocalDateTime.ofInstant(Instant.parse(at.stringValue()), ZoneId.systemDefault()))
        : "-";
  }

  static String seconds(JsonNode seconds) {
    if (!seconds.isNumber()) {
      return "-";
    }
    double value = seconds.doubleValue();
    if (value < 60) {
      return String.format("%.1f s", value);
    }
    Duration duration = Duration.ofMillis((long) (value * 1000));
    return duration.toMinutes() + " min " + duration.toSecondsPart() + " s";
  }

  static String text(JsonNode node) {
    return node.isMissingNode() || node.isNull()
        ? "-"
        : node.isString() ? node.stringValue() : node.toString();
  }

  static String joined(JsonNode list) {
    var words = new java.util.ArrayList<String>();
    list.forEach(word -> words.add(text(word)));
    return String.join(", ", words);
  }

  /** Everyone to turn to, with their addresses. */
  static String owners(JsonNode owners) {
    var words = new java.util.ArrayList<String>();
    for (JsonNode owner : owners) {
      String address = owner.path("address").stringValue("");
      words.add(
          owner.path("name").stringValue("") + (address.isEmpty() ? "" : " <" + address + ">"));
    }
    return words.isEmpty() ? "-" : String.join(", ", words);
  }

  /** Rows as CSV with a heading. */
  void printCsv(List<String> heading, List<List<String>> rows) {
    out().print(Csv.text(heading, rows));
  }
}
