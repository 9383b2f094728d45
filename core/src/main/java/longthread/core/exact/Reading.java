package longthread.core.exact;

import java.time.Instant;
import org.jspecify.annotations.Nullable;

/**
 * One reading of a dataset.
 *
 * @param from when it began
 * @param until when it was over
 * @param version the version of the data that was read; null if it was not reported
 * @param by the run that read; null for somebody who looks at the data
 */
public record Reading(
    Part part, Instant from, Instant until, @Nullable String version, @Nullable Execution by) {
  /** All of what is there at a moment. */
  public static Reading at(Instant moment) {
    return new Reading(Part.WHOLE, moment, moment, null, null);
  }

  /** What a run read. */
  static Reading of(Execution run, Execution.Read read) {
    return new Reading(read.part(), run.start(), run.until(), read.version(), run);
  }
}
