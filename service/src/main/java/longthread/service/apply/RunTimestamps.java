package longthread.service.apply;

import java.time.Instant;
import longthread.core.event.RunFact;
import longthread.core.history.RunState;
import longthread.service.storage.runs.RunQueries;
import org.jspecify.annotations.Nullable;

/**
 * When what happened to a run: of its first event and of each kind of end the least time reported,
 * of its newest event and of those while it was running the greatest. So the order of arrival plays
 * no part.
 */
final class RunTimestamps {
  private @Nullable Instant start;
  private @Nullable Instant lastReported;
  private @Nullable Instant begun;
  private @Nullable Instant running;
  private @Nullable Instant completed;
  private @Nullable Instant aborted;
  private @Nullable Instant failed;
  private long block = Long.MAX_VALUE; // the oldest that reported any of them
  private long lastBlock; // the newest

  void add(RunFact run, long from) {
    Instant at = run.at();
    block = Math.min(block, from);
    lastBlock = Math.max(lastBlock, from);
    start = least(start, at);
    lastReported = greatest(lastReported, at);
    switch (run.type() == null ? "" : run.type()) {
      case "COMPLETE" -> completed = least(completed, at);
      case "ABORT" -> aborted = least(aborted, at);
      case "FAIL" -> failed = least(failed, at);
      case "START" -> begun = least(begun, at);
      case "RUNNING" -> {
        begun = least(begun, at);
        running = greatest(running, at);
      }
      default -> {}
    }
  }

  void add(RunTimestamps other) {
    add(other.times());
  }

  void add(RunQueries.Times other) {
    block = Math.min(block, other.block());
    lastBlock = Math.max(lastBlock, other.lastBlock());
    start = least(start, other.start());
    lastReported = greatest(lastReported, other.lastReported());
    begun = least(begun, other.begun());
    running = greatest(running, other.running());
    completed = least(completed, other.completed());
    aborted = least(aborted, other.aborted());
    failed = least(failed, other.failed());
  }

  RunQueries.Times times() {
    return new RunQueries.Times(
        start, lastReported, begun, running, completed, aborted, failed, block, lastBlock);
  }

  /** The time of its first event; null while only far-future events are known. */
  @Nullable Instant start() {
    return start;
  }

  /** The time of its newest event. */
  @Nullable Instant lastReported() {
    return lastReported;
  }

  /** Whether any event reported it as running. */
  boolean reportedRunning() {
    return running != null;
  }

  RunState state() {
    return RunState.of(failed, aborted, completed, begun);
  }

  /** When it ended, by the end that counts. */
  @Nullable Instant end() {
    return failed != null ? failed : aborted != null ? aborted : completed;
  }

  private static @Nullable Instant least(@Nullable Instant a, @Nullable Instant b) {
    return a == null || (b != null && b.isBefore(a)) ? b : a;
  }

  private static @Nullable Instant greatest(@Nullable Instant a, @Nullable Instant b) {
    return a == null || (b != null && b.isAfter(a)) ? b : a;
  }
}
