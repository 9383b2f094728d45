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
 * @param kind what its code does, such as {@code merge}; null if that is not known
 * @param parent the run that started it; null if it named none
 * @param settled whether it reported in full: it completed, or it is a stream that is running
 * @param resolved the union of what its events reported
 */
public record JobRun(
    UUID run,
    Instant start,
    @Nullable String fingerprint,
    @Nullable String kind,
    @Nullable UUID parent,
    boolean settled,
    ResolvedLineage resolved) {
  /** By start; ties by id, so that the order is the same whoever sorts. */
  public static final Comparator<JobRun> BY_START =
      Comparator.comparing(JobRun::start).thenComparing(JobRun::run);

  public JobRun(
      UUID run,
      Instant start,
      @Nullable String fingerprint,
      boolean settled,
      ResolvedLineage resolved) {
    this(run, start, fingerprint, null, null, settled, resolved);
  }

  /** The same run with another lineage. */
  public JobRun with(ResolvedLineage other) {
    return new JobRun(run, start, fingerprint, kind, parent, settled, other);
  }

  public ReportedLineage lineage() {
    return resolved.lineage();
  }
}
