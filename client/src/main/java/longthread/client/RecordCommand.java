package longthread.client;

import java.util.ArrayList;
import java.util.List;
import java.util.TreeMap;
import java.util.concurrent.Callable;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

@Command(
    name = "record",
    description = "Record lineage by hand that no program reports; list what is recorded.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Observation never replaces what is recorded: it confirms it. A name that the catalog does not",
      "have yet is given in full, as namespace/name.",
      "Examples:",
      "  longthread record --reads drop/readings.csv --writes raw.lab_reading --until 2027-03-31",
      "  longthread record --column 'drop/readings.csv#fat -> raw.lab_reading#fat transformation'",
      "  longthread record --job @office/export --reads core.farm --writes share/farms.xlsx",
      "  longthread record --list --state ending     longthread record --withdraw ID"
    })
final class RecordCommand extends Stating implements Callable<Integer> {
  private static final List<String> STATES =
      List.of("confirmed", "unconfirmed", "questioned", "ending", "ended", "withdrawn");
  private static final List<String> FLOWS =
      List.of(
          "identity",
          "transformation",
          "aggregation",
          "conditional",
          "window",
          "join",
          "filter",
          "group-by",
          "sort");
  private static final Pattern COLUMN = Pattern.compile("^(.+?)\\s*->\\s*(.+?)(?:\\s+([a-z-]+))?$");

  @Option(names = "--id", paramLabel = "ID", description = "The record to replace; else a new one.")
  private @Nullable String id;

  @Option(names = "--title", paramLabel = "TEXT", description = "What it is, in a few words.")
  private @Nullable String title;

  @Option(
      names = "--job",
      paramLabel = "JOB",
      description = "The job that does it, if one is known.")
  private @Nullable String job;

  @Option(names = "--reads", paramLabel = "NAME", description = "What is read; may be repeated.")
  private List<String> reads = List.of();

  @Option(
      names = "--writes",
      paramLabel = "NAME",
      description = "What is written; may be repeated.")
  private List<String> writes = List.of();

  @Option(
      names = "--column",
      paramLabel = "'FROM -> TO [FLOW]'",
      description = "A column and what becomes of it; the flow is identity unless given.")
  private List<String> columns = List.of();

  @Option(
      names = "--until",
      paramLabel = "DATE",
      description =
          "The last day on which it holds; before it comes the record is listed as ending.")
  private @Nullable String until;

  @Option(names = "--withdraw", paramLabel = "ID", description = "End a record now.")
  private @Nullable String withdraw;

  @Option(names = "--list", description = "List what is recorded, and what became of it.")
  private boolean list;

  @Option(names = "--csv", description = "List as CSV, for edit apply.")
  private boolean csv;

  @Option(names = "--of", paramLabel = "NAME", description = "List only what names this asset.")
  private @Nullable String of;

  @Option(
      names = "--state",
      paramLabel = "STATE",
      description =
          "List only these: confirmed, unconfirmed, questioned, ending, ended, withdrawn.")
  private @Nullable String state;

  @Override
  public Integer call() {
    ClosedWords.check(spec, "--state", state, STATES);
    if (list || csv || of != null || state != null) {
      return list();
    }
    ArrayNode changes = changes();
    ObjectNode change = change(changes, "recorded");
    if (withdraw != null) {
      change.put("id", withdraw).putNull("value");
      return state(changes);
    }
    if (reads.isEmpty() && writes.isEmpty() && columns.isEmpty()) {
      throw wrong("Nothing to record: give --reads and --writes, or --column; or --list");
    }
    if (id != null) {
      change.put("id", id);
    }
    ObjectNode value = change.putObject("value");
    put(value, "title", title);
    put(value, "job", job);
    put(value, "until", until);
    texts(value, "reads", reads);
    texts(value, "writes", writes);
    ArrayNode links = value.putArray("columns");
    for (String column : columns) {
      Matcher parts = COLUMN.matcher(column.strip());
      if (!parts.matches()) {
        throw wrong("'" + column + "' is no column link; write 'table#column -> table#column'");
      }
      String flow = parts.group(3) == null ? "identity" : parts.group(3);
      ClosedWords.check(spec, "--column", flow, FLOWS);
      links.addObject().put("from", parts.group(1)).put("to", parts.group(2)).put("flow", flow);
    }
    return state(changes);
  }

  private static void put(ObjectNode node, String member, @Nullable String value) {
    if (value != null) {
      node.put(member, value);
    }
  }

  private int list() {
    var parameters = new TreeMap<String, @Nullable Object>();
    parameters.put("ref", of);
    parameters.put("state", state);
    if (csv) {
      out().print(service().csv("/api/v1/recorded", parameters));
      out().flush();
      return 0;
    }
    parameters.put("limit", 1_000);
    JsonNode answer = service().get("/api/v1/recorded", parameters, JsonNode.class).json();
    if (json) {
      printJson(answer);
      return 0;
    }
    var table = new Table("STATE", "WRITES", "READS", "BY", "UNTIL", "WHY", "ID");
    for (JsonNode link : answer.path("items")) {
      table.row(
          link.path("state").stringValue(""),
          link.path("job").isString()
              ? link.path("job").stringValue() + " -> " + shown(link.path("writes"))
              : shown(link.path("writes")),
          shown(link.path("reads")),
          link.path("by").stringValue(""),
          lastDay(link.path("until").stringValue(null)),
          link.path("why").stringValue(""),
          link.path("id").stringValue(""));
    }
    print(table);
    return 0;
  }

  /** The last day on which a record holds: it ends at the moment given. */
  private static String lastDay(@Nullable String until) {
    return until == null
        ? "-"
        : java.time.Instant.parse(until).minusMillis(1).toString().substring(0, 10);
  }

  private static String shown(JsonNode refs) {
    var names = new ArrayList<String>();
    refs.forEach(ref -> names.add(ref.stringValue("")));
    return names.isEmpty() ? "-" : String.join(", ", names);
  }
}
