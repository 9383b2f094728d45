package longthread.client;

import java.util.LinkedHashMap;
import java.util.concurrent.Callable;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

@Command(
    name = "impact",
    description =
        "Judge a change before it is made: what breaks, goes stale, shifts, or stays untouched.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Examples:",
      "  longthread impact collect.public.pickup#litres --change rename --to volume_l",
      "  longthread impact core.lab_reading#fat_pct --change values --kind report",
      "  longthread impact collect.public.pickup#litres --csv > impact.csv",
      "  longthread impact raw.farm --change drop --fail-on breaks"
    })
final class ImpactCommand extends Output implements Callable<Integer> {
  @Parameters(paramLabel = "NAME", description = "The asset or column that changes.")
  private String name = "";

  @Option(
      names = "--change",
      defaultValue = "drop",
      paramLabel = "CHANGE",
      description = "drop, rename, retype, values, rows or delay (${DEFAULT-VALUE}).")
  private String change = "drop";

  @Option(names = "--to", paramLabel = "NAME|TYPE", description = "The new name or type.")
  private @Nullable String to;

  @Option(
      names = "--hops",
      paramLabel = "N",
      description = "How far, in links; all the way without it.")
  private @Nullable Integer hops;

  @Option(names = "--kind", paramLabel = "KIND", description = "Only this kind.")
  private @Nullable String kind;

  @Option(names = "--owner", paramLabel = "OWNER", description = "Only of this owner.")
  private @Nullable String owner;

  @Option(names = "--system", paramLabel = "SYSTEM", description = "Only in this system.")
  private @Nullable String system;

  @Option(names = "--threads", description = "Draw the thread to each item.")
  private boolean threads;

  @Option(
      names = "--limit",
      defaultValue = "100",
      paramLabel = "N",
      description = "How many to list (${DEFAULT-VALUE}).")
  private int limit;

  @Option(names = "--csv", description = "Print the whole list as a sheet.")
  private boolean csv;

  @Option(
      names = "--fail-on",
      paramLabel = "VERDICT",
      description = "End with exit code 1 if any item has this verdict, such as breaks.")
  private @Nullable String failOn;

  @Override
  public Integer call() {
    var parameters = new LinkedHashMap<String, @Nullable Object>();
    parameters.put("ref", name);
    parameters.put("change", change);
    parameters.put("to", to);
    parameters.put("hops", hops);
    parameters.put("kind", kind);
    parameters.put("owner", owner);
    parameters.put("system", system);
    if (csv) {
      out().print(service().csv("/api/v1/impact", parameters));
      out().flush();
      return 0;
    }
    parameters.put("limit", limit);
    JsonNode impact = service().get("/api/v1/impact", parameters);
    if (json) {
      printJson(impact);
    } else {
      tell(impact);
    }
    boolean found =
        failOn != null && impact.path("summary").path("verdicts").path(failOn).intValue(0) > 0;
    return found ? ServiceException.FINDING : 0;
  }

  private void tell(JsonNode impact) {
    JsonNode counts = impact.path("summary").path("verdicts");
    out()
        .printf(
            "%s of %s: %d break, %d go stale, %d shift in values, %d in rows, %d untouched (%d certainly)%n%n",
            text(impact.path("change")),
            text(impact.path("of")),
            counts.path("breaks").intValue(0),
            counts.path("goes-stale").intValue(0),
            counts.path("values-shift").intValue(0),
            counts.path("rows-shift").intValue(0),
            impact.path("untouched").path("count").intValue(),
            impact.path("untouched").path("certain").intValue());
    var table = new Table("VERDICT", "HOPS", "KIND", "NAME", "OWNERS", "COLUMNS", "REFERENCE");
    for (JsonNode item : impact.path("items")) {
      String doubt = text(item.path("certainty")).equals("possible") ? " (possible)" : "";
      var columns = new java.util.ArrayList<String>();
      item.path("columns").forEach(column -> columns.add(text(column.path("name"))));
      table.row(
          text(item.path("verdict")) + doubt,
          text(item.path("hops")),
          text(item.path("kind")),
          text(item.path("name")),
          joined(item.path("owners")),
          String.join(", ", columns),
          text(item.path("ref")));
    }
    for (JsonNode item : impact.path("untouched").path("items")) {
      String doubt = text(item.path("certainty")).equals("possible") ? " (possible)" : "";
      table.row(
          "untouched" + doubt,
          text(item.path("hops")),
          text(item.path("kind")),
          text(item.path("name")),
          "",
          "",
          text(item.path("ref")));
    }
    print(table);
    if (threads) {
      for (JsonNode item : impact.path("items")) {
        out().printf("%n%s: %s%n", text(item.path("verdict")), text(item.path("name")));
        out().print(PathPrinter.text(item.path("thread")));
      }
    }
    if (impact.path("cursor").isString()) {
      note(
          impact.path("items").size()
              + " of "
              + text(impact.path("total"))
              + "; --limit or --csv lists more");
    }
  }
}
