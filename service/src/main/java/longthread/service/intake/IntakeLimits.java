package longthread.service.intake;

import io.micrometer.core.instrument.Gauge;
import io.micrometer.core.instrument.MeterRegistry;
import jakarta.servlet.http.HttpServletRequest;
import java.util.concurrent.atomic.AtomicLong;
import longthread.service.web.CallerSlots;
import longthread.service.web.ProblemException;
import org.springframework.beans.factory.annotation.Autowired;
import org.springframework.http.HttpHeaders;
import org.springframework.stereotype.Component;

/**
 * How many posts are read at once, and how much memory their bodies take together. Safe for use by
 * many threads.
 */
@Component
public final class IntakeLimits {
  private static final int MAX_POSTS = 128; // the web server has 200 threads
  private static final int MAX_POSTS_OF_ONE = 112;

  /** A body is there as it came, and once more cut into events. */
  private static final int COPIES = 2;

  private static final double SHARE_OF_HEAP = 0.2; // of all bodies that are not large
  private static final long LARGE_BYTES = 8 << 20;
  private static final long MAX_WAIT_MILLIS = 4_000;

  private final CallerSlots posts = new CallerSlots(MAX_POSTS, MAX_POSTS_OF_ONE);
  private final CallerSlots large = new CallerSlots(1, 1); // of these one at a time
  private final AtomicLong heldBytes = new AtomicLong();
  private final long maxBytes;

  @Autowired
  IntakeLimits(MeterRegistry meters) {
    this(meters, (long) (Runtime.getRuntime().maxMemory() * SHARE_OF_HEAP));
  }

  IntakeLimits(MeterRegistry meters, long maxBytes) {
    this.maxBytes = maxBytes;
    Gauge.builder("longthread.intake.posts", posts, CallerSlots::taken)
        .description("Posts of events being read or waiting for their commit")
        .register(meters);
    Gauge.builder("longthread.intake.body.bytes", heldBytes, AtomicLong::get)
        .description("Memory set aside for large bodies of posts")
        .baseUnit("bytes")
        .register(meters);
  }

  /** A post that is being taken in, and the memory set aside for its body. */
  public final class Post implements AutoCloseable {
    private final String caller;
    private long held;
    private boolean isLarge;

    private Post(String caller) {
      this.caller = caller;
    }

    /**
     * Sets aside the memory for a body of so many bytes. A large one waits for its turn.
     *
     * @throws ProblemException with status 503 if other bodies take the memory
     */
    void hold(long bytes) {
      if (isLarge) {
        return; // alone, whatever its size: it has a limit of its own
      }
      if (bytes > LARGE_BYTES) {
        isLarge = awaitTurn();
        heldBytes.addAndGet(-held);
        held = 0;
        return;
      }
      long more = bytes * COPIES - held;
      held += more;
      if (heldBytes.addAndGet(more) > maxBytes) {
        throw busy();
      }
    }

    private boolean awaitTurn() {
      try {
        if (large.take(caller, MAX_WAIT_MILLIS)) {
          return true;
        }
      } catch (InterruptedException e) {
        Thread.currentThread().interrupt();
      }
      throw busy();
    }

    private ProblemException busy() {
      return ProblemException.busy(
              "intake-busy",
              "other posts of this moment take all the memory for bodies; send it again after"
                  + " the time in Retry-After, or less at once")
          .retryAfter(2);
    }

    @Override
    public void close() {
      heldBytes.addAndGet(-held);
      if (isLarge) {
        large.giveBack(caller);
      }
      posts.giveBack(caller);
    }
  }

  /**
   * Lets a post in; it must be closed.
   *
   * @throws ProblemException with status 503 if too many are being taken in
   */
  public Post enter(HttpServletRequest request) {
    String key = request.getHeader(HttpHeaders.AUTHORIZATION);
    String caller = key == null ? request.getRemoteAddr() : key;
    if (!posts.take(caller)) {
      throw ProblemException.busy(
          "intake-busy",
          "too many posts are being taken in; send it again after the time in Retry-After");
    }
    return new Post(caller);
  }
}
