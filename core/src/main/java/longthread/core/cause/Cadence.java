package longthread.core.cause;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/**
 * How often a job runs, judged by the median gap between the starts of its latest runs.
 *
 * @param every the median gap
 */
record Cadence(Duration every) {
  private static final int FEWEST_GAPS = 2;

  /** The cadence of runs given newest first; empty for fewer than three runs. */
  static Optional<Cadence> of(List<Health.Run> runs) {
    var gaps = new ArrayList<Duration>();
    for (int i = 0; i + 1 < runs.size(); i++) {
      gaps.add(Duration.between(runs.get(i + 1).start(), runs.get(i).start()));
    }
    if (gaps.size() < FEWEST_GAPS) {
      return Optional.empty();
    }
    gaps.sort(null);
    return Optional.of(new Cadence(gaps.get(gaps.size() / 2)));
  }

  /** How far behind its time a run may be before it counts as missing. */
  Duration tolerance() {
    Duration tenth = every.dividedBy(10);
    return tenth.compareTo(Duration.ofMinutes(2)) < 0 ? Duration.ofMinutes(2) : tenth;
  }

  Instant nextAfter(Instant last) {
    return last.plus(every);
  }

  boolean isMissing(Instant last, Instant now) {
    return nextAfter(last).plus(tolerance()).isBefore(now);
  }

  /** The first expected start after {@code now} of a job that last started at {@code last}. */
  Instant nextExpected(Instant last, Instant now) {
    long missed = Math.max(0, Duration.between(last, now).dividedBy(every));
    return last.plus(every.multipliedBy(missed + 1));
  }
}
