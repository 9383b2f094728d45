package longthread.service.web;

import java.time.Duration;
import java.util.function.LongSupplier;
import org.springframework.http.HttpStatus;

/**
 * How long a caller may take to send a body: thirty seconds, and one more for each 64 KiB that
 * arrived. A caller that sends a byte now and then would hold a thread without end.
 */
public final class SlowBody {
  private static final long GRACE_NANOS = Duration.ofSeconds(30).toNanos();
  private static final long NANOS_PER_BYTE = Duration.ofSeconds(1).toNanos() / 65_536;

  private final LongSupplier nanos;
  private final long startedAt;

  public SlowBody() {
    this(System::nanoTime);
  }

  SlowBody(LongSupplier nanos) {
    this.nanos = nanos;
    this.startedAt = nanos.getAsLong();
  }

  /**
   * Checks the time when so many bytes of the body have arrived.
   *
   * @throws ProblemException with status 408 if it is over
   */
  public void check(long bytes) {
    if (nanos.getAsLong() - startedAt > GRACE_NANOS + bytes * NANOS_PER_BYTE) {
      throw new ProblemException(
          HttpStatus.REQUEST_TIMEOUT,
          "slow-body",
          "The body arrives too slowly",
          "after 30 seconds a body must arrive with 64 KiB a second or more; send less at once");
    }
  }
}
