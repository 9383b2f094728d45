package longthread.client;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import longthread.client.answers.ImpactAnswer;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

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
      "  longthread impact raw.farm --change drop --fail-on breaks,goes-stale"
    })
final class ImpactCommand extends Output implements Callable<Integer> {
  private static final int SCREENFUL = 100;
  private static final List<String> CHANGES =
      List.of("drop", "rename", "retype", "values", "rows", "delay");

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

  @Option(names = "--threads", description = "Draw the thread to each item.")
  private boolean threads;

  @Option(names = "--csv", description = "Print the whole list as a sheet.")
  private boolean csv;

  @Mixin private Filters filters = new Filters();
  @Mixin private Paging paging = new Paging();
  @Mixin private FailOn failOn = new FailOn();

  @Override
  public Integer call() {
    failOn.check(spec, "breaks", "goes-stale", "values-shift", "rows-shift");
    ClosedWords.check(spec, "--change", change, CHANGES);
    var parameters = new LinkedHashMap<String, @Nullable Object>();
    parameters.put("ref", name);
    parameters.put("change", change);
    parameters.put("to", to);
    parameters.put("hops", hops);
    filters.addTo(parameters, spec);
    if (csv) {
      out().print(service().csv("/api/v1/impact", parameters));
      out().flush();
    }
    parameters.put("limit", paging.orElse(SCREENFUL));
    var reply = service().get("/api/v1/impact", parameters, ImpactAnswer.class);
    if (json) {
      printJson(reply.json());
    } else if (!csv) {
      print(reply.value());
    }
    Map<String, Integer> verdicts = reply.value().summary().verdicts();
    return failOn.exitCode(verdict -> verdicts.getOrDefault(verdict, 0) > 0);
  }

  private void print(ImpactAnswer impact) {
    Map<String, Integer> counts = impact.summary().verdicts();
    out()
        .printf(
            "%s of %s: %d break, %d go stale, %d shift in values, %d in rows, %d untouched (%d certain)%n%n",
            impact.change(),
            impact.of(),
            counts.getOrDefault("breaks", 0),
            counts.getOrDefault("goes-stale", 0),
            counts.getOrDefault("values-shift", 0),
            counts.getOrDefault("rows-shift", 0),
            impact.untouched().count(),
            impact.untouched().certain());
    var table = new Table("VERDICT", "HOPS", "KIND", "NAME", "OWNERS", "COLUMNS", "REFERENCE");
    for (ImpactAnswer.Item item : impact.items()) {
      table.row(
          verdict(item.verdict(), item.certainty()),
          "" + item.hops(),
          text(item.kind()),
          text(item.name()),
          joined(item.owners()),
          joined(item.columns().stream().map(ImpactAnswer.Column::name).toList()),
          text(item.ref()));
    }
    for (ImpactAnswer.Untouched item : impact.untouched().items()) {
      table.row(
          verdict("untouched", item.certainty()),
          "" + item.hops(),
          text(item.kind()),
          text(item.name()),
          "",
          "",
          text(item.ref()));
    }
    print(table);
    if (threads) {
      for (ImpactAnswer.Item item : impact.items()) {
        out().printf("%n%s: %s%n", ClosedWords.spoken(item.verdict()), text(item.name()));
        out().print(PathPrinter.text(item.thread()));
      }
    }
    if (impact.cursor() != null) {
      note(impact.items().size() + " of " + impact.total() + "; --limit or --csv lists more");
    }
  }

  private static String verdict(String verdict, @Nullable String certainty) {
    return ClosedWords.spoken(verdict) + ("possible".equals(certainty) ? " (possible)" : "");
  }
}
