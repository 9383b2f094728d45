package longthread.client;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.Callable;
import longthread.core.asset.Reference;
import longthread.core.change.BadDocumentException;
import longthread.core.change.ChangeDocument;
import longthread.core.gate.FoundChange;
import longthread.core.gate.GatePolicy;
import longthread.core.gate.SqlChanges;
import longthread.core.sql.Dialect;
import longthread.core.sql.SqlReader;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.ParameterException;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

@Command(
    name = "gate",
    description = "Judge a change before it goes in, by a policy: exit code 1 if it may not.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "Examples:",
      "  longthread gate change.yaml",
      "  longthread gate --git main..HEAD --policy gate.yaml --markdown comment.md",
      "  longthread gate --before old/ --after new/ --names 'postgres://barn:5432/barn.{table}'",
      "  longthread gate --git origin/main...HEAD --sarif gate.sarif --junit gate.xml"
    })
final class GateCommand extends Output implements Callable<Integer> {
  private static final int MAX_ITEMS = 1_000;
  private static final int NOT_FOUND = 3;
  private static final String TABLE = "{table}";

  @Parameters(
      arity = "0..1",
      paramLabel = "FILE",
      description = "A planned change, as YAML or JSON.")
  private @Nullable Path document;

  @Option(
      names = "--before",
      paramLabel = "PATH",
      description = "SQL as it is: a file, or a folder of .sql and .ddl files.")
  private @Nullable Path before;

  @Option(names = "--after", paramLabel = "PATH", description = "SQL as it shall be.")
  private @Nullable Path after;

  @Option(
      names = "--git",
      paramLabel = "RANGE",
      description = "SQL at both ends of a range, such as main..HEAD or origin/main...HEAD.")
  private @Nullable String git;

  @Option(
      names = "--under",
      paramLabel = "PATH",
      description = "With --git, only files below this path; may be repeated.")
  private List<String> under = List.of();

  @Option(
      names = "--names",
      paramLabel = "TEMPLATE",
      description =
          "How tables of the SQL are named in the catalog: 'postgres://host:5432/db.{table}'.")
  private @Nullable String names;

  @Option(
      names = "--dialect",
      paramLabel = "DIALECT",
      description =
          "ansi, postgres, backtick or bracket, or the name of a database; ansi without it.")
  private @Nullable String dialect;

  @Option(
      names = "--policy",
      paramLabel = "FILE",
      description = "What is allowed; without it, what breaks fails and the rest warns.")
  private @Nullable Path policyFile;

  @Option(names = "--sarif", paramLabel = "FILE", description = "Write a SARIF report.")
  private @Nullable Path sarif;

  @Option(names = "--junit", paramLabel = "FILE", description = "Write a JUnit XML report.")
  private @Nullable Path junit;

  @Option(
      names = "--markdown",
      paramLabel = "FILE",
      description = "Write a report for a review comment.")
  private @Nullable Path markdown;

  @Override
  public Integer call() {
    long ways = (document == null ? 0 : 1) + (git == null ? 0 : 1) + (before == null ? 0 : 1);
    if (ways != 1 || (before == null) != (after == null)) {
      throw wrong(
          "give a planned change, or --before with --after, or --git, and only one of these");
    }
    if (names != null && !names.contains(TABLE)) {
      throw wrong("--names needs {table} where the name of the table goes: '" + names + "'");
    }
    GatePolicy policy = policy();
    GateReport report = document == null ? ofFiles(policy) : ofDocument(document, policy);
    write(sarif, () -> GateFormats.sarif(report));
    write(junit, () -> GateFormats.junit(report));
    write(markdown, () -> GateFormats.markdown(report));
    if (json) {
      printJson(GateFormats.json(report));
    } else {
      print(report);
    }
    return report.fails() ? ServiceException.FINDING : 0;
  }

  private ParameterException wrong(String message) {
    return new ParameterException(spec.commandLine(), message);
  }

