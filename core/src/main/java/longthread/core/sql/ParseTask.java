package longthread.core.sql;

import net.sf.jsqlparser.parser.CCJSqlParser;
import org.jspecify.annotations.Nullable;

/** A statement being parsed, which another thread can stop. */
final class ParseTask {
  private volatile @Nullable CCJSqlParser parser;
  private volatile boolean stopped;

  boolean stopped() {
    return stopped;
  }

  void parseWith(CCJSqlParser next) {
    parser = next;
    if (stopped) {
      next.interrupted = true;
    }
  }

  void stop() {
    stopped = true;
    CCJSqlParser running = parser;
    if (running != null) {
      running.interrupted = true;
    }
  }
}
