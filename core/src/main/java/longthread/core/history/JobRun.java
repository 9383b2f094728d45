package longthread.core.history;

import java.time.Instant;
import java.util.Comparator;
import java.util.UUID;
import longthread.core.lineage.ReportedLineage;
import longthread.core.lineage.ResolvedLineage;
import org.jspecify.annotations.Nullable;

/**
 * One run as far as its job's history needs it.
 *
 * @param fingerprint of its code; null if it reported none
 * @param settled whether it reported in full: it completed, or it is a stream that is running
 * @param resolved the union of what its events reported
 */
public record JobRun(
    UUID run,
    Instant start,
    @Nullable String fingerprint,
    boolean settled,
    ResolvedLineage resolved) {
  /** By start; ties by id, so that the order is the same whoever sorts. */
  public static final Comparator<JobRun> BY_START =
      Comparator.comparing(JobRun::start).thenComparing(JobRun::run);

  public ReportedLineage lineage() {
    return resolved.lineage();
  }
}
