package longthread.core.trust;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.TreeSet;

/**
 * How long something that reports now and then usually rests between two reports.
 *
 * @param usual the median rest
 * @param longest the rest that 95 of 100 do not exceed; it has the weekends in it
 */
public record Rhythm(Duration usual, Duration longest) {
  private static final int FEWEST = 4; // rests, below which there is no rhythm yet
  private static final double NEARLY_ALL = 0.95;
  private static final Duration GRACE = Duration.ofHours(1);

  /** The rhythm of some times; empty if they are too few to show one. O(n log n). */
  public static Optional<Rhythm> of(Collection<Instant> times) {
    var ordered = new TreeSet<>(times);
    var rests = new ArrayList<Duration>();
    Instant before = null;
    for (Instant time : ordered) {
      if (before != null) {
        rests.add(Duration.between(before, time));
      }
      before = time;
    }
    if (rests.size() < FEWEST) {
      return Optional.empty();
    }
    rests.sort(null);
    return Optional.of(new Rhythm(at(rests, 0.5), at(rests, NEARLY_ALL)));
  }

  private static Duration at(List<Duration> sorted, double share) {
    return sorted.get((int) Math.min(sorted.size() - 1, Math.ceil(share * sorted.size()) - 1));
  }

  /**
   * From when on silence is no rest any more: half as long again as the longest usual rest, and an
   * hour's grace.
   */
  public Instant overdueAfter(Instant last) {
    return last.plus(longest.multipliedBy(3).dividedBy(2)).plus(GRACE);
  }
}
