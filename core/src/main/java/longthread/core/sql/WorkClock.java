package longthread.core.sql;

import java.lang.management.ManagementFactory;
import java.lang.management.ThreadMXBean;
import java.time.Duration;

/**
 * The time that a thread has worked, not the time that passed: on a busy machine a statement waits
 * for a processor, and that says nothing of the statement. Only a wait of {@value #MAX_STRETCH}
 * times the limit ends it all the same.
 */
final class WorkClock {
  private static final int MAX_STRETCH = 15;
  private static final ThreadMXBean THREADS = ManagementFactory.getThreadMXBean();
  private static final boolean CAN_MEASURE = THREADS.isThreadCpuTimeSupported();

  private volatile long thread;
  private volatile long workedBefore;
  private volatile long startedAt;
  private volatile boolean started;

  /** Begins to count for the calling thread. */
  void start() {
    thread = Thread.currentThread().getId();
    workedBefore = worked();
    startedAt = System.nanoTime();
    started = true;
  }

  private long worked() {
    return CAN_MEASURE ? THREADS.getThreadCpuTime(thread) : System.nanoTime();
  }

  /** How long the thread has worked so far; nothing before it began. */
  Duration taken() {
    if (!started) {
      return Duration.ZERO;
    }
    return Duration.ofNanos(Math.max(0, worked() - workedBefore));
  }

  boolean isOver(Duration limit) {
    return started
        && (taken().compareTo(limit) > 0
            || System.nanoTime() - startedAt > limit.toNanos() * MAX_STRETCH);
  }
}
