package longthread.core.cause;

import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.UUID;
import longthread.core.history.RunState;
import longthread.core.trust.Usual;
import org.jspecify.annotations.Nullable;

/**
 * How jobs ran, checks ended, figures went and things changed; all lists newest first and nothing
 * later than the moment asked.
 */
public interface Health {
  /** Says what will be asked for, so that it can be read at once. */
  default void prepare(Collection<String> jobs, Collection<String> datasets) {}

  /** The latest runs of a job, at least {@value CauseSearch#RUNS_WANTED} if there were so many. */
  List<Run> runs(String job);

  /** The newest results of the checks on a dataset, by check; each with earlier ones behind it. */
  Collection<List<CheckResult>> checks(String dataset);

  /** What runs measured of the columns of a dataset, a series for each figure. */
  default Collection<Series> series(String dataset) {
    return List.of();
  }

  /** When the schema of a dataset became another; the first one known is no change. */
  default List<Change> schemaChanges(String dataset) {
    return List.of();
  }

  /** When a job first ran in another version; its first one is no change. */
  default List<Change> codeChanges(String job) {
    return List.of();
  }

  /**
   * A run.
   *
   * @param end null while it runs, or where no end was reported
   * @param rows how many rows it wrote; null if it did not say
   * @param nominal for which time it was scheduled; null if it did not say
   */
  record Run(
      UUID run,
      Instant start,
      @Nullable Instant end,
      RunState state,
      @Nullable String error,
      @Nullable Long rows,
      @Nullable Instant nominal) {
    public Run(
        UUID run,
        Instant start,
        @Nullable Instant end,
        RunState state,
        @Nullable String error,
        @Nullable Long rows) {
      this(run, start, end, state, error, rows, null);
    }
  }

  /** One result of one check. */
  record CheckResult(
      String check, Instant at, boolean passed, @Nullable String column, @Nullable String detail) {}

  /**
   * A figure of a column over time.
   *
   * @param figure such as {@code mean} or {@code null share}
   */
  record Series(String column, String figure, List<Usual.Sample> newestFirst) {}

  /**
   * That something is another since a moment.
   *
   * @param harmless whether it cannot break what relies on it, such as a column that was added
   */
  record Change(Instant at, String words, boolean harmless) {
    public Change(Instant at, String words) {
      this(at, words, false);
    }
  }
}
