package longthread.core.cause;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import longthread.core.cause.Causes.Incident;
import longthread.core.cause.Causes.What;
import longthread.core.history.RunState;
import longthread.core.trust.HealthState;
import longthread.core.trust.Rhythm;
import org.jspecify.annotations.Nullable;

/**
 * How a job or dataset does by itself, whatever is upstream. A job that has been silent for five of
 * its gaps and two weeks has stopped: nothing is said of it any more.
 *
 * @param state the worst that holds now
 * @param incidents what holds now, the worst first
 * @param successAt when the newest run that completed ended; null for a dataset, or if none did
 * @param expectedAt when the next run should have ended; null without a rhythm
 * @param recheckAt when it may become late or overdue; null if only news can change it
 */
public record OwnHealth(
    HealthState state,
    List<Incident> incidents,
    @Nullable Instant successAt,
    @Nullable Instant expectedAt,
    @Nullable Instant recheckAt) {
  private static final Duration RECHECK = Duration.ofMinutes(10);
  private static final int MIN_GAPS = RunDeviations.MIN_GAPS;
  private static final int GAPS_UNTIL_STOPPED = 5;

  public OwnHealth {
    incidents = List.copyOf(incidents);
  }

  /** The worst incident; empty if there is none. */
  public Optional<Incident> worst() {
    return incidents.stream().findFirst();
  }

  /** How a job does, by its runs, newest first. O(n²) for n runs. */
  public static OwnHealth ofJob(String job, List<Health.Run> runs, Instant now) {
    if (runs.isEmpty()) {
      return new OwnHealth(HealthState.UNKNOWN, List.of(), null, null, null);
    }
    Instant window = now.minus(CauseSearch.WINDOW);
    List<Incident> incidents = present(new RunDeviations(job, runs, window).all(now, now));
    Instant success =
        runs.stream()
            .filter(run -> run.state() == RunState.COMPLETED)
            .findFirst()
            .map(RunDeviations::ended)
            .orElse(null);
    Optional<Rhythm> rhythm = rhythm(runs);
    HealthState state = worst(incidents);
    Instant expected = null;
    Instant recheck = null;
    if (rhythm.isPresent()) {
      Rhythm.Due due = rhythm.get().after(rhythm.get().last());
      Duration delay = RunDeviations.usualDelay(runs);
      boolean isMissing = incidents.stream().anyMatch(i -> i.what() == What.MISSING);
      if (isMissing && hasStopped(rhythm.get(), due, now)) {
        return new OwnHealth(HealthState.UNKNOWN, List.of(), success, null, null);
      }
      if (state == HealthState.LATE && isMissing && due.overdueAfter().plus(delay).isBefore(now)) {
        state = HealthState.OVERDUE;
      }
      expected = Recovery.nextStart(runs, rhythm.get(), now).plus(Recovery.usualDuration(runs));
      recheck = nextOf(now, due.lateAfter().plus(delay), due.overdueAfter().plus(delay));
    }
    if (runs.get(0).state() == RunState.RUNNING) {
      recheck = now.plus(RECHECK);
    }
    return new OwnHealth(state, incidents, success, expected, recheck);
  }

  /** How the content of a dataset does, by its checks and figures; its schema says nothing here. */
  public static OwnHealth ofDataset(String dataset, Health health, Instant now) {
    Instant window = now.minus(CauseSearch.WINDOW);
    List<Incident> incidents = present(new DataDeviations(dataset, health, window).all(now, now));
    boolean anythingKnown = !health.checks(dataset).isEmpty() || !health.series(dataset).isEmpty();
    HealthState state = anythingKnown ? worst(incidents) : HealthState.UNKNOWN;
    return new OwnHealth(state, incidents, null, null, null);
  }

  /** What holds now and is wrong, not only another than before; the worst first. */
  private static List<Incident> present(List<Finding> findings) {
    var present = new ArrayList<Incident>();
    for (Finding finding : findings) {
      if (finding.time() == 1 && !finding.harmless() && !finding.incident().what().isChange()) {
        present.add(finding.incident());
      }
    }
    present.sort(
        Comparator.comparing((Incident incident) -> state(incident.what()))
            .reversed()
            .thenComparing(Incident::at)
            .thenComparing(incident -> String.valueOf(incident.column())));
    return present;
  }

  private static HealthState worst(List<Incident> incidents) {
    return incidents.isEmpty() ? HealthState.HEALTHY : state(incidents.get(0).what());
  }

  /** The state that a deviation amounts to; how late is not known here. */
  public static HealthState state(What what) {
    return switch (what) {
      case FAILED -> HealthState.FAILED;
      case CHECK_FAILED -> HealthState.CHECK_FAILED;
      case MISSING, LATE -> HealthState.LATE;
      default -> HealthState.UNUSUAL;
    };
  }

  /** Whether a deviation is about time alone. */
  static boolean isBehind(What what) {
    return what == What.MISSING || what == What.LATE || what == What.SLOW;
  }

  private static Optional<Rhythm> rhythm(List<Health.Run> runs) {
    return Rhythm.of(runs.stream().map(RunDeviations::due).toList(), MIN_GAPS);
  }

  /** Whether it has been silent for so long that nobody can be waiting for it any more. */
  private static boolean hasStopped(Rhythm rhythm, Rhythm.Due due, Instant now) {
    Duration patience = rhythm.usual().multipliedBy(GAPS_UNTIL_STOPPED);
    Duration least = CauseSearch.WINDOW;
    return due.expected().plus(patience.compareTo(least) < 0 ? least : patience).isBefore(now);
  }

  private static @Nullable Instant nextOf(Instant now, Instant one, Instant other) {
    if (one.isAfter(now)) {
      return one;
    }
    return other.isAfter(now) ? other : null;
  }
}
