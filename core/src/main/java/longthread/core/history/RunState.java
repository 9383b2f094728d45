package longthread.core.history;

import java.time.Instant;
import java.util.Arrays;
import java.util.Locale;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * How a run stands: a failed end wins over an aborted one, that over a completed one, any end over
 * none, and a beginning over nothing but other events. Times of each kind are the least reported,
 * so any order of events gives the same state.
 */
public enum RunState {
  /** It was reported, but neither that it began nor that it ended. */
  UNKNOWN,
  RUNNING,
  COMPLETED,
  ABORTED,
  FAILED;

  public String word() {
    return name().toLowerCase(Locale.ROOT);
  }

  /** The state that a word of the interface names; empty for any other word. */
  public static Optional<RunState> of(String word) {
    return Arrays.stream(values()).filter(state -> state.word().equals(word)).findFirst();
  }

  /** The state that the least times of each kind of end, and of a beginning, amount to. */
  public static RunState of(
      @Nullable Instant failed,
      @Nullable Instant aborted,
      @Nullable Instant completed,
      @Nullable Instant begun) {
    if (failed != null) {
      return FAILED;
    }
    if (aborted != null) {
      return ABORTED;
    }
    if (completed != null) {
      return COMPLETED;
    }
    return begun != null ? RUNNING : UNKNOWN;
  }
}
