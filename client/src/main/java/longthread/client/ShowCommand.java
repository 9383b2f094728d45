package longthread.client;

import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.Map;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

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
  private static final int RUNS = 5;

  @Parameters(paramLabel = "NAME", description = "A reference or an ending of one.")
  private String name = "";

  @Override
  public Integer call() {
    ServiceClient service = service();
    JsonNode asset = service.get("/api/v1/asset", Map.of("ref", name));
    if (json) {
      printJson(asset);
      return 0;
    }
    heading(asset);
    if (text(asset.path("ref")).startsWith("@")) {
      job(service.get("/api/v1/job", Map.of("ref", text(asset.path("ref")))));
      if (asset.path("code").path("text").isString()) {
        out().printf("%n%s%n", text(asset.path("code").path("text")));
      }
    } else {
      columns(asset);
      checks(asset);
    }
    neighbours("comes from", asset.path("upstream"));
    neighbours("feeds", asset.path("downstream"));
    runs(asset);
    return 0;
  }

  private void heading(JsonNode asset) {
    String title =
        asset.path("title").isString() ? text(asset.path("title")) : text(asset.path("name"));
    out()
        .printf(
            "%s  (%s in %s)%n",
            lit("bold", title), text(asset.path("kind")), text(asset.path("system")));
    out().println(text(asset.path("ref")));
    if (!asset.path("described").booleanValue()) {
      out().println("only mentioned: no event described it");
    }
    if (asset.path("description").isString()) {
      out().println(text(asset.path("description")));
    }
    out().println("owner   " + owners(asset.path("owners")));
    if (!asset.path("labels").isEmpty()) {
      out().println("labels  " + joined(asset.path("labels")));
    }
    if (asset.path("url").isString()) {
      out().println("address " + text(asset.path("url")));
    }
    JsonNode freshness = asset.path("freshness");
    if (freshness.path("written").isString()) {
      out().println("written " + time(freshness.path("written")));
    }
    for (JsonNode former : asset.path("formerly")) {
      out()
          .println("formerly " + text(former.path("ref")) + " until " + time(former.path("until")));
    }
    if (asset.path("folded").booleanValue(false)) {
      out()
          .println(
              "folded  from "
                  + text(asset.path("partCount"))
                  + " parts; history --parts lists them");
    } else if (asset.path("parts").size() > 1) {
      out().println("merged  " + joined(asset.path("parts")));
    }
    var details = new ArrayList<String>();
    for (JsonNode detail : asset.path("details")) {
      details.add(text(detail.path("name")) + " " + text(detail.path("value")));
    }
    if (!details.isEmpty()) {
      out().println("also    " + String.join(", ", details));
    }
    if (asset.path("gap").isString()) {
      out().println("gap     " + text(asset.path("gap")));
    }
    for (JsonNode tie : asset.path("ties")) {
      out()
          .println(
              (tie.path("before").booleanValue(false) ? "after   " : "before  ")
                  + text(tie.path("ref"))
                  + (tie.path("data").booleanValue(false)
                      ? ", whose data it takes"
                      : " (control flow)"));
    }
  }

  private void columns(JsonNode asset) {
    var table = new Table("COLUMN", "TYPE", "COMES FROM", "LABELS", "MEANING");
    for (JsonNode column : asset.path("columns")) {
      var sources = new ArrayList<String>();
      for (JsonNode source : column.path("sources")) {
        sources.add(
            PathPrinter.words(text(source.path("flow")))
                + " "
                + shortened(text(source.path("ref"))));
      }
      for (JsonNode constant : column.path("constants")) {
        sources.add("constant " + text(constant.path("text")));
      }
      table.row(
          text(column.path("name")) + (column.path("listed").booleanValue() ? "" : " (unlisted)"),
          text(column.path("type")),
          sources.isEmpty() ? "-" : String.join(", ", sources),
          joined(column.path("labels")),
          column.path("description").isString() ? text(column.path("description")) : "");
    }
    if (!table.isEmpty()) {
      out().println();
      print(table);
    }
  }

  /** The part of a reference that is enough for a person who knows the place. */
  static String shortened(String ref) {
    int hash = ref.indexOf('#');
    String path = hash < 0 ? ref : ref.substring(0, hash);
    String column = hash < 0 ? "" : ref.substring(hash);
    String name = path.substring(path.lastIndexOf('/') + 1);
    String[] parts = name.split("\\.");
    String two = parts.length < 2 ? name : parts[parts.length - 2] + "." + parts[parts.length - 1];
    return two + column;
  }

  private void job(JsonNode job) {
    for (JsonNode target : job.path("targets")) {
      out().printf("%nwrites %s%n", text(target.path("ref")));
      var table = new Table("COLUMN", "HOW", "FROM");
      for (JsonNode column : target.path("columns")) {
        var how = new LinkedHashSet<String>();
        var from = new ArrayList<String>();
        for (JsonNode source : column.path("from")) {
          how.add(PathPrinter.words(text(source.path("flows").get(0))));
          from.add(shortened(text(source.path("ref"))));
        }
        boolean told = column.path("told").booleanValue();
        table.row(
            text(column.path("name")),
            how.isEmpty()
                ? (told ? "set to a constant or by rows" : "not told")
                : String.join(", ", how),
            String.join(", ", from));
      }
      print(table);
      if (target.path("missing").isString()) {
        out().println("note: " + text(target.path("missing")));
      }
    }
    var unused = new Table("READ, AND LANDS NOWHERE", "USED FOR");
    for (JsonNode input : job.path("inputs")) {
      for (JsonNode column : input.path("columns")) {
        if (column.path("lands").isEmpty()) {
          unused.row(
              shortened(text(input.path("ref"))) + "#" + text(column.path("name")),
              column.path("decides").isEmpty() ? "-" : joined(column.path("decides")));
        }
      }
    }
    if (!unused.isEmpty()) {
      out().println();
      print(unused);
    }
  }

  private void checks(JsonNode asset) {
    if (asset.path("checks").isEmpty()) {
      return;
    }
    out().println();
    var table = new Table("CHECK", "COLUMN", "RESULT", "AT", "DETAIL");
    for (JsonNode check : asset.path("checks")) {
      table.row(
          text(check.path("name")),
          text(check.path("column")),
          check.path("passed").booleanValue() ? "passed" : "failed",
          time(check.path("at")),
          text(check.path("detail")));
    }
    print(table);
  }

  private void neighbours(String heading, JsonNode list) {
    if (list.isEmpty()) {
      return;
    }
    out().printf("%n%s%n", heading);
    for (JsonNode one : list) {
      out()
          .printf(
              "  %s  (%s)  %s%n",
              text(one.path("name")), text(one.path("kind")), text(one.path("ref")));
    }
  }

  private void runs(JsonNode asset) {
    if (asset.path("runs").isEmpty()) {
      return;
    }
    out().println();
    var table = new Table("RUN STARTED", "STATE", "JOB", "TOOK", "WRITTEN", "ERROR");
    int shown = 0;
    for (JsonNode run : asset.path("runs")) {
      if (shown++ == RUNS) {
        break;
      }
      table.row(
          time(run.path("start")),
          text(run.path("state")),
          text(run.path("job")),
          seconds(run.path("seconds")),
          text(run.path("rowsWritten")),
          run.path("error").isString() ? text(run.path("error")) : "");
    }
    print(table);
  }
}
