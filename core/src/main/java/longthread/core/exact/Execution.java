package longthread.core.exact;

import java.time.Instant;
import java.util.Comparator;
import java.util.List;
import java.util.UUID;
import longthread.core.history.RunState;
import org.jspecify.annotations.Nullable;

/**
 * One run of a job as far as its data goes.
 *
 * @param end when it ended; null while no end is known
 * @param version the number of the job's version that it ran; null if that is not known
 */
public record Execution(
    UUID run,
    String job,
    Instant start,
    @Nullable Instant end,
    RunState state,
    @Nullable Integer version,
    List<Read> reads,
    List<Write> writes) {
  /** By start; ties by id. */
  public static final Comparator<Execution> BY_START =
      Comparator.comparing(Execution::start).thenComparing(Execution::run);

  /**
   * That it read a dataset.
   *
   * @param asset the reference of the asset
   * @param version the version of the data that it read, in the store's words; null if not reported
   */
  public record Read(String asset, Part part, @Nullable String version) {}

  /**
   * That it wrote a dataset.
   *
   * @param version the version of the data that it made, in the store's words; null if not reported
   * @param rows how many rows it reported to have written; null if it did not
   */
  public record Write(
      String asset, Part part, WriteMode mode, @Nullable String version, @Nullable Long rows) {}

  public Execution {
    reads = List.copyOf(reads);
    writes = List.copyOf(writes);
    if (end != null && end.isBefore(start)) {
      end = start; // clocks of two machines: an end before the start is the start
    }
  }

  /** The end, or the far future while there is none. */
  Instant until() {
    return end == null ? Instant.MAX : end;
  }

  boolean completed() {
    return state == RunState.COMPLETED;
  }

  /** Whether it wrote nothing for certain: it did not complete and reported no rows. */
  boolean wroteNothing(Write write) {
    boolean ended = state == RunState.FAILED || state == RunState.ABORTED;
    return ended && write.rows() != null && write.rows() == 0 && write.mode() == WriteMode.ADDS;
  }
}
