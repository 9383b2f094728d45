package longthread.client;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import longthread.client.answers.GraphAnswer;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** What feeds something, or what it feeds, nearest first. */
abstract class GraphCommand extends ListOutput implements Callable<Integer> {
  private static final int ALL_THE_WAY = 1_000;
  private static final int MAX_NODES = 1_000;

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

  @Mixin private Filters filters = new Filters();
  @Mixin private AsOf asOf = new AsOf();

  private final String direction;

  GraphCommand(String direction) {
    this.direction = direction;
  }

  @Override
  public Integer call() {
    ClosedWords.check(spec, "--detail", detail, List.of("systems", "assets", "steps", "columns"));
    filters.check(spec);
    Map<String, @Nullable Object> parameters = parameters();
    parameters.put("direction", direction);
    var reply = service().get("/api/v1/graph", parameters, GraphAnswer.class);
    return print(reply);
  }

  /** What is asked, without a direction. */
  Map<String, @Nullable Object> parameters() {
    var parameters = new LinkedHashMap<String, @Nullable Object>();
    parameters.put("ref", name);
    parameters.put("hops", hops == null ? ALL_THE_WAY : hops);
    parameters.put("detail", detail);
    asOf.addTo(parameters);
    parameters.put("limit", paging.orElse(MAX_NODES));
    return parameters;
  }

  private int print(ServiceClient.Reply<GraphAnswer> reply) {
    if (json) {
      printJson(reply.json());
      return 0;
    }
    GraphAnswer view = reply.value();
    List<List<String>> rows =
        view.nodes().stream()
            .filter(node -> node.hops() != 0)
            .filter(node -> filters.pass(node.kind(), node.system(), node.owners()))
            .map(GraphCommand::row)
            .toList();
    if (rows.isEmpty() && !csv) {
      note("nothing lies " + direction + " of " + text(view.focus().ref()));
    } else {
      printList(List.of("HOPS", "KIND", "NAME", "SYSTEM", "OWNERS", "REFERENCE"), rows);
    }
    if (!csv) {
      printConstants(view);
      printDeciding(view);
    }
    if (view.truncated()) {
      note("there is more; --limit lists it");
    }
    return 0;
  }

  private static List<String> row(GraphAnswer.Node node) {
    return List.of(
        "" + Math.abs(node.hops()),
        text(node.kind()),
        text(node.name()) + (node.column() == null ? "" : "#" + node.column()),
        text(node.system()),
        joined(node.owners()),
        text(node.ref()));
  }

  /** The branches on which a column is set to a constant, so that nothing lies upstream of it. */
  private void printConstants(GraphAnswer view) {
    if (!view.constants().isEmpty()) {
      out().println("\nConstant on some branch, which carries no data from upstream:");
      var table = new Table("COLUMN", "CONSTANT", "JOB");
      for (GraphAnswer.Constant constant : view.constants()) {
        table.row(ShowCommand.shortened(constant.column()), constant.text(), text(constant.job()));
      }
      print(table);
    }
  }

  /** The columns that decide which rows there are, apart from those that carry values. */
  private void printDeciding(GraphAnswer view) {
    if (!view.deciding().isEmpty()) {
      out().println("\nColumns that filter, join or group:");
      var table = new Table("COLUMN", "HOW", "ROWS OF");
      for (GraphAnswer.DecidingLink link : view.deciding()) {
        table.row(
            ShowCommand.shortened(link.from()),
            joined(link.flows().stream().map(ClosedWords::spoken).toList()),
            ShowCommand.shortened(link.to()));
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
        "  longthread upstream 'Ten-day payout' --detail steps",
        "  longthread upstream 'Ten-day payout' --exact"
      })
  static final class Upstream extends GraphCommand {
    @Option(
        names = "--exact",
        description = "The runs whose data is in it, and of which version of their job.")
    private boolean exact;

    Upstream() {
      super("upstream");
    }

    @Override
    public Integer call() {
      return exact ? ExactRuns.print(this, parameters()) : super.call();
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
