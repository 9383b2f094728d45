package longthread.service.live;

import java.time.Duration;
import java.util.Optional;
import longthread.service.storage.log.BlockQueries;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Component;

/** Waits until queries see what an intake answer confirmed. */
@Component
public class Receipts {
  private static final Duration MAX_WAIT = Duration.ofSeconds(10);
  private static final long POLL_MILLIS = 5;

  private final BlockQueries blocks;
  private final GraphFollower follower;

  Receipts(BlockQueries blocks, GraphFollower follower) {
    this.blocks = blocks;
    this.follower = follower;
  }

  /**
   * Waits for the events of a receipt.
   *
   * @param receipt the number of their block, as the intake answer gave it
   * @return whether queries see them now
   */
  public boolean await(String receipt, Duration longest) {
    long block = block(receipt);
    long deadline = System.nanoTime() + longest.toNanos();
    while (true) {
      Optional<Long> change = blocks.changeNumber(block);
      if (change.isPresent()) {
        if (change.get() > follower.number()) {
          follower.follow();
        }
        return true;
      }
      if (System.nanoTime() >= deadline) {
        return false;
      }
      try {
        Thread.sleep(POLL_MILLIS);
      } catch (InterruptedException e) {
        Thread.currentThread().interrupt();
        return false;
      }
    }
  }

  private static long block(String receipt) {
    try {
      long block = Long.parseLong(receipt);
      if (block > 0) {
        return block;
      }
    } catch (NumberFormatException e) {
      // said below
    }
    throw ProblemException.badRequest(
        "bad-receipt", "'" + receipt + "' is not a receipt; pass one from an intake answer");
  }

  /** Makes the caller's query see the events of a receipt; does nothing for null. */
  public void awaitVisible(@Nullable String after) {
    if (after != null && !await(after, MAX_WAIT)) {
      throw new ProblemException(
          HttpStatus.SERVICE_UNAVAILABLE,
          "not-applied-yet",
          "The events of this receipt are not applied yet",
          "the applier is behind; ask again in a moment, or without 'after'");
    }
  }
}
