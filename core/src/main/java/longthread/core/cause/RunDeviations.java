package longthread.core.cause;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import longthread.core.cause.Causes.Incident;
import longthread.core.cause.Causes.What;
import longthread.core.history.RunState;
import longthread.core.trust.Rhythm;
import longthread.core.trust.Usual;
import org.jspecify.annotations.Nullable;

/**
 * What is unusual about the runs of one job.
 *
 * <p>A job is judged as it stands, and where its newest output is not in the symptom yet, also as
 * it stood when its output was taken. Figures are compared with the job's own history from before
 * the window.
 */
final class RunDeviations {
  /** Gaps between runs, below which nothing is expected of a job. */
  static final int MIN_GAPS = 3;

  private static final int OVERDUE_FACTOR = 3;
  private static final double FAR = 6; // robust standard deviations
  private static final double MIN_ROWS_SHARE = 0.3;
  private static final double MIN_SLOW_SHARE = 0.5;
  private static final Duration MIN_SLOW = Duration.ofMinutes(10);

  private final String job;
  private final List<Health.Run> runs; // newest first
  private final Instant windowStart;

  RunDeviations(String job, List<Health.Run> runs, Instant windowStart) {
    this.job = job;
    this.runs = runs;
    this.windowStart = windowStart;
  }

  /**
   * Everything unusual.
   *
   * @param now the moment of the question
   * @param usedUpTo the latest start of a run whose output can be in the symptom
   */
  List<Finding> all(Instant now, Instant usedUpTo) {
    var findings = new ArrayList<Finding>();
    if (runs.isEmpty()) {
      return findings;
    }
    Optional<Finding> present = state(runs, now);
    present.ifPresent(findings::add);
    List<Health.Run> used = runs.stream().filter(r -> !r.start().isAfter(usedUpTo)).toList();
    if (present.isEmpty() && used.size() < runs.size() && !used.isEmpty()) {
      state(used, usedUpTo).map(RunDeviations::repairedSince).ifPresent(findings::add);
    }
    rows(used.isEmpty() ? runs : used).ifPresent(findings::add);
    slow(runs).ifPresent(findings::add);
    return findings;
  }

  private static Finding repairedSince(Finding finding) {
    Incident incident = finding.incident();
    return new Finding(
        new Incident(
            incident.ref(),
            incident.what(),
            incident.column(),
            incident.at(),
            incident.evidence() + "; a later run came too late for what is shown",
            incident.error()),
        1,
        finding.rarity());
  }

  // ------------------------------------------------------------------ failed, missing, too long

  /** How the job stands at a moment, by the runs there were. */
  private static boolean isBad(Health.Run run) {
    return run.state() == RunState.FAILED || run.state() == RunState.ABORTED;
  }

  private Optional<Finding> state(List<Health.Run> known, Instant moment) {
    Health.Run last = known.get(0);
    if (isBad(last)) {
      return Optional.of(failed(known));
    }
    if (last.state() == RunState.RUNNING) {
      return runsTooLong(known, moment);
    }
    return missing(known, moment);
  }

  private Finding failed(List<Health.Run> known) {
    Health.Run last = known.get(0);
    Health.Run first = last;
    int streak = 0;
    while (streak < known.size() && isBad(known.get(streak))) {
      first = known.get(streak++);
    }
    String evidence =
        streak == 1
            ? "its last run " + last.state().word()
            : "its last " + streak + " runs " + last.state().word();
    List<Health.Run> before = known.subList(streak, known.size());
    long bad = before.stream().filter(RunDeviations::isBad).count();
    return new Finding(
        new Incident(job, What.FAILED, null, ended(first), evidence, last.error()),
        1,
        rarity(bad, before.size()));
  }

  private Optional<Finding> missing(List<Health.Run> known, Instant moment) {
    List<Instant> times = known.stream().map(RunDeviations::due).toList();
    Optional<Rhythm> rhythm = Rhythm.of(times, MIN_GAPS);
    if (rhythm.isEmpty()) {
      return Optional.empty();
    }
    Instant last = rhythm.get().last();
    Rhythm.Due next = rhythm.get().after(last);
    if (!next.lateAfter().plus(usualDelay(known)).isBefore(moment)) {
      return Optional.empty();
    }
    return Optional.of(
        new Finding(
            new Incident(
                job,
                What.MISSING,
                null,
                next.expected().plus(usualDelay(known)),
                "it usually runs every "
                    + Words.of(Duration.between(last, next.expected()))
                    + " and has not run since "
                    + Words.at(known.get(0).start()),
                null),
            1,
            rarity(longGaps(times, rhythm.get().usual()), times.size())));
  }

  /** For which time a run was, and when it really began: the nominal time where it is given. */
  static Instant due(Health.Run run) {
    return run.nominal() == null ? run.start() : run.nominal();
  }

  static Duration usualDelay(List<Health.Run> known) {
    List<Duration> delays =
        known.stream()
            .filter(run -> run.nominal() != null)
            .map(run -> Duration.between(run.nominal(), run.start()))
            .sorted()
            .toList();
    return delays.isEmpty() || delays.get(delays.size() / 2).isNegative()
        ? Duration.ZERO
        : delays.get(delays.size() / 2);
  }

  private static long longGaps(List<Instant> newestFirst, Duration usual) {
    long gaps = 0;
    for (int i = 0; i + 1 < newestFirst.size(); i++) {
      Duration gap = Duration.between(newestFirst.get(i + 1), newestFirst.get(i));
      gaps += gap.compareTo(usual.multipliedBy(3).dividedBy(2)) > 0 ? 1 : 0;
    }
    return gaps;
  }

