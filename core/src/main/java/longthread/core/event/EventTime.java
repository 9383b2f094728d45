package longthread.core.event;

import java.time.Duration;
import java.time.Instant;

/**
 * When an event says it happened.
 *
 * @param farFuture whether that lies more than a day after it was received; such a time is kept but
 *     never decides which of two values is the newest
 */
public record EventTime(Instant at, boolean farFuture) {
  private static final Duration TOLERANCE = Duration.ofHours(24);

  public static EventTime of(Instant at, Instant receivedAt) {
    return new EventTime(at, at.isAfter(receivedAt.plus(TOLERANCE)));
  }
}