  // ------------------------------------------------------------------ reading

  private String text(Path file) {
    try {
      return Files.readString(file);
    } catch (IOException e) {
      throw wrong("cannot read " + file + ": " + e.getMessage());
    }
  }

  private GatePolicy policy() {
    if (policyFile == null) {
      return GatePolicy.DEFAULT;
    }
    try {
      return GatePolicy.read(text(policyFile));
    } catch (BadDocumentException e) {
      throw wrong("the policy " + policyFile + " is wrong: " + e.getMessage());
    }
  }

  private GateReport ofDocument(Path file, GatePolicy policy) {
    try {
      ChangeDocument change = ChangeDocument.read(text(file));
      var steps = new ArrayList<GateReport.Step>();
      for (ChangeDocument.Step step : change.steps()) {
        steps.add(
            new GateReport.Step(
                step.change(), step.of(), step.to() == null ? "" : step.to(), null));
      }
      return judged(change.title(), steps, List.of(), new ArrayList<>(), policy);
    } catch (BadDocumentException e) {
      throw wrong("the planned change " + file + " is wrong: " + e.getMessage());
    }
  }

  private GateReport ofFiles(GatePolicy policy) {
    Dialect spoken = Dialect.ANSI;
    if (dialect != null) {
      spoken =
          Dialect.of(dialect)
              .orElseThrow(
                  () ->
                      wrong(
                          "'"
                              + dialect
                              + "' is not a dialect; use ansi, postgres, backtick or bracket"));
    }
    GateInput.Versions versions;
    try {
      versions =
          git == null
              ? GateInput.of(
                  java.util.Objects.requireNonNull(before), java.util.Objects.requireNonNull(after))
              : GateInput.ofGit(Path.of("").toAbsolutePath(), git, under);
    } catch (GateInput.UnreadableException e) {
      throw wrong(e.getMessage());
    }
    SqlChanges.Found found;
    try (var reader = new SqlReader()) {
      found = SqlChanges.between(versions.before(), versions.after(), spoken, reader);
    }
    var notes = new ArrayList<>(found.notes());
    if (versions.before().isEmpty() && versions.after().isEmpty()) {
      notes.add("no .sql or .ddl file was found on either side");
    }
    var steps = new ArrayList<GateReport.Step>();
    var unknown = new ArrayList<FoundChange>();
    for (FoundChange change : found.changes()) {
      String ref = known(change);
      if (ref == null) {
        unknown.add(change);
      } else {
        steps.add(
            new GateReport.Step(
                change.change(), ref, change.to() == null ? "" : change.to(), change));
      }
    }
    String title = git == null ? before + " → " + after : git;
    return judged(title, steps, unknown, notes, policy);
  }

  /** The full reference of what a change is of; null if the catalog does not have it. */
  private @Nullable String known(FoundChange change) {
    String name =
        names == null
            ? change.of()
            : names.replace(TABLE, change.table())
                + (change.column() == null ? "" : "#" + change.column());
    try {
      JsonNode focus =
          service()
              .get("/api/v1/graph", Map.of("ref", name, "hops", 0, "limit", 1), JsonNode.class)
              .json();
      return focus.path("focus").path("ref").stringValue(null);
    } catch (ServiceException e) {
      if (e.exitCode() != NOT_FOUND || e.isAmbiguous()) {
        throw e;
      }
      return null;
    }
  }

  // ------------------------------------------------------------------ judging

