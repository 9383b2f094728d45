package longthread.core.cause;

import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.UUID;
import longthread.core.history.RunState;
import org.jspecify.annotations.Nullable;

/**
 * How jobs ran and checks ended; all lists newest first and nothing later than the moment asked.
 */
public interface Health {
  /** The latest runs of a job, at least {@value CauseSearch#RUNS_WANTED} if there were so many. */
  List<Run> runs(String job);

  /** The newest results of the checks on a dataset, by check; each with earlier ones behind it. */
  Collection<List<CheckResult>> checks(String dataset);

  /**
   * A run.
   *
   * @param end null while it runs, or where no end was reported
   * @param rows how many rows it wrote; null if it did not say
   */
  record Run(
      UUID run,
      Instant start,
      @Nullable Instant end,
      RunState state,
      @Nullable String error,
      @Nullable Long rows) {}

  /** One result of one check. */
  record CheckResult(
      String check, Instant at, boolean passed, @Nullable String column, @Nullable String detail) {}
}
