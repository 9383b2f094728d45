package longthread.core.cause;

import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Objects;
import longthread.core.history.RunState;
import longthread.core.trust.Usual;
import org.jspecify.annotations.Nullable;

/**
 * What figures did after a moment at which something was changed, against what was usual before it.
 * Far is what the search for causes calls far: 8 robust standard deviations and 15 % for the
 * figures of columns, 6 and 30 % for counts of rows. O(n²) for a series of n samples, at most 60.
 */
public final class Aftermath {
  /** What became of figures. */
  public enum State {
    MOVED,
    STAYED,
    UNMEASURED
  }

  /**
   * What was seen.
   *
   * @param words what moved, or which figures stayed, or what is missing to say
   * @param at when it moved, or the newest figure; null where there is none
   */
  public record Seen(State state, String words, @Nullable Instant at) {}

  private Aftermath() {}

  /**
   * What the figures of columns did.
   *
   * @param series all figures of a dataset, see {@link Health#series}
   * @param from when the change was made
   */
  public static Seen values(Collection<Health.Series> series, Instant from) {
    Seen stayed = null;
    int measured = 0;
    for (Health.Series one : series) {
      Seen seen = of(one.newestFirst(), from, one);
      if (seen.state() == State.MOVED) {
        return seen;
      }
      if (seen.state() == State.STAYED) {
        measured++;
        stayed = seen;
      }
    }
    if (stayed == null) {
      return series.isEmpty()
          ? new Seen(State.UNMEASURED, "no run reports figures of its columns", null)
          : new Seen(State.UNMEASURED, missing(anyAfter(series, from)), null);
    }
    String words =
        measured == 1 ? stayed.words() : "all " + measured + " figures of its columns stayed usual";
    return new Seen(State.STAYED, words, stayed.at());
  }

  private static boolean anyAfter(Collection<Health.Series> series, Instant from) {
    return series.stream()
        .flatMap(one -> one.newestFirst().stream())
        .anyMatch(sample -> sample.at().isAfter(from));
  }

  private static String missing(boolean anyAfter) {
    return anyAfter
        ? "fewer than " + Usual.MIN_SAMPLES + " figures from before the change"
        : "no figures since the change";
  }

  private static Seen of(List<Usual.Sample> newestFirst, Instant from, Health.Series series) {
    Shift shift =
        isLongEnough(newestFirst, from) ? DataDeviations.shift(series, newestFirst, from) : null;
    if (shift != null) {
      Usual.Sample newest = newestFirst.get(shift.newest());
      return new Seen(
          State.MOVED,
          DataDeviations.words(series, newest.value(), shift.usual().expected()),
          newestFirst.get(shift.first()).at());
    }
    return isLongEnough(newestFirst, from)
        ? new Seen(
            State.STAYED,
            "the " + series.figure() + " of " + series.column() + " stayed usual",
            newestFirst.get(0).at())
        : new Seen(State.UNMEASURED, "", null);
  }

  /** Whether there is a figure since, and enough from before to say what is usual. */
  private static boolean isLongEnough(List<Usual.Sample> newestFirst, Instant from) {
    long before = newestFirst.stream().filter(sample -> sample.at().isBefore(from)).count();
    return before >= Usual.MIN_SAMPLES && newestFirst.get(0).at().isAfter(from);
  }

  /**
   * What the numbers of rows did that the runs of a job wrote.
   *
   * @param newestFirst the job's runs
   * @param from when the change was made
   */
  public static Seen rows(List<Health.Run> newestFirst, Instant from) {
    List<Usual.Sample> samples =
        newestFirst.stream()
            .filter(run -> run.state() == RunState.COMPLETED && run.rows() != null)
            .map(
                run ->
                    new Usual.Sample(run.start(), Objects.requireNonNull(run.rows()).doubleValue()))
            .toList();
    if (samples.isEmpty()) {
      return new Seen(State.UNMEASURED, "its runs report no counts of rows", null);
    }
    if (!isLongEnough(samples, from)) {
      return new Seen(State.UNMEASURED, missing(samples.get(0).at().isAfter(from)), null);
    }
    Shift shift = RunDeviations.shift(samples, from);
    if (shift == null) {
      return new Seen(State.STAYED, "its counts of rows stayed usual", samples.get(0).at());
    }
    return new Seen(
        State.MOVED,
        "a run wrote "
            + Words.number(samples.get(shift.newest()).value())
            + " rows; usual were "
            + Words.number(shift.usual().expected()),
        samples.get(shift.first()).at());
  }
}
