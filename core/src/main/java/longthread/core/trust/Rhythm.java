package longthread.core.trust;

import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.TreeSet;

/**
 * When something that recurs is due again, learnt from when it came before.
 *
 * <p>The gap that is expected after a time is the median of those that followed the times most like
 * it: of the same weekday where at least two are known, and for what comes several times a day of
 * about the same hour too. So a job that rests at the weekend is not due on a Saturday, and an
 * hourly one that rests at night is not due at night. How far it may be behind comes from its own
 * spread: the robust deviation of those gaps, never less than a tenth of the usual gap.
 *
 * @see "Rousseeuw and Croux, Alternatives to the Median Absolute Deviation, 1993, section 1"
 */
public final class Rhythm {
  private static final int MIN_GAPS = 4;
  private static final int MIN_ALIKE = 2;
  private static final int MAX_TIMES = 200; // the newest
  private static final Duration SEVERAL_A_DAY = Duration.ofHours(13);
  private static final Duration MIN_TOLERANCE = Duration.ofMinutes(2);
  private static final Duration DAY = Duration.ofDays(1);
  private static final double SIGMAS = 4;

  private final List<Instant> times;
  private final List<Duration> gaps; // gaps.get(i) lies between times i and i + 1
  private final Duration usual;

  private Rhythm(List<Instant> times) {
    this.times = times;
    this.gaps = new ArrayList<>();
    for (int i = 0; i + 1 < times.size(); i++) {
      gaps.add(Duration.between(times.get(i), times.get(i + 1)));
    }
    this.usual = median(gaps);
  }

  /**
   * When the next is due.
   *
   * @param expected when it usually comes
   * @param lateAfter from when on it is late, its tolerance granted
   * @param overdueAfter from when on waiting for it is no use: half a usual gap later still
   */
  public record Due(Instant expected, Instant lateAfter, Instant overdueAfter) {
    /** The state at a moment, when nothing has come. */
    public Timeliness at(Instant moment) {
      if (moment.isAfter(overdueAfter)) {
        return Timeliness.OVERDUE;
      }
      return moment.isAfter(lateAfter) ? Timeliness.LATE : Timeliness.ON_TIME;
    }
  }

  /** The rhythm of some times in any order; empty for fewer than five of them. O(n log n). */
  public static Optional<Rhythm> of(Collection<Instant> times) {
    return of(times, MIN_GAPS);
  }

  /**
   * The rhythm of some times in any order, of which the newest 200 count. O(n log n).
   *
   * @param minGaps how many gaps there must be between them, else it is empty
   */
  public static Optional<Rhythm> of(Collection<Instant> times, int minGaps) {
    List<Instant> sorted = List.copyOf(new TreeSet<>(times));
    if (sorted.size() - 1 < Math.max(1, minGaps)) {
      return Optional.empty();
    }
    return Optional.of(
        new Rhythm(sorted.subList(Math.max(0, sorted.size() - MAX_TIMES), sorted.size())));
  }

  /** The median gap. */
  public Duration usual() {
    return usual;
  }

  /** The newest of the times it was learnt from. */
  public Instant last() {
    return times.get(times.size() - 1);
  }

  /** When the next is due after one that came at {@code last}. O(n log n). */
  public Due after(Instant last) {
    List<Duration> alike = alike(last);
    boolean known = alike.size() >= MIN_ALIKE;
    List<Duration> from = known ? alike : gaps;
    Duration expected = median(from);
    Duration tolerance = longer(MIN_TOLERANCE, shorter(expected.dividedBy(10), DAY));
    tolerance = longer(tolerance, scaled(deviation(from, expected), SIGMAS));
    tolerance = longer(tolerance, share(from, 0.8).minus(expected));
    if (!known && alike.size() == 1) {
      // One example of a rest after this weekday is enough not to cry wolf.
      tolerance = longer(tolerance, alike.get(0).plus(alike.get(0).dividedBy(10)).minus(expected));
    }
    Instant lateAfter = last.plus(expected).plus(tolerance);
    Duration patience = longer(shorter(usual.dividedBy(2), DAY), tolerance);
    return new Due(last.plus(expected), lateAfter, lateAfter.plus(patience));
  }

  /** The first expected time after {@code now}, when the last was at {@code last}. */
  public Instant nextExpected(Instant last, Instant now) {
    Instant next = after(last).expected();
    for (int steps = 0; !next.isAfter(now) && steps < MAX_TIMES; steps++) {
      next = after(next).expected();
    }
    if (!next.isAfter(now)) { // silent for hundreds of its gaps: only the distance matters
      long missed = Duration.between(next, now).dividedBy(longer(usual, Duration.ofSeconds(1)));
      next = next.plus(usual.multipliedBy(missed + 1));
    }
    return next;
  }

  /** The gaps that followed the times most like this one. */
  private List<Duration> alike(Instant time) {
    boolean often = usual.compareTo(SEVERAL_A_DAY) < 0;
    var gapsAfter = new ArrayList<Duration>();
    for (int i = 0; i < gaps.size(); i++) {
      Instant other = times.get(i);
      if (weekday(other) == weekday(time)
          && (!often || minutesApart(other, time) <= usual.toMinutes() / 2)) {
        gapsAfter.add(gaps.get(i));
      }
    }
    return gapsAfter;
  }

  private static DayOfWeek weekday(Instant time) {
    return time.atOffset(ZoneOffset.UTC).getDayOfWeek();
  }

  /** How far two times of day are apart, over midnight if that is shorter. */
  private static long minutesApart(Instant one, Instant other) {
    long apart = Math.abs(one.getEpochSecond() - other.getEpochSecond()) / 60 % DAY.toMinutes();
    return Math.min(apart, DAY.toMinutes() - apart);
  }

  private static Duration median(List<Duration> some) {
    return share(some, 0.5);
  }

  /** The duration that a share of them does not exceed. */
  private static Duration share(List<Duration> some, double share) {
    List<Duration> sorted = some.stream().sorted().toList();
    int at = (int) Math.ceil(share * sorted.size()) - 1;
    return sorted.get(Math.max(0, at));
  }

  private static Duration deviation(List<Duration> some, Duration middle) {
    return scaled(
        median(some.stream().map(gap -> gap.minus(middle).abs()).toList()), Usual.CONSISTENCY);
  }

  private static Duration scaled(Duration duration, double by) {
    return Duration.ofMillis((long) (duration.toMillis() * by));
  }

  private static Duration longer(Duration one, Duration other) {
    return one.compareTo(other) < 0 ? other : one;
  }

  private static Duration shorter(Duration one, Duration other) {
    return one.compareTo(other) < 0 ? one : other;
  }
}
