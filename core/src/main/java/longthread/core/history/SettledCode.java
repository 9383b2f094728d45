package longthread.core.history;

import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.Iterator;
import java.util.Map;
import java.util.Objects;
import java.util.function.Predicate;
import org.jspecify.annotations.Nullable;

/**
 * Which code of a job takes the place of which. A job may run several statements in turn: one that
 * another one follows in the same execution is not replaced by it. Statements of one execution have
 * the same parent run, or do different things (a MERGE, then a DELETE) within a day.
 *
 * <p>Where one was spared for that and does not return, the next execution replaces it after all.
 */
final class SettledCode {
  private static final Duration ONE_EXECUTION = Duration.ofHours(24);

  private final Map<String, JobRun> last = new HashMap<>(); // the last settled run, by code

  /** By code, the other codes that its first run spared, and when that was. */
  private final Map<String, Map<String, Instant>> spared = new HashMap<>();

  /** Whether a run's code was not seen in the time that a link may be idle. */
  boolean isNew(JobRun run) {
    JobRun before = last.get(run.fingerprint());
    return before == null || before.start().plus(JobHistory.IDLE).isBefore(run.start());
  }

  /** Whether a run may end links of other code. */
  boolean maySettle(JobRun run) {
    return isNew(run) || spared.containsKey(run.fingerprint());
  }

  /**
   * Notes a settled run of some code; returns of which other versions it ends the links that it
   * lacks.
   */
  Predicate<String> replacedBy(JobRun run) {
    String code = Objects.requireNonNull(run.fingerprint());
    boolean isNew = isNew(run);
    last.put(code, run);
    if (isNew) {
      var sparedNow = new HashMap<String, Instant>();
      last.forEach(
          (other, seen) -> {
            if (!other.equals(code) && isOneExecution(seen, run)) {
              sparedNow.put(other, run.start());
            }
          });
      spared.remove(code);
      if (!sparedNow.isEmpty()) {
        spared.put(code, sparedNow);
      }
      return version -> !sparedNow.containsKey(version);
    }
    var replaced = new HashMap<String, Boolean>();
    Map<String, Instant> waiting = spared.getOrDefault(code, new HashMap<>());
    for (Iterator<Map.Entry<String, Instant>> all = waiting.entrySet().iterator();
        all.hasNext(); ) {
      Map.Entry<String, Instant> other = all.next();
      JobRun seen = Objects.requireNonNull(last.get(other.getKey()));
      boolean returned = seen.start().isAfter(other.getValue());
      if (returned || !isOneExecution(seen, run)) {
        replaced.put(other.getKey(), !returned);
        all.remove();
      }
    }
    if (waiting.isEmpty()) {
      spared.remove(code);
    }
    return version -> replaced.getOrDefault(version, false);
  }

  private static boolean isOneExecution(JobRun earlier, JobRun later) {
    boolean sameParent = earlier.parent() != null && earlier.parent().equals(later.parent());
    return sameParent
        || (differ(earlier.kind(), later.kind())
            && !earlier.start().plus(ONE_EXECUTION).isBefore(later.start()));
  }

  private static boolean differ(@Nullable String one, @Nullable String other) {
    return one != null && other != null && !one.equals(other);
  }
}