  private Optional<Finding> runsTooLong(List<Health.Run> known, Instant moment) {
    Health.Run last = known.get(0);
    List<Duration> durations =
        known.stream()
            .filter(run -> run.end() != null)
            .map(run -> Duration.between(run.start(), run.end()))
            .sorted()
            .toList();
    if (durations.size() < 2) {
      return Optional.empty();
    }
    Duration usual = durations.get(durations.size() / 2);
    Instant due = last.start().plus(usual.multipliedBy(OVERDUE_FACTOR)).plus(Duration.ofMinutes(1));
    if (!due.isBefore(moment)) {
      return Optional.empty();
    }
    long longer =
        durations.stream().filter(d -> d.compareTo(usual.multipliedBy(OVERDUE_FACTOR)) > 0).count();
    return Optional.of(
        new Finding(
            new Incident(
                job,
                What.LATE,
                null,
                last.start().plus(usual),
                "it has run since " + Words.at(last.start()) + "; usual is " + Words.of(usual),
                null),
            1,
            rarity(longer, durations.size())));
  }

  // ------------------------------------------------------------------ rows and duration

  /** Runs of the window that wrote unusually many or few rows, as one finding. */
  private Optional<Finding> rows(List<Health.Run> used) {
    List<Health.Run> completed =
        used.stream()
            .filter(run -> run.state() == RunState.COMPLETED && run.rows() != null)
            .toList();
    if (completed.isEmpty()) {
      return Optional.empty();
    }
    if (rows(completed.get(0)) == 0 && completed.size() <= Usual.MIN_SAMPLES) {
      return emptyAfterFew(completed);
    }
    List<Usual.Sample> samples =
        completed.stream().map(run -> new Usual.Sample(ended(run), rows(run))).toList();
    Shift shift = shift(samples, windowStart);
    if (shift == null) {
      return Optional.empty();
    }
    Health.Run first = completed.get(shift.first());
    Health.Run newest = completed.get(shift.newest());
    boolean fewer = rows(newest) < shift.usual().expected();
    What what = rows(newest) == 0 ? What.EMPTY : fewer ? What.FEWER_ROWS : What.MORE_ROWS;
    String evidence =
        (shift.newest() == 0
                ? "its last run wrote "
                : "its run of " + Words.at(ended(newest)) + " wrote ")
            + (rows(newest) == 0 ? "no" : Words.number(rows(newest)))
            + " rows; usual are "
            + Words.number(shift.usual().expected());
    return Optional.of(
        new Finding(
            new Incident(job, what, null, ended(first), evidence, null),
            shift.newest() == 0 ? 1 : Finding.OVER,
            shift.rarity()));
  }

  /** Where counts of rows leave what is usual since a moment; null if they do not. */
  static @Nullable Shift shift(List<Usual.Sample> newestFirst, Instant windowStart) {
    return Shift.of(newestFirst, windowStart, FAR, MIN_ROWS_SHARE, 1);
  }

  private static double rows(Health.Run run) {
    return Objects.requireNonNull(run.rows());
  }

  /** Too short a history for figures; but from some rows to none is never usual. */
  private Optional<Finding> emptyAfterFew(List<Health.Run> completed) {
    double[] before =
        completed.stream().skip(1).mapToDouble(RunDeviations::rows).sorted().toArray();
    double usual = before.length == 0 ? 0 : before[before.length / 2];
    return usual == 0
        ? Optional.empty()
        : Optional.of(
            new Finding(
                new Incident(
                    job,
                    What.EMPTY,
                    null,
                    ended(completed.get(0)),
                    "its last run wrote no rows; usual are " + Words.number(usual),
                    null),
                1,
                1));
  }

  private Optional<Finding> slow(List<Health.Run> known) {
    List<Health.Run> completed =
        known.stream()
            .filter(run -> run.state() == RunState.COMPLETED && run.end() != null)
            .toList();
    if (completed.isEmpty() || completed.get(0).start().isBefore(windowStart)) {
      return Optional.empty();
    }
    Health.Run last = completed.get(0);
    List<Usual.Sample> before =
        completed.stream().skip(1).map(run -> new Usual.Sample(run.start(), seconds(run))).toList();
    Usual usual = Usual.of(before, last.start()).orElse(null);
    double took = seconds(last);
    if (usual == null
        || took < usual.expected() + MIN_SLOW.toSeconds()
        || usual.distance(took) < FAR
        || usual.relative(took) < MIN_SLOW_SHARE) {
      return Optional.empty();
    }
    return Optional.of(
        new Finding(
            new Incident(
                job,
                What.SLOW,
                null,
                last.start().plusSeconds((long) usual.expected()),
                "its last run took "
                    + Words.of(Duration.ofSeconds((long) took))
                    + "; usual are "
                    + Words.of(Duration.ofSeconds((long) usual.expected())),
                null),
            1,
            1));
  }

  private static double seconds(Health.Run run) {
    return Duration.between(run.start(), Objects.requireNonNull(run.end())).toMillis() / 1000.0;
  }

  static Instant ended(Health.Run run) {
    return run.end() == null ? run.start() : run.end();
  }

  /** 1 for what never happened in so many runs before; never below a tenth. */
  static double rarity(long times, int of) {
    return of == 0 ? 1 : Math.max(0.1, 1 - (double) times / of);
  }
}
