package longthread.client;

import java.net.URLDecoder;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import longthread.client.answers.AssetAnswer;
import longthread.client.answers.JobAnswer;
import picocli.CommandLine.Command;
import picocli.CommandLine.Parameters;

@Command(
    name = "show",
    description =
        "Show one asset: what it is, its columns and where each comes from, its runs and checks.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Examples:",
      "  longthread show mart.payout_statement",
      "  longthread show @build_payout",
      "  longthread show 'Ten-day payout' --json"
    })
final class ShowCommand extends Output implements Callable<Integer> {
  private static final int MAX_RUNS = 5;

  @Parameters(paramLabel = "NAME", description = "A reference or an ending of one.")
  private String name = "";

  @Override
  public Integer call() {
    ServiceClient service = service();
    var reply = service.get("/api/v1/asset", Map.of("ref", name), AssetAnswer.class);
    if (json) {
      printJson(reply.json());
      return 0;
    }
    AssetAnswer asset = reply.value();
    printHeading(asset);
    if (text(asset.ref()).startsWith("@")) {
      printJob(service.get("/api/v1/job", Map.of("ref", asset.ref()), JobAnswer.class).value());
      if (asset.code() != null && asset.code().text() != null) {
        out().printf("%n%s%n", asset.code().text());
      }
    } else {
      printColumns(asset);
      printChecks(asset);
    }
    printNeighbours("Upstream", asset.upstream());
    printNeighbours("Downstream", asset.downstream());
    printRuns(asset);
    return 0;
  }

  private void printHeading(AssetAnswer asset) {
    out()
        .printf(
            "%s  (%s)%n",
            styled("bold", asset.title() == null ? text(asset.name()) : asset.title()),
            asset.kind().equals(asset.system())
                ? asset.kind()
                : text(asset.kind()) + " in " + text(asset.system()));
    out().println(text(asset.ref()));
    if (!asset.described()) {
      out().println("only mentioned: no event described it");
    }
    if (asset.description() != null) {
      out().println(asset.description());
    }
    line("owner", owners(asset.owners()));
    lineIf(!asset.labels().isEmpty(), "labels", joined(asset.labels()));
    lineIf(asset.url() != null, "address", text(asset.url()));
    printHealth(asset);
    for (AssetAnswer.Former former : asset.formerly()) {
      line("formerly", former.ref() + " until " + time(former.until()));
    }
    if (asset.folded()) {
      line("folded", "from " + asset.partCount() + " parts; history --parts lists them");
    } else if (asset.parts().size() > 1) {
      line("merged", joined(asset.parts()));
    }
    String details = joined(asset.details().stream().map(d -> d.name() + " " + d.value()).toList());
    lineIf(!details.isEmpty(), "also", details);
    lineIf(asset.gap() != null, "gap", text(asset.gap()));
    for (AssetAnswer.Tie tie : asset.ties()) {
      String what = tie.data() ? ", whose data it reads" : " (control flow)";
      line(tie.before() ? "after" : "before", tie.ref() + what);
    }
  }

  private void printHealth(AssetAnswer asset) {
    AssetAnswer.Health health = asset.health();
    if (health != null) {
      for (AssetAnswer.ShownNotice notice : health.notices()) {
        String level = notice.level().equals("stop") ? "do not use: " : "";
        line("notice", level + notice.text() + " (" + notice.by() + ", on " + notice.name() + ")");
      }
      AssetAnswer.Inherited inherited = health.inherited();
      lineIf(
          inherited == null || !health.state().equals("unknown"),
          "health",
          ClosedWords.spoken(health.state()) + ": " + health.reason());
      if (inherited != null) {
        String word = ClosedWords.spoken(inherited.state());
        line("upstream", word + ": " + inherited.reason());
      }
    }
    lineIf(asset.dependents() > 0, "carries", asset.dependents() + " assets rest on it");
    AssetAnswer.Freshness freshness = asset.freshness();
    if (freshness != null) {
      lineIf(freshness.written() != null, "written", time(freshness.written()));
      lineIf(freshness.expected() != null, "expected", "next by " + time(freshness.expected()));
      lineIf(
          freshness.oldestInput() != null,
          "oldest",
          "its data of " + freshness.oldestInput() + " was taken " + time(freshness.oldestAt()));
    }
  }

  private void line(String label, String text) {
    out().printf("%-8s %s%n", label, text);
  }

  private void lineIf(boolean shown, String label, String text) {
    if (shown) {
      line(label, text);
    }
  }