  private GateReport judged(
      String title,
      List<GateReport.Step> steps,
      List<FoundChange> unknown,
      List<String> notes,
      GatePolicy policy) {
    LocalDate today = LocalDate.now(ZoneOffset.UTC);
    policy
        .ended(today)
        .forEach(
            w ->
                notes.add(
                    "the waiver of " + w.of() + " ended on " + w.until() + ": " + w.reason()));
    var findings = new ArrayList<GateReport.Finding>();
    List<GateReport.Step> full = steps;
    if (!steps.isEmpty()) {
      JsonNode answer = ask(steps);
      full = fullNames(steps, answer);
      noteUnlinked(full, notes);
      List<Cause> causes = causes(full, answer, policy);
      for (JsonNode item : answer.path("items")) {
        findings.add(finding(item, decided(item, causes, policy, today)));
      }
      int total = answer.path("total").intValue(findings.size());
      if (total > findings.size()) {
        notes.add(
            "only the worst "
                + findings.size()
                + " of "
                + total
                + " items were held against the policy; the rest are no worse");
      }
    }
    findings.sort(Comparator.comparing(GateReport.Finding::decision));
    return new GateReport(title, full, findings, unknown, policy.unknown(), notes);
  }

  private JsonNode ask(List<GateReport.Step> steps) {
    var changes = new ArrayList<Map<String, String>>();
    for (GateReport.Step step : steps) {
      changes.add(
          step.to().isEmpty()
              ? Map.of("ref", step.ref(), "change", step.change())
              : Map.of("ref", step.ref(), "change", step.change(), "to", step.to()));
    }
    return service()
        .post("/api/v1/impact?limit=" + MAX_ITEMS, Map.of("changes", changes), JsonNode.class)
        .json();
  }

  /**
   * Says of which assets nothing is known that reads them: that nothing is touched proves little.
   */
  private void noteUnlinked(List<GateReport.Step> steps, List<String> notes) {
    var assets = new LinkedHashSet<String>();
    steps.forEach(step -> assets.add(Reference.assetOf(step.ref())));
    for (String asset : assets) {
      if (!Reference.isJob(asset) && !Reference.isSystem(asset)) {
        Map<String, Object> near =
            Map.of("ref", asset, "direction", "downstream", "hops", 1, "limit", 2);
        JsonNode answer = service().get("/api/v1/graph", near, JsonNode.class).json();
        if (answer.path("nodes").size() < 2) {
          notes.add(
              "nothing is known that reads "
                  + asset
                  + "; if something does, it reports no lineage and was not judged");
        }
      }
    }
  }

  /**
   * Steps on which a policy may say different things, with what they alone do: an item may pass for
   * a rename, and yet fail for a drop that is planned with it.
   *
   * @param items by reference
   */
  private record Cause(String change, Set<String> changed, Map<String, JsonNode> items) {}

  private List<Cause> causes(List<GateReport.Step> steps, JsonNode together, GatePolicy policy) {
    var groups = new LinkedHashMap<List<String>, List<GateReport.Step>>();
    for (GateReport.Step step : steps) {
      boolean waived = policy.waivers().stream().anyMatch(w -> w.of().equals(step.ref()));
      groups
          .computeIfAbsent(List.of(step.change(), waived ? step.ref() : ""), k -> new ArrayList<>())
          .add(step);
    }
    var causes = new ArrayList<Cause>();
    groups.forEach(
        (group, some) -> {
          JsonNode answer = groups.size() == 1 ? together : ask(some);
          var items = new HashMap<String, JsonNode>();
          answer.path("items").forEach(item -> items.put(item.path("ref").stringValue(""), item));
          var changed = new HashSet<String>();
          some.forEach(step -> changed.add(step.ref()));
          causes.add(new Cause(group.get(0), changed, items));
        });
    return causes;
  }

  /** The strictest of what the policy says of an item for each of its causes. */
  private static GatePolicy.Decided decided(
      JsonNode item, List<Cause> causes, GatePolicy policy, LocalDate today) {
    GatePolicy.Item whole = judged(item);
    var all = new ArrayList<GatePolicy.Decided>();
    boolean alone = false; // whether one cause does by itself what all do together
    for (Cause cause : causes) {
      JsonNode own = cause.items().get(whole.ref());
      if (own != null) {
        GatePolicy.Item one = judged(own);
        alone |= one.equals(whole);
        all.add(policy.decide(one, Set.of(cause.change()), cause.changed(), today));
      }
    }
    if (!alone) {
      for (Cause cause : causes) {
        all.add(policy.decide(whole, Set.of(cause.change()), cause.changed(), today));
      }
    }
    return all.stream().min(Comparator.comparing(GatePolicy.Decided::decision)).orElseThrow();
  }

