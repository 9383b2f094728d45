package longthread.client;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import java.util.concurrent.Callable;
import longthread.core.change.BadDocumentException;
import longthread.core.change.ChangeDocument;
import longthread.core.gate.FoundChange;
import longthread.core.gate.GatePolicy;
import longthread.core.gate.SqlChanges;
import longthread.core.snapshot.BadSnapshotException;
import longthread.core.sql.Dialect;
import longthread.core.sql.SqlReader;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.ParameterException;
import picocli.CommandLine.Parameters;

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
      "  longthread gate --git origin/main...HEAD --sarif gate.sarif --junit gate.xml",
      "  longthread gate change.yaml --snapshot nightly.zip"
    })
final class GateCommand extends Output implements Callable<Integer> {
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

  @Option(
      names = "--snapshot",
      paramLabel = "FILE",
      description = "Judge by a file that 'longthread snapshot' took; no service is called.")
  private @Nullable Path snapshot;

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
    GateJudge judge = judge();
    var decisions = new GateDecisions(judge, policy, LocalDate.now(ZoneOffset.UTC));
    GateReport report =
        document == null ? ofFiles(judge, decisions) : ofDocument(document, decisions);
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
      throw wrong("cannot read " + file + ": " + FileWords.why(e));
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

  private GateJudge judge() {
    if (snapshot == null) {
      return new ServiceJudge(service());
    }
    try {
      if (!Files.exists(snapshot)) {
        throw wrong(
            "there is no file " + snapshot + "; take one with: longthread snapshot " + snapshot);
      }
      return SnapshotJudge.of(snapshot);
    } catch (IOException e) {
      throw wrong("cannot read " + snapshot + ": " + FileWords.why(e));
    } catch (BadSnapshotException e) {
      throw wrong("cannot use " + snapshot + ": " + e.getMessage());
    }
  }

  private GateReport ofDocument(Path file, GateDecisions decisions) {
    try {
      ChangeDocument change = ChangeDocument.read(text(file));
      var steps = new ArrayList<GateReport.Step>();
      for (ChangeDocument.Step step : change.steps()) {
        steps.add(
            new GateReport.Step(
                step.change(), step.of(), step.to() == null ? "" : step.to(), null));
      }
      return decisions.report(change.title(), steps, List.of(), List.of());
    } catch (BadDocumentException e) {
      throw wrong("the planned change " + file + " is wrong: " + e.getMessage());
    }
  }

  private GateReport ofFiles(GateJudge judge, GateDecisions decisions) {
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
              ? GateInput.of(Objects.requireNonNull(before), Objects.requireNonNull(after))
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
      String ref = known(judge, change);
      if (ref == null && change.mayBeNew()) {
        continue; // a new table: nothing reads it yet
      }
      if (ref == null) {
        unknown.add(change);
      } else {
        steps.add(
            new GateReport.Step(
                change.change(), ref, change.to() == null ? "" : change.to(), change));
      }
    }
    String title = git == null ? before + " → " + after : git;
    return decisions.report(title, steps, unknown, notes);
  }

  /** The full reference of what a change is of; null if the catalog does not have it. */
  private @Nullable String known(GateJudge judge, FoundChange change) {
    return judge.known(
        names == null
            ? change.of()
            : names.replace(TABLE, change.table())
                + (change.column() == null ? "" : "#" + change.column()));
  }

  // ------------------------------------------------------------------ printing

  private void write(@Nullable Path file, java.util.function.Supplier<String> text) {
    if (file != null) {
      try {
        Files.writeString(file, text.get());
      } catch (IOException e) {
        throw wrong("Cannot write " + file + ": " + FileWords.why(e));
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