  private void printColumns(AssetAnswer asset) {
    var table = new Table("COLUMN", "TYPE", "FROM", "LABELS", "MEANING");
    for (AssetAnswer.Column column : asset.columns()) {
      var sources = new ArrayList<String>();
      for (AssetAnswer.Source source : column.sources()) {
        var jobs = source.jobs().stream().map(ref -> shortened(ref)).toList();
        sources.add(
            source.how()
                + " "
                + shortened(source.ref())
                + (jobs.size() > 1 ? " by " + String.join(" and ", jobs) : ""));
      }
      column.constants().forEach(constant -> sources.add("constant " + constant.text()));
      table.row(
          spelled(column.name()) + (column.listed() ? "" : " (unlisted)"),
          text(column.type()),
          sources.isEmpty() ? "-" : joined(sources),
          joined(labels(column)),
          meaning(column));
    }
    printUnlessEmpty(table);
  }

  /** What is set on a column, and what came to it, from where. */
  private static List<String> labels(AssetAnswer.Column column) {
    var labels = new ArrayList<>(column.labels());
    for (AssetAnswer.Labelled inherited : column.inherited()) {
      String perhaps = inherited.how().equals("perhaps") ? "perhaps " : "";
      String how =
          inherited.from() == null
              ? " by " + inherited.setBy()
              : " from " + shortened(inherited.from());
      labels.add(perhaps + inherited.label() + how);
    }
    return labels;
  }

  private static String meaning(AssetAnswer.Column column) {
    String words = column.description() == null ? "" : column.description();
    return column.calculation() == null
        ? words
        : words + (words.isEmpty() ? "" : "; ") + "calculated: " + column.calculation();
  }

  private void printUnlessEmpty(Table table) {
    if (!table.isEmpty()) {
      out().println();
      print(table);
    }
  }

  /** The end of a reference that is enough for a person who knows the place. */
  /** A column's name as its schema spells it, without the encoding of references. */
  private static String spelled(String path) {
    return path.indexOf('%') < 0
        ? path
        : URLDecoder.decode(path.replace("+", "%2B"), StandardCharsets.UTF_8);
  }

  static String shortened(String ref) {
    int hash = ref.indexOf('#');
    String path = hash < 0 ? ref : ref.substring(0, hash);
    String column = hash < 0 ? "" : ref.substring(hash);
    String name = path.substring(path.lastIndexOf('/') + 1);
    String[] parts = name.split("\\.");
    String two = parts.length < 2 ? name : parts[parts.length - 2] + "." + parts[parts.length - 1];
    return two + column;
  }

  private void printJob(JobAnswer job) {
    for (JobAnswer.Target target : job.targets()) {
      out().printf("%nwrites %s%n", target.ref());
      var table = new Table("COLUMN", "HOW", "FROM");
      for (JobAnswer.TargetColumn column : target.columns()) {
        var how = new LinkedHashSet<String>();
        column.from().forEach(from -> how.addAll(from.how()));
        table.row(
            column.name(),
            how.isEmpty() ? unsourced(column) : String.join(", ", how),
            joined(column.from().stream().map(from -> shortened(from.ref())).toList()));
      }
      print(table);
      if (target.missing() != null) {
        out().println("note: " + target.missing());
      }
    }
    var unused = new Table("UNUSED INPUT COLUMNS", "USED TO");
    for (JobAnswer.Input input : job.inputs()) {
      for (JobAnswer.InputColumn column : input.columns()) {
        if (column.lands().isEmpty()) {
          unused.row(
              shortened(input.ref()) + "#" + column.name(),
              column.decides().isEmpty()
                  ? "-"
                  : joined(column.decides().stream().map(ClosedWords::spoken).toList()));
        }
      }
    }
    printUnlessEmpty(unused);
  }

  private static String unsourced(JobAnswer.TargetColumn column) {
    if (!column.constants().isEmpty()) {
      return "constant " + String.join(" or ", column.constants());
    }
    return column.reported() ? "row count" : "not reported";
  }

  private void printChecks(AssetAnswer asset) {
    var table = new Table("CHECK", "COLUMN", "RESULT", "AT", "DETAIL");
    for (AssetAnswer.Check check : asset.checks()) {
      table.row(
          check.name(),
          text(check.column()),
          check.passed() ? "passed" : "failed",
          time(check.at()),
          text(check.detail()));
    }
    printUnlessEmpty(table);
  }

  private void printNeighbours(String heading, List<AssetAnswer.Neighbour> neighbours) {
    if (!neighbours.isEmpty()) {
      out().printf("%n%s%n", heading);
      neighbours.forEach(
          one -> out().printf("  %s  (%s)  %s%n", text(one.name()), text(one.kind()), one.ref()));
    }
  }

  private void printRuns(AssetAnswer asset) {
    var table = new Table("RUN STARTED", "STATE", "JOB", "TOOK", "WRITTEN", "ERROR");
    asset.runs().stream()
        .limit(MAX_RUNS)
        .forEach(
            run ->
                table.row(
                    time(run.start()),
                    text(run.state()),
                    text(run.job()),
                    seconds(run.seconds()),
                    text(run.rowsWritten()),
                    run.error() == null ? "" : run.error()));
    printUnlessEmpty(table);
  }
}
