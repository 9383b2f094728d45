package longthread.core.cause;

import java.time.Instant;
import java.util.Arrays;
import java.util.List;
import longthread.core.trust.Usual;
import org.jspecify.annotations.Nullable;

/**
 * Where a series leaves what is usual for it.
 *
 * @param newest the position of the newest sample that deviates, newest first
 * @param first the position of the first one of that streak
 * @param usual what was usual before
 * @param rarity 1 if the samples before the window never deviated as far
 */
record Shift(int newest, int first, Usual usual, double rarity) {
  private static final int MAX_BACK = 60; // samples of the window that are looked at

  /**
   * Returns where the samples deviate in the window, the newest streak; null if they do not, or if
   * the history is too short to say. O(n) for n samples where nothing deviates.
   *
   * @param far how many spreads away it must be
   * @param share which share of the usual it must differ by at least
   * @param least by how much it must differ at least
   */
  static @Nullable Shift of(
      List<Usual.Sample> newestFirst, Instant windowStart, double far, double share, double least) {
    List<Usual.Sample> before = baseline(newestFirst, windowStart);
    if (before.isEmpty()) {
      return null;
    }
    int recent = newestFirst.size() - before.size();
    var ranges = new Ranges(before);
    for (int at = 0; at < Math.min(recent, MAX_BACK); at++) {
      Usual.Sample sample = newestFirst.get(at);
      Usual usual =
          ranges.holds(sample, share / 2) ? null : deviates(sample, before, far, share, least);
      if (usual != null) {
        int first = at;
        while (first + 1 < recent
            && deviates(newestFirst.get(first + 1), before, far, share, least) != null) {
          first++;
        }
        return new Shift(at, first, usual, rarity(before, usual, far, share));
      }
    }
    return null;
  }

  /** What is older than the window; where that is too little, the older half of all. */
  private static List<Usual.Sample> baseline(List<Usual.Sample> newestFirst, Instant windowStart) {
    int size = newestFirst.size();
    int recent = 0;
    while (recent < size && !newestFirst.get(recent).at().isBefore(windowStart)) {
      recent++;
    }
    if (size - recent >= Usual.MIN_SAMPLES) {
      return newestFirst.subList(recent, size);
    }
    int half = Math.max(Usual.MIN_SAMPLES, size / 2);
    return size <= Usual.MIN_SAMPLES
        ? List.of()
        : newestFirst.subList(size - Math.min(half, size - 1), size);
  }

  private static @Nullable Usual deviates(
      Usual.Sample sample, List<Usual.Sample> before, double far, double share, double least) {
    Usual usual = Usual.of(before, sample.at()).orElse(null);
    if (usual == null) {
      return null;
    }
    boolean deviates =
        usual.distance(sample.value()) >= far
            && usual.relative(sample.value()) >= share
            && Math.abs(sample.value() - usual.expected()) >= least;
    return deviates ? usual : null;
  }

  private static double rarity(List<Usual.Sample> before, Usual usual, double far, double share) {
    long as =
        before.stream()
            .filter(s -> usual.distance(s.value()) >= far && usual.relative(s.value()) >= share)
            .count();
    return RunDeviations.rarity(as, before.size());
  }

  /**
   * Between which values the baseline lies, on each weekday and over all. What lies between values
   * that occurred cannot be far from usual, which spares reckoning for nearly all samples.
   */
  private static final class Ranges {
    private static final int DAYS = 7;
    private final double[] least = new double[DAYS + 1]; // by weekday; the last is over all
    private final double[] most = new double[DAYS + 1];
    private final int[] count = new int[DAYS];

    Ranges(List<Usual.Sample> before) {
      Arrays.fill(least, Double.POSITIVE_INFINITY);
      Arrays.fill(most, Double.NEGATIVE_INFINITY);
      for (Usual.Sample sample : before) {
        int day = weekday(sample);
        count[day]++;
        least[day] = Math.min(least[day], sample.value());
        most[day] = Math.max(most[day], sample.value());
        least[DAYS] = Math.min(least[DAYS], sample.value());
        most[DAYS] = Math.max(most[DAYS], sample.value());
      }
    }

    /** Whether a sample lies between values that occurred, or beyond them by less than a share. */
    boolean holds(Usual.Sample sample, double share) {
      int day = weekday(sample);
      int of = count[day] >= Usual.MIN_OF_WEEKDAY ? day : DAYS;
      return sample.value() >= least[of] - share * Math.abs(least[of])
          && sample.value() <= most[of] + share * Math.abs(most[of]);
    }

    private static int weekday(Usual.Sample sample) {
      return (int) Math.floorMod(Math.floorDiv(sample.at().getEpochSecond(), 86_400L), DAYS);
    }
  }
}
