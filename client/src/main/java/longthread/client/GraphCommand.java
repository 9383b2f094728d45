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

/** What feeds something, or what it feeds, nearest first. */
abstract class GraphCommand extends Output implements Callable<Integer> {
  @Parameters(paramLabel = "NAME", description = "An asset, or a column as asset#column.")
  private String name = "";

  @Option(
      names = "--hops",
      paramLabel = "N",
      description = "How far, in links; all the way without it.")
  private @Nullable Integer hops;

  @Option(
      names = "--detail",
      paramLabel = "LEVEL",
      description = "systems, assets, steps or columns.")
  private @Nullable String detail;

  @Option(names = "--kind", paramLabel = "KIND", description = "Only this kind, such as report.")
  private @Nullable String kind;

  @Option(
      names = "--limit",
      defaultValue = "1000",
      paramLabel = "N",
      description = "How many at most (${DEFAULT-VALUE}).")
  private int limit;

  @Option(names = "--csv", description = "Print as CSV.")
  private boolean csv;

  private final String direction;

  GraphCommand(String direction) {
    this.direction = direction;
  }

  @Override
  public Integer call() {
    var parameters = new LinkedHashMap<String, @Nullable Object>();
    parameters.put("ref", name);
    parameters.put("direction", direction);
    parameters.put("hops", hops == null ? 1_000 : hops);
    parameters.put("detail", detail);
    parameters.put("limit", limit);
    JsonNode view = service().get("/api/v1/graph", parameters);
    if (json) {
      printJson(view);
      return 0;
    }
    var rows = new ArrayList<List<String>>();
    for (JsonNode node : view.path("nodes")) {
      int distance = Math.abs(node.path("hops").intValue());
      if (distance == 0 || (kind != null && !kind.equals(text(node.path("kind"))))) {
        continue;
      }
      String column = node.path("column").isString() ? "#" + text(node.path("column")) : "";
      rows.add(
          List.of(
              "" + distance,
              text(node.path("kind")),
              text(node.path("name")) + column,
              text(node.path("system")),
              joined(node.path("owners")),
              text(node.path("ref"))));
    }
    List<String> heading = List.of("HOPS", "KIND", "NAME", "SYSTEM", "OWNERS", "REFERENCE");
    if (csv) {
      printCsv(heading, rows);
      return 0;
    }
    if (rows.isEmpty()) {
      note("nothing lies " + direction + " of " + text(view.path("focus").path("ref")));
    } else {
      var table = new Table(heading.toArray(String[]::new));
      rows.forEach(row -> table.row(row.toArray(String[]::new)));
      print(table);
    }
    constants(view);
    deciding(view);
    if (view.path("truncated").booleanValue()) {
      note("there is more; --limit lists it");
    }
    return 0;
  }

  /** The branches on which a column is set to a constant, so that nothing lies upstream of it. */
  private void constants(JsonNode view) {
    if (!view.path("constants").isEmpty()) {
      out().println("\nset to a constant on some branch, which carries no data from upstream:");
      var table = new Table("COLUMN", "CONSTANT", "BY");
      for (JsonNode constant : view.path("constants")) {
        table.row(
            ShowCommand.shortened(text(constant.path("column"))),
            text(constant.path("text")),
            text(constant.path("job")));
      }
      print(table);
    }
  }

  /** The columns that only decide which rows there are, told apart. */
  private void deciding(JsonNode view) {
    if (!view.path("deciding").isEmpty()) {
      out().println("\nonly decide which rows there are:");
      var table = new Table("COLUMN", "HOW", "ROWS OF");
      for (JsonNode link : view.path("deciding")) {
        table.row(
            ShowCommand.shortened(text(link.path("from"))),
            joined(link.path("flows")),
            ShowCommand.shortened(text(link.path("to"))));
      }
      print(table);
    }
  }

  @Command(
      name = "upstream",
      description = "List what feeds an asset or column, nearest first.",
      mixinStandardHelpOptions = true,
      footer = {
        "",
        "Examples:",
        "  longthread upstream payout_statement#amount",
        "  longthread upstream 'Ten-day payout' --detail steps"
      })
  static final class Upstream extends GraphCommand {
    Upstream() {
      super("upstream");
    }
  }

  @Command(
      name = "downstream",
      description = "List what an asset or column feeds, nearest first.",
      mixinStandardHelpOptions = true,
      footer = {
        "",
        "Examples:",
        "  longthread downstream core.lab_reading#fat_pct",
        "  longthread downstream drop/readings --kind report"
      })
  static final class Downstream extends GraphCommand {
    Downstream() {
      super("downstream");
    }
  }
}
