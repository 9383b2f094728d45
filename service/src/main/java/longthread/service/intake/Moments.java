package longthread.service.intake;

import java.time.Instant;
import longthread.core.event.RunFact;
import longthread.core.history.RunState;
import org.jspecify.annotations.Nullable;

/**
 * When what happened to a run: of its first event and of each kind of end the least time told, of
 * its newest event and of those while it was running the greatest. So the order of telling plays no
 * part.
 */
final class Moments {
  @Nullable Instant start;
  @Nullable Instant heard;
  @Nullable Instant running;
  @Nullable Instant completed;
  @Nullable Instant aborted;
  @Nullable Instant failed;

  /** The oldest block that told any of them. */
  long block = Long.MAX_VALUE;

  void add(RunFact run, long from) {
    Instant at = run.at();
    block = Math.min(block, from);
    start = least(start, at);
    heard = greatest(heard, at);
    switch (run.type() == null ? "" : run.type()) {
      case "COMPLETE" -> completed = least(completed, at);
      case "ABORT" -> aborted = least(aborted, at);
      case "FAIL" -> failed = least(failed, at);
      case "RUNNING" -> running = greatest(running, at);
      default -> {}
    }
  }

  void add(Moments other) {
    block = Math.min(block, other.block);
    start = least(start, other.start);
    heard = greatest(heard, other.heard);
    running = greatest(running, other.running);
    completed = least(completed, other.completed);
    aborted = least(aborted, other.aborted);
    failed = least(failed, other.failed);
  }

  RunState state() {
    return RunState.of(failed, aborted, completed);
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
