package longthread.client;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
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
      "  longthread impact system:postgres://barn:5432 --change delay --by owner",
      "  longthread impact raw.farm --xlsx impact.xlsx",
      "  longthread impact raw.farm --change drop --fail-on breaks,goes-stale"
    })
final class ImpactCommand extends Output implements Callable<Integer> {
  private static final int SCREENFUL = 100;
  private static final int MOST_FAILURES = 5;
  private static final String PATH = "/api/v1/impact";
  private static final String WORKBOOK =
      "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet";
  private static final List<String> GROUPS =
      List.of("owner", "system", "workspace", "kind", "label");
  private static final List<String> VERDICTS =
      List.of("breaks", "goes-stale", "values-shift", "rows-shift");
  private static final List<String> CHANGES =
      List.of("drop", "rename", "retype", "values", "rows", "delay");

  @Parameters(
      paramLabel = "NAME",
      description = "What changes: an asset, a column, a job, or a system as system:NAME.")
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

  @Option(
      names = "--by",
      paramLabel = "WHAT",
      description = "Count by owner (whom to tell), system, workspace, kind or label.")
  private @Nullable String by;

  @Option(names = "--verdict", paramLabel = "VERDICT", description = "Only with this verdict.")
  private @Nullable String verdict;

  @Option(
      names = "--workspace",
      paramLabel = "WORKSPACE",
      description = "Only models, charts, reports and dashboards of this workspace.")
  private @Nullable String workspace;

  @Option(names = "--csv", description = "Print the whole list as a sheet; with --by, the groups.")
  private boolean csv;

  @Option(names = "--markdown", description = "Print a report for a review or a message.")
  private boolean markdown;

  @Option(
      names = "--xlsx",
      paramLabel = "FILE",
      description = "Write a workbook: all items, contacts, groups, what is untouched.")
  private @Nullable Path xlsx;

  @Mixin private Filters filters = new Filters();
  @Mixin private AsOf asOf = new AsOf();
  @Mixin private Paging paging = new Paging();
  @Mixin private FailOn failOn = new FailOn();

  @Override
  public Integer call() throws IOException {
    failOn.check(spec, VERDICTS.toArray(String[]::new));
    ClosedWords.check(spec, "--change", change, CHANGES);
    ClosedWords.check(spec, "--by", by, GROUPS);
    ClosedWords.check(spec, "--verdict", verdict, VERDICTS);
    var parameters = new LinkedHashMap<String, @Nullable Object>();
    parameters.put("ref", name);
    parameters.put("change", change);
    parameters.put("to", to);
    parameters.put("hops", hops);
    parameters.put("verdict", verdict);
    parameters.put("workspace", workspace);
    parameters.put("groupBy", by);
    asOf.addTo(parameters);
    filters.addTo(parameters, spec);
    if (csv || markdown) {
      out().print(service().text(PATH, parameters, csv ? "text/csv" : "text/markdown"));
      out().flush();
    }
    if (xlsx != null) {
      Files.write(xlsx, service().bytes(PATH, parameters, WORKBOOK));
      note("written to " + xlsx);
    }
    parameters.put("limit", paging.orElse(SCREENFUL));
    var reply = service().get(PATH, parameters, ImpactAnswer.class);
    if (json) {
      printJson(reply.json());
    } else if (!csv && !markdown && xlsx == null) {
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
    if (!impact.groups().isEmpty()) {
      printGroups(impact.groups());
      return;
    }
    printFirstFailures(impact.items());
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

  /** What fails first is mostly one job, so it is said once and not in every row. */
  private void printFirstFailures(List<ImpactAnswer.Item> items) {
    var names =
        items.stream()
            .filter(item -> item.failsFirst() != null)
            .map(item -> item.failsFirst().name())
            .distinct()
            .toList();
    if (!names.isEmpty()) {
      int more = names.size() - MOST_FAILURES;
      out()
          .printf(
              "fails first: %s%s%n%n",
              joined(names.subList(0, Math.min(MOST_FAILURES, names.size()))),
              more > 0 ? ", and " + more + " more" : "");
    }
  }

  private void printGroups(List<ImpactAnswer.Group> groups) {
    var table =
        new Table(
            by == null ? "" : by.toUpperCase(Locale.ROOT),
            "ADDRESS",
            "ITEMS",
            "BREAK",
            "STALE",
            "VALUES",
            "ROWS",
            "FOREMOST");
    for (ImpactAnswer.Group group : groups) {
      table.row(
          group.name() == null ? "(none)" : text(group.name()),
          joined(group.addresses()),
          "" + group.items(),
          "" + group.verdicts().getOrDefault("breaks", 0),
          "" + group.verdicts().getOrDefault("goes-stale", 0),
          "" + group.verdicts().getOrDefault("values-shift", 0),
          "" + group.verdicts().getOrDefault("rows-shift", 0),
          joined(group.foremost().stream().map(ImpactAnswer.Named::name).toList()));
    }
    print(table);
  }

  private static String verdict(String verdict, @Nullable String certainty) {
    return ClosedWords.spoken(verdict) + ("possible".equals(certainty) ? " (possible)" : "");
  }
}
