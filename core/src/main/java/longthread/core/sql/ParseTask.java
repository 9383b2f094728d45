package longthread.core.sql;

import net.sf.jsqlparser.parser.CCJSqlParser;
import org.jspecify.annotations.Nullable;

/** The work at a statement, parsing and all, which another thread can stop. */
final class ParseTask {
  private final Budget budget;
  private volatile @Nullable CCJSqlParser parser;

  ParseTask(Budget budget) {
    this.budget = budget;
  }

  boolean stopped() {
    return budget.isStopped();
  }

  void parseWith(CCJSqlParser next) {
    parser = next;
    if (stopped()) {
      next.interrupted = true;
    }
  }

  /** Ends the work at its next step or token. */
  void stop() {
    budget.stop();
    CCJSqlParser running = parser;
    if (running != null) {
      running.interrupted = true;
    }
  }
}
