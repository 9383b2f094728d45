package longthread.client;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

@Command(
    name = "find",
    description =
        "Find assets by words, parts of words, owner, label, or an address in another tool.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Examples:",
      "  longthread find fat readings",
      "  longthread find payuot --kind report",
      "  longthread find https://sightglass.hollinvale.example/farm-payments/report/ten-day-payout"
    })
final class FindCommand extends Output implements Callable<Integer> {
  @Parameters(
      arity = "0..*",
      paramLabel = "WORD",
      description = "What to look for; nothing lists all.")
  private List<String> words = List.of();

  @Option(
      names = "--kind",
      paramLabel = "KIND",
      description = "table, view, file, topic, model, chart, report, dashboard, job, pipeline …")
  private @Nullable String kind;

  @Option(names = "--system", paramLabel = "SYSTEM", description = "Only in this system.")
  private @Nullable String system;

  @Option(names = "--owner", paramLabel = "OWNER", description = "Only of this owner.")
  private @Nullable String owner;

  @Option(names = "--label", paramLabel = "LABEL", description = "Only with this label or tag.")
  private @Nullable String label;

  @Option(
      names = "--limit",
      defaultValue = "20",
      paramLabel = "N",
      description = "How many to list (${DEFAULT-VALUE}).")
  private int limit;

  @Option(names = "--csv", description = "Print as CSV.")
  private boolean csv;

  @Override
  public Integer call() {
    var parameters = new LinkedHashMap<String, @Nullable Object>();
    parameters.put("q", String.join(" ", words));
    parameters.put("kind", kind);
    parameters.put("system", system);
    parameters.put("owner", owner);
    parameters.put("label", label);
    parameters.put("limit", limit);
    JsonNode answer = service().get("/api/v1/search", parameters);
    if (json) {
      printJson(answer);
      return 0;
    }
    var rows = new ArrayList<List<String>>();
    for (JsonNode hit : answer.path("hits")) {
      rows.add(
          List.of(
              hit.path("title").isString() ? text(hit.path("title")) : text(hit.path("name")),
              text(hit.path("kind")),
              text(hit.path("system")),
              joined(hit.path("columns")),
              joined(hit.path("owners")),
              text(hit.path("ref"))));
    }
    List<String> heading = List.of("NAME", "KIND", "SYSTEM", "COLUMNS", "OWNERS", "REFERENCE");
    if (csv) {
      printCsv(heading, rows);
      return 0;
    }
    if (rows.isEmpty()) {
      note("nothing matches; try fewer or other words, or --help for the filters");
      return 0;
    }
    var table = new Table(heading.toArray(String[]::new));
    rows.forEach(row -> table.row(row.toArray(String[]::new)));
    print(table);
    int total = answer.path("total").intValue();
    if (total > rows.size()) {
      note(rows.size() + " of " + total + "; --limit lists more");
    }
    return 0;
  }
}
