package longthread.core.trust;

import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;

/**
 * What a figure usually is at a moment, learnt from its history: the median with a robust trend, or
 * the median of its weekday where weekdays differ, and a spread about it.
 *
 * <p>It needs {@value #MIN_SAMPLES} samples to speak. The trend is the median of the slopes between
 * pairs of samples (Theil and Sen); the spread is the median absolute deviation scaled to the
 * standard deviation of a normal distribution, and at least a fortieth of the figure, so that a
 * figure that hardly ever moves does not cry wolf over rounding. O(n²) for n samples, of which the
 * newest 40 count.
 *
 * @param expected what it should be about
 * @param spread one robust standard deviation
 * @param samples from how many samples that is known
 * @see "Sen, Estimates of the Regression Coefficient Based on Kendall's Tau, 1968"
 */
public record Usual(double expected, double spread, int samples) {
  /** Below so many samples nothing is said. */
  public static final int MIN_SAMPLES = 7;

  /** From so many samples of a weekday on, it is judged by itself. */
  public static final int MIN_OF_WEEKDAY = 4;

  /** Makes a median absolute deviation consistent with the standard deviation. */
  static final double CONSISTENCY = 1.4826;

  private static final int MAX_SAMPLES = 40;

  private static final int MIN_FOR_TREND = 10;
  private static final double DAY_DIFFERS =
      1.5; // spreads, from which a weekday has a level of its own
  private static final double MIN_RELATIVE_SPREAD = 0.025;

  /** A figure at a time. */
  public record Sample(Instant at, double value) {}

  /** What is usual at a moment; empty while the history is too short. */
  public static Optional<Usual> of(List<Sample> history, Instant at) {
    if (history.size() < MIN_SAMPLES) {
      return Optional.empty();
    }
    List<Sample> newest =
        history.stream().sorted((a, b) -> b.at().compareTo(a.at())).limit(MAX_SAMPLES).toList();
    Usual level = levelWithTrend(newest, at);
    List<Sample> sameDay =
        newest.stream().filter(sample -> weekday(sample.at()) == weekday(at)).toList();
    if (sameDay.size() >= MIN_OF_WEEKDAY) {
      Usual ofDay = levelOf(sameDay);
      boolean differs =
          Math.abs(ofDay.expected - level.expected) > DAY_DIFFERS * (ofDay.spread + level.spread);
      if (differs || ofDay.spread < level.spread / 2) {
        return Optional.of(ofDay);
      }
    }
    return Optional.of(level);
  }

  /** How many spreads a value is away, always positive. */
  public double distance(double value) {
    return Math.abs(value - expected) / spread;
  }

  /** By which factor a value differs from what is expected: 0.1 is ten per cent. */
  public double relative(double value) {
    return expected == 0
        ? (value == 0 ? 0 : Double.POSITIVE_INFINITY)
        : Math.abs(value - expected) / Math.abs(expected);
  }

  private static Usual levelOf(List<Sample> samples) {
    double[] values = samples.stream().mapToDouble(Sample::value).toArray();
    double middle = median(values);
    return of(values, middle, middle);
  }

  private static Usual levelWithTrend(List<Sample> samples, Instant at) {
    if (samples.size() < MIN_FOR_TREND) {
      return levelOf(samples);
    }
    double slope = slope(samples, at);
    double[] level =
        samples.stream().mapToDouble(s -> s.value() - slope * days(s.at(), at)).toArray();
    double middle = median(level);
    return of(level, middle, middle);
  }

  private static Usual of(double[] values, double middle, double expected) {
    double[] away = Arrays.stream(values).map(value -> Math.abs(value - middle)).toArray();
    double spread = Math.max(CONSISTENCY * median(away), MIN_RELATIVE_SPREAD * Math.abs(expected));
    return new Usual(expected, Math.max(spread, 1e-9), values.length);
  }

  /** The median change a day over all pairs of samples. */
  private static double slope(List<Sample> samples, Instant at) {
    var slopes = new ArrayList<Double>();
    for (int i = 0; i < samples.size(); i++) {
      for (int j = i + 1; j < samples.size(); j++) {
        double apart = days(samples.get(i).at(), at) - days(samples.get(j).at(), at);
        if (Math.abs(apart) > 1e-6) {
          slopes.add((samples.get(i).value() - samples.get(j).value()) / apart);
        }
      }
    }
    return slopes.isEmpty() ? 0 : median(slopes.stream().mapToDouble(d -> d).toArray());
  }

  private static double days(Instant time, Instant from) {
    return Duration.between(from, time).toMillis() / 86_400_000.0;
  }

  private static double median(double[] values) {
    double[] sorted = values.clone();
    Arrays.sort(sorted);
    int middle = sorted.length / 2;
    return sorted.length % 2 == 1 ? sorted[middle] : (sorted[middle - 1] + sorted[middle]) / 2;
  }

  private static DayOfWeek weekday(Instant time) {
    return time.atOffset(ZoneOffset.UTC).getDayOfWeek();
  }
}
