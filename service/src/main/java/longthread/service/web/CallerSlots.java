package longthread.service.web;

import java.util.HashMap;
import java.util.Map;

/**
 * So many places that callers may hold at one time, and fewer of them for any single caller, so
 * that none keeps all others out. Safe for use by many threads; each call takes constant time.
 */
public final class CallerSlots {
  private final int all;
  private final int perCaller;
  private final Map<String, Integer> held = new HashMap<>();
  private int taken;

  /**
   * Places for all callers together.
   *
   * @param perCaller how many of them one caller may hold
   */
  public CallerSlots(int all, int perCaller) {
    this.all = all;
    this.perCaller = perCaller;
  }

  /** Takes a place for a caller, who must give it back; returns false if there is none. */
  public synchronized boolean take(String caller) {
    int now = held.getOrDefault(caller, 0);
    if (taken >= all || now >= perCaller) {
      return false;
    }
    taken++;
    held.put(caller, now + 1);
    return true;
  }

  /**
   * Takes a place, waiting for one at most so long.
   *
   * @return false if there was none in that time
   */
  public synchronized boolean take(String caller, long millis) throws InterruptedException {
    long deadline = System.nanoTime() + millis * 1_000_000;
    while (!take(caller)) {
      long left = (deadline - System.nanoTime()) / 1_000_000;
      if (left <= 0) {
        return false;
      }
      wait(left);
    }
    return true;
  }

  public synchronized void giveBack(String caller) {
    taken--;
    held.compute(caller, (key, now) -> now == null || now <= 1 ? null : now - 1);
    notifyAll();
  }

  /** How many places are taken. */
  public synchronized int taken() {
    return taken;
  }
}