  private static GatePolicy.Item judged(JsonNode item) {
    return new GatePolicy.Item(
        item.path("ref").stringValue(""),
        item.path("kind").stringValue(""),
        item.path("system").stringValue(""),
        item.path("verdict").stringValue(""),
        item.path("certainty").stringValue(""),
        Set.copyOf(strings(item.path("owners"))),
        Set.copyOf(strings(item.path("labels"))));
  }

  private static List<GateReport.Step> fullNames(List<GateReport.Step> steps, JsonNode answer) {
    var full = new ArrayList<GateReport.Step>();
    for (int i = 0; i < steps.size(); i++) {
      GateReport.Step step = steps.get(i);
      String ref = answer.path("changes").path(i).path("ref").stringValue(step.ref());
      full.add(new GateReport.Step(step.change(), ref, step.to(), step.seen()));
    }
    return full;
  }

  private static GateReport.Finding finding(JsonNode item, GatePolicy.Decided decided) {
    GatePolicy.Item judged = judged(item);
    var thread = new ArrayList<String>();
    for (JsonNode hop : item.path("thread")) {
      if (thread.isEmpty()) {
        thread.add(hop.path("from").stringValue(""));
      }
      thread.add(hop.path("to").stringValue(""));
    }
    return new GateReport.Finding(
        judged.ref(),
        judged.kind(),
        item.path("name").stringValue(""),
        judged.verdict(),
        judged.certainty(),
        item.path("hops").intValue(),
        strings(item.path("owners")),
        decided.decision(),
        decided.why(),
        String.join(" → ", thread),
        item.path("url").stringValue(""));
  }

  private static List<String> strings(JsonNode list) {
    var strings = new LinkedHashSet<String>();
    list.forEach(one -> strings.add(one.stringValue("")));
    return List.copyOf(strings);
  }

  // ------------------------------------------------------------------ printing

  private void write(@Nullable Path file, java.util.function.Supplier<String> text) {
    if (file != null) {
      try {
        Files.writeString(file, text.get());
      } catch (IOException e) {
        throw wrong("Cannot write " + file + ": " + e.getMessage());
      }
      note("written to " + file);
    }
  }

  private void print(GateReport report) {
    out().println(report.summary());
    if (!report.steps().isEmpty()) {
      out().println("\nChanges:");
      for (GateReport.Step step : report.steps()) {
        out().println("  " + step.words());
        if (step.seen() != null) {
          out()
              .println(
                  "      "
                      + step.seen().file()
                      + ":"
                      + step.seen().line()
                      + ": "
                      + step.seen().why());
        }
      }
    }
    if (!report.findings().isEmpty()) {
      out().println();
      var table = new Table("DECISION", "VERDICT", "KIND", "NAME", "OWNERS", "DECIDED BY");
      for (GateReport.Finding finding : report.findings()) {
        table.row(
            GateFormats.word(finding.decision()),
            finding.verdictWords(),
            finding.kind(),
            finding.name(),
            joined(finding.owners()),
            finding.why());
      }
      print(table);
    }
    if (!report.unknown().isEmpty()) {
      out()
          .println(
              "\nNot in the catalog, so not judged ("
                  + GateFormats.word(report.unknownDecision())
                  + "):");
      report
          .unknown()
          .forEach(f -> out().println("  " + f.file() + ":" + f.line() + ": " + f.why()));
    }
    report.notes().forEach(note -> out().println("\nNote: " + note));
  }
}
