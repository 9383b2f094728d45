package longthread.core.trust;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Optional;
import java.util.TreeSet;

/**
 * How often something happens, judged by the gaps between the times at which it did.
 *
 * @param usual the median gap
 * @param longest the gap that 95 of 100 do not exceed; it has the weekends in it
 */
public record Cadence(Duration usual, Duration longest) {
  private static final int MIN_GAPS = 4; // below which reports have no cadence yet
  private static final double NEARLY_ALL = 0.95;
  private static final Duration GRACE = Duration.ofHours(1);
  private static final Duration MIN_TOLERANCE = Duration.ofMinutes(2);

  /** The cadence of some times in any order; empty for fewer than five of them. O(n log n). */
  public static Optional<Cadence> of(Collection<Instant> times) {
    return of(times, MIN_GAPS);
  }

  /**
   * The cadence of some times in any order. O(n log n).
   *
   * @param minGaps how many gaps there must be between them, else it is empty
   */
  public static Optional<Cadence> of(Collection<Instant> times, int minGaps) {
    var gaps = new ArrayList<Duration>();
    Instant before = null;
    for (Instant time : new TreeSet<>(times)) {
      if (before != null) {
        gaps.add(Duration.between(before, time));
      }
      before = time;
    }
    if (gaps.size() < minGaps) {
      return Optional.empty();
    }
    gaps.sort(null);
    int nearlyAll = (int) Math.ceil(NEARLY_ALL * gaps.size()) - 1;
    return Optional.of(new Cadence(gaps.get(gaps.size() / 2), gaps.get(nearlyAll)));
  }

  /**
   * From when on silence is longer than it ever is: half as long again as the longest usual gap,
   * and an hour's grace.
   */
  public Instant overdueAfter(Instant last) {
    return last.plus(longest.multipliedBy(3).dividedBy(2)).plus(GRACE);
  }

  /** How far behind its time the next may be before it counts as missing. */
  public Duration tolerance() {
    Duration tenth = usual.dividedBy(10);
    return tenth.compareTo(MIN_TOLERANCE) < 0 ? MIN_TOLERANCE : tenth;
  }

  /** When the next is usually due after the last. */
  public Instant nextAfter(Instant last) {
    return last.plus(usual);
  }

  /** Whether the next should have come by now, its tolerance granted. */
  public boolean isMissing(Instant last, Instant now) {
    return nextAfter(last).plus(tolerance()).isBefore(now);
  }

  /** The first expected time after {@code now}, when the last was at {@code last}. */
  public Instant nextExpected(Instant last, Instant now) {
    long missed = Math.max(0, Duration.between(last, now).dividedBy(usual));
    return last.plus(usual.multipliedBy(missed + 1));
  }
}
