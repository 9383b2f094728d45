package longthread.service.runs;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.AbstractList;
import java.util.List;
import java.util.UUID;
import longthread.core.asset.Reference;
import longthread.service.storage.StoredText;
import longthread.service.storage.runs.CheckQueries;
import longthread.service.storage.runs.RunSearch;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Component;

/** Reads runs and the results of checks. */
@Component
public class RunReader {
  /**
   * A run as it is listed.
   *
   * @param state completed, failed, aborted, running, or unknown where no event said any of these
   * @param seconds how long it took; null while no end is known
   * @param stalled whether it should have ended by now and never reported an end; one that goes on
   *     reporting, such as a stream, is alive however old it is
   * @param root the outermost run of its tree, where it named one
   */
  public record RunRow(
      String ref,
      String job,
      @Nullable String pipeline,
      String state,
      Instant start,
      @Nullable Instant end,
      @Nullable Double seconds,
      @Nullable Instant nominal,
      @Nullable Long rowsRead,
      @Nullable Long rowsWritten,
      @Nullable Long bytesWritten,
      @Nullable String error,
      @Nullable String parent,
      boolean hasTasks,
      Instant lastReportedAt,
      boolean stalled,
      @Nullable String root) {}

  /**
   * The result of a check.
   *
   * @param status pass, fail or skip
   * @param dataset what it was about; null if it was about no single dataset
   * @param content the check itself, such as its SQL
   */
  public record CheckRow(
      String name,
      @Nullable String column,
      boolean passed,
      String status,
      @Nullable String severity,
      @Nullable String detail,
      @Nullable String expected,
      @Nullable String actual,
      Instant at,
      String job,
      String run,
      @Nullable String dataset,
      @Nullable String content,
      @Nullable String contentType) {}

  private static final Duration OPEN_TOO_LONG = Duration.ofDays(1);
  private static final Duration ALIVE = Duration.ofHours(1);

  private static final Instant END_OF_TIME = Instant.parse("9999-01-01T00:00:00Z");
  private static final double NANOS = 1e9;

  private final RunSearch search;
  private final CheckQueries checks;
  private final Clock clock;

  RunReader(RunSearch search, CheckQueries checks, Clock clock) {
    this.search = search;
    this.checks = checks;
    this.clock = clock;
  }

  /** Returns the runs that pass a filter, newest first. */
  public List<RunRow> runs(RunSearch.Filter filter, int limit) {
    return search.newest(filter, limit).stream().map(this::run).toList();
  }

  /** The runs that pass a filter, newest first; what is known of them is read page by page. */
  List<RunRow> listed(RunSearch.Filter filter, int limit) {
    return new Pageable(search.keys(filter, limit));
  }

  /** Runs of which only the keys are held. */
  private final class Pageable extends AbstractList<RunRow> {
    private final List<RunSearch.Key> keys;

    Pageable(List<RunSearch.Key> keys) {
      this.keys = keys;
    }

    @Override
    public RunRow get(int index) {
      return subList(index, index + 1).get(0);
    }

    @Override
    public List<RunRow> subList(int from, int to) {
      List<RunSearch.Key> page = keys.subList(from, to);
      return search.listed(RunSearch.Key.runs(page), RunSearch.Key.jobs(page)).stream()
          .map(RunReader.this::run)
          .toList();
    }

    @Override
    public int size() {
      return keys.size();
    }
  }

  /** Returns the run with this id, once for each job that reported under it. */
  public List<RunRow> run(UUID id) {
    return search.run(id).stream().map(this::run).toList();
  }

  /** Returns the newest runs that wrote any of the datasets. */
  public List<RunRow> runsWriting(List<String> datasets, int limit) {
    return search.writing(datasets.toArray(String[]::new), limit).stream().map(this::run).toList();
  }

  private RunRow run(RunSearch.Listed row) {
    Instant start = row.start();
    Instant end = row.end();
    return new RunRow(
        ref(row.run()),
        row.job(),
        row.parentJob(),
        row.state(),
        start,
        end,
        end == null ? null : seconds(Duration.between(start, end)),
        row.nominalAt(),
        row.rowsRead(),
        row.rowsWritten(),
        row.bytesWritten(),
        row.error(),
        row.parentRun() == null ? null : ref(row.parentRun()),
        row.hasTasks(),
        row.lastReportedAt(),
        isStalled(row),
        row.rootRun() == null ? null : ref(row.rootRun()));
  }

  private static String ref(UUID run) {
    return Reference.RUN_PREFIX + run;
  }

  private static double seconds(Duration duration) {
    return duration.getSeconds() + duration.getNano() / NANOS;
  }

  private boolean isStalled(RunSearch.Listed run) {
    Duration patience =
        run.usualSeconds() == null
            ? OPEN_TOO_LONG
            : Duration.ofSeconds((long) (3 * run.usualSeconds())).plus(ALIVE);
    Instant now = clock.instant();
    return run.state().equals("running")
        && run.startedAt().plus(patience).isBefore(now)
        && run.lastReportedAt().plus(ALIVE).isBefore(now);
  }

  /** Returns the results of the checks on any of the datasets, newest first. */
  public List<CheckRow> checks(List<String> datasets, @Nullable Instant before, int limit) {
    return checks
        .onDatasets(datasets.toArray(String[]::new), before == null ? END_OF_TIME : before, limit)
        .stream()
        .map(RunReader::check)
        .toList();
  }

  /** Returns the results of the checks that a job carried out, newest first. */
  public List<CheckRow> checksOf(String job, int limit) {
    return checks.ofJob(job, limit).stream().map(RunReader::check).toList();
  }

  private static CheckRow check(CheckQueries.Stored row) {
    return new CheckRow(
        row.name(),
        row.column().isEmpty() ? null : row.column(),
        row.status().equals("pass"),
        row.status(),
        row.severity(),
        detail(row),
        row.expected(),
        row.actual(),
        row.at(),
        row.job(),
        ref(row.run()),
        row.dataset(),
        row.content() == null ? null : StoredText.text(row.content()),
        row.contentType());
  }

  private static @Nullable String detail(CheckQueries.Stored row) {
    if (row.expected() == null && row.actual() == null) {
      return row.detail();
    }
    return "expected "
        + (row.expected() == null ? "not stated" : row.expected())
        + ", found "
        + (row.actual() == null ? "not stated" : row.actual());
  }
}
