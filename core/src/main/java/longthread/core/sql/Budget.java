package longthread.core.sql;

/**
 * How much work a statement may still take, and a script with all of its statements.
 *
 * <p>A short text can ask for a large answer: twenty queries that each select all columns of a
 * self-join double a table's columns twenty times. So what is done is counted where it is done: a
 * <i>step</i> for each column, name or pair that is looked at, and a <i>kept</i> one for each that
 * stays in memory until the statement is answered. The count depends on the text alone, and so does
 * what is refused: a busy machine gives the same answer as an idle one.
 *
 * <p>The budget belongs to the thread that works at a statement, so that records and maps need not
 * carry it. A thread without one (a test of a single reader) is not limited.
 */
final class Budget {
  /** The work of a statement: about a second of one core. */
  static final long MAX_STEPS = 20_000_000;

  /** What a statement may keep in memory, in things of about 100 bytes. */
  static final long MAX_KEPT = 400_000;

  /** How many statements' worth of work the statements of one script may take together. */
  static final int STATEMENTS_PER_SCRIPT = 4;

  /** The work is at an end: the answer says that the statement asks for too much. */
  static final class SpentException extends RuntimeException {
    private static final long serialVersionUID = 1;

    SpentException(String message) {
      super(message, null, false, false);
    }
  }

  /** Nobody waits for the answer any longer. */
  static final class StoppedException extends RuntimeException {
    private static final long serialVersionUID = 1;

    StoppedException() {
      super("stopped", null, false, false);
    }
  }

  /** What the statements of a script have used so far. Used by one thread after another. */
  static final class OfScript {
    private long steps = MAX_STEPS * STATEMENTS_PER_SCRIPT;
    private long kept = MAX_KEPT * 2; // the answers of all are in memory together
  }

  private static final ThreadLocal<Budget> CURRENT = new ThreadLocal<>();

  private final OfScript script;
  private long steps;
  private long kept;
  private volatile boolean stopped;

  Budget(OfScript script) {
    this.script = script;
    this.steps = Math.min(MAX_STEPS, script.steps);
    this.kept = Math.min(MAX_KEPT, script.kept);
  }

  /** Makes the thread draw on this budget while it does {@code work}. */
  <T> T spend(java.util.function.Supplier<T> work) {
    CURRENT.set(this);
    long stepsBefore = steps;
    long keptBefore = kept;
    try {
      return work.get();
    } finally {
      CURRENT.remove();
      script.steps -= stepsBefore - steps;
      script.kept -= keptBefore - kept;
    }
  }

  /** Ends the work at its next step. Safe to call from another thread. */
  void stop() {
    stopped = true;
  }

  boolean isStopped() {
    return stopped;
  }

  /** Notes that {@code n} things are looked at. */
  static void step(long n) {
    Budget budget = CURRENT.get();
    if (budget != null) {
      budget.take(n, 0);
    }
  }

  /** Notes that {@code n} things are made that stay until the statement is answered. */
  static void keep(long n) {
    Budget budget = CURRENT.get();
    if (budget != null) {
      budget.take(n, n);
    }
  }

  private void take(long work, long memory) {
    if (stopped) {
      throw new StoppedException();
    }
    steps -= work;
    kept -= memory;
    if (steps < 0) {
      throw new SpentException("takes more than " + MAX_STEPS + " steps to work out");
    }
    if (kept < 0) {
      throw new SpentException(
          "has more than " + MAX_KEPT + " columns and pairs of columns, steps included");
    }
  }
}
