package longthread.service.lineage;

import com.github.difflib.text.DiffRow;
import com.github.difflib.text.DiffRowGenerator;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import longthread.core.history.Fingerprint;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.storage.StoredText;
import longthread.service.storage.facts.FacetQueries;
import longthread.service.storage.runs.JobVersionQueries;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Service;

/** Which jobs ran other code at one moment than at another, line by line. */
@Service
class CodeChanges {
  /** Code that is different; its lines stand side by side. */
  record ChangedCode(
      String job,
      String name,
      String language,
      @Nullable Integer versionBefore,
      @Nullable Integer versionAfter,
      @Nullable Instant since,
      List<CodeLine> lines) {}

  /**
   * Two lines side by side.
   *
   * @param change same, changed, added or removed
   */
  record CodeLine(
      String change,
      @Nullable Integer before,
      String textBefore,
      @Nullable Integer after,
      String textAfter) {}

  private static final int MAX_LINES = 4_000;

  private final FacetQueries facets;
  private final JobVersionQueries versions;
  private final Catalog catalog;

  CodeChanges(FacetQueries facets, JobVersionQueries versions, Catalog catalog) {
    this.facets = facets;
    this.versions = versions;
    this.catalog = catalog;
  }

  /** The code of these jobs that is another one on the later side. */
  List<ChangedCode> between(Collection<String> jobs, Comparisons.Side from, Comparisons.Side to) {
    Map<String, FacetQueries.Value> then = codeAt(jobs, from.at());
    Map<String, FacetQueries.Value> now = codeAt(jobs, to.at());
    var changed = new ArrayList<ChangedCode>();
    for (String job : jobs) {
      FacetQueries.Value old = then.get(job);
      FacetQueries.Value fresh = now.get(job);
      if (old == null || fresh == null) {
        continue; // a job that is only there on one side is listed with its links
      }
      String textBefore = text(old);
      String textAfter = text(fresh);
      if (!Fingerprint.of(textBefore).equals(Fingerprint.of(textAfter))) {
        List<JobVersionQueries.Stored> all = versions.of(job);
        changed.add(
            new ChangedCode(
                job,
                catalog.asset(job).map(Asset::shown).orElse(job),
                fresh.key().equals("sql") ? "sql" : "text",
                number(all, from),
                number(all, to),
                since(all, to),
                lines(textBefore, textAfter)));
      }
    }
    return changed;
  }

  private Map<String, FacetQueries.Value> codeAt(Collection<String> jobs, Instant at) {
    var newest = new HashMap<String, FacetQueries.Value>();
    String[] refs = jobs.toArray(String[]::new);
    for (String key : List.of("sql", "sourceCode")) {
      facets
          .jobValuesUntil(refs, key, at.getEpochSecond(), at.getNano())
          .forEach(value -> newest.putIfAbsent(value.ref(), value));
    }
    return newest;
  }

  private static String text(FacetQueries.Value value) {
    return StoredText.json(value.body())
        .path(value.key().equals("sql") ? "query" : "sourceCode")
        .stringValue("");
  }

  /** The version that ran last by a moment. */
  private static JobVersionQueries.@Nullable Stored running(
      List<JobVersionQueries.Stored> all, Instant at) {
    return all.stream()
        .filter(version -> !version.firstRun().isAfter(at))
        .max(Comparator.comparing(JobVersionQueries.Stored::firstRun))
        .orElse(null);
  }

  private static @Nullable Integer number(
      List<JobVersionQueries.Stored> all, Comparisons.Side side) {
    if (side.version() != null) {
      return side.version();
    }
    JobVersionQueries.Stored version = running(all, side.at());
    return version == null ? null : version.number();
  }

  private static @Nullable Instant since(
      List<JobVersionQueries.Stored> all, Comparisons.Side side) {
    JobVersionQueries.Stored version = running(all, side.at());
    return version == null ? null : version.firstRun();
  }

  /** Two texts line by line, side by side. */
  static List<CodeLine> lines(String before, String after) {
    List<DiffRow> rows =
        DiffRowGenerator.create()
            .ignoreWhiteSpaces(true)
            .lineNormalizer(line -> line) // shown as it is; pages escape it themselves
            .build()
            .generateDiffRows(before.lines().toList(), after.lines().toList());
    var lines = new ArrayList<CodeLine>();
    int old = 0;
    int fresh = 0;
    for (DiffRow row : rows) {
      boolean hasOld = row.getTag() != DiffRow.Tag.INSERT;
      boolean hasNew = row.getTag() != DiffRow.Tag.DELETE;
      old += hasOld ? 1 : 0;
      fresh += hasNew ? 1 : 0;
      String change =
          switch (row.getTag()) {
            case EQUAL -> "same";
            case CHANGE -> "changed";
            case INSERT -> "added";
            default -> "removed";
          };
      lines.add(
          new CodeLine(
              change,
              hasOld ? old : null,
              row.getOldLine(),
              hasNew ? fresh : null,
              row.getNewLine()));
    }
    return lines.size() > MAX_LINES ? lines.subList(0, MAX_LINES) : lines;
  }
}
