package longthread.core.sql;

import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;

/**
 * How much text may be parsed at one time in this process. A syntax tree takes some 250 bytes for
 * each character; eight callers with a long text each would fill the memory together. Others wait
 * for their turn, which does not count as time of their own.
 */
final class WorkRoom {
  private static final int BYTES_PER_CHARACTER = 300;
  private static final long MAX_WAIT_SECONDS = 30;

  /** What is worked out of a short text can be as much as {@link Budget} allows, in characters. */
  private static final int LEAST_SHARE = 250_000;

  /** A quarter of the memory, in characters. */
  static final int SIZE =
      (int) Math.min(64_000_000, Runtime.getRuntime().maxMemory() / 4 / BYTES_PER_CHARACTER);

  private static final Semaphore FREE = new Semaphore(SIZE, true);

  private WorkRoom() {}

  /** Waits for room for that many characters; false if there was none for half a minute. */
  static boolean enter(int characters) throws InterruptedException {
    return FREE.tryAcquire(share(characters), MAX_WAIT_SECONDS, TimeUnit.SECONDS);
  }

  static void leave(int characters) {
    FREE.release(share(characters));
  }

  private static int share(int characters) {
    return Math.min(SIZE, Math.max(characters, Math.min(LEAST_SHARE, SIZE / 2)));
  }
}
