package longthread.core.cause;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import longthread.core.asset.Reference;
import longthread.core.cause.Causes.Suspect;
import longthread.core.graph.LineageGraph;
import longthread.core.history.RunState;
import longthread.core.trust.Rhythm;
import org.jspecify.annotations.Nullable;

/**
 * When a symptom is likely gone: the next expected run of the cause, then job by job down the
 * thread. A job that usually starts soon after the one before it follows at once; any other waits
 * for its own next time. Each takes as long as it usually does.
 */
final class Recovery {
  private static final int MIN_GAPS = 2;
  private static final Duration PROMPT = Duration.ofHours(2);

  private final LineageGraph graph;
  private final Map<String, List<Health.Run>> runsOf;
  private final Instant now;

  Recovery(LineageGraph graph, Map<String, List<Health.Run>> runsOf, Instant now) {
    this.graph = graph;
    this.runsOf = runsOf;
    this.now = now;
  }

  /** When the symptom should be right again; null if the cause has no rhythm. O(t·r²). */
  @Nullable Instant after(Suspect suspect) {
    var jobs = new ArrayList<String>();
    if (Reference.isJob(suspect.incident().ref())) {
      jobs.add(suspect.incident().ref());
    }
    CauseSearch.jobsOf(graph, suspect.thread()).stream()
        .filter(job -> !jobs.contains(job))
        .forEach(jobs::add);
    Instant at = null;
    String before = null;
    for (String job : jobs) {
      List<Health.Run> runs = runsOf.getOrDefault(job, List.of());
      Optional<Rhythm> rhythm = rhythm(runs);
      if (at == null) {
        if (rhythm.isEmpty()) {
          return null;
        }
        at = nextStart(runs, rhythm.get(), now).plus(usualDuration(runs));
        before = job;
      } else if (!runs.isEmpty()) {
        at = next(job, runs, rhythm, before, at);
        before = job;
      }
    }
    return at;
  }

  private Instant next(
      String job,
      List<Health.Run> runs,
      Optional<Rhythm> rhythm,
      @Nullable String before,
      Instant ready) {
    Optional<Duration> lag = usualLag(runs, runsOf.getOrDefault(before, List.of()));
    boolean prompt = lag.isPresent() && lag.get().compareTo(PROMPT) <= 0;
    Instant start =
        prompt || rhythm.isEmpty()
            ? ready.plus(lag.orElse(Duration.ZERO))
            : nextStart(runs, rhythm.get(), ready);
    return start.plus(usualDuration(runs));
  }

  /** When the next run after a moment should begin; its nominal time may be long before. */
  static Instant nextStart(List<Health.Run> runs, Rhythm rhythm, Instant after) {
    Duration delay = RunDeviations.usualDelay(runs);
    return rhythm.nextExpected(rhythm.last(), after.minus(delay)).plus(delay);
  }

  /** How long after the end of a run of the one job a run of the other usually starts. */
  private static Optional<Duration> usualLag(List<Health.Run> runs, List<Health.Run> before) {
    var lags = new ArrayList<Duration>();
    for (Health.Run run : runs) {
      before.stream()
          .filter(earlier -> earlier.state() == RunState.COMPLETED)
          .map(RunDeviations::ended)
          .filter(end -> !end.isAfter(run.start()))
          .findFirst()
          .ifPresent(end -> lags.add(Duration.between(end, run.start())));
    }
    return median(lags);
  }

  static Duration usualDuration(List<Health.Run> runs) {
    return median(
            runs.stream()
                .filter(run -> run.state() == RunState.COMPLETED && run.end() != null)
                .map(run -> Duration.between(run.start(), run.end()))
                .toList())
        .orElse(Duration.ZERO);
  }

  private static Optional<Duration> median(List<Duration> some) {
    return some.isEmpty()
        ? Optional.empty()
        : Optional.of(some.stream().sorted().toList().get(some.size() / 2));
  }

  private static Optional<Rhythm> rhythm(List<Health.Run> runs) {
    return Rhythm.of(
        runs.stream().map(run -> run.nominal() == null ? run.start() : run.nominal()).toList(),
        MIN_GAPS);
  }
}
