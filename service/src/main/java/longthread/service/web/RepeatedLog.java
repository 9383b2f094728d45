package longthread.service.web;

import com.github.benmanes.caffeine.cache.Cache;
import com.github.benmanes.caffeine.cache.Caffeine;
import java.time.Duration;
import java.util.concurrent.atomic.AtomicInteger;
import org.slf4j.Logger;
import org.slf4j.event.Level;

/**
 * A log in which what repeats is one line a minute, with how often it was left out since. Safe for
 * use by many threads.
 */
public final class RepeatedLog {
  private static final Duration BETWEEN_LINES = Duration.ofMinutes(1);
  private static final int MAX_KEYS = 1_000;

  private final Logger log;
  // How often each was left out since its last line; what is no longer in it is due again.
  private final Cache<String, AtomicInteger> leftOut =
      Caffeine.newBuilder()
          .maximumSize(MAX_KEYS)
          .expireAfter(
              com.github.benmanes.caffeine.cache.Expiry.<String, AtomicInteger>creating(
                  (key, count) -> BETWEEN_LINES))
          .executor(Runnable::run)
          .build();
  private final Cache<String, Integer> before =
      Caffeine.newBuilder().maximumSize(MAX_KEYS).executor(Runnable::run).build();

  public RepeatedLog(Logger log) {
    this.log = log;
  }

  /** Logs a warning, unless one of the same key was logged within the minute. */
  public void warn(String key, String message, Object... arguments) {
    write(Level.WARN, key, message, arguments);
  }

  /** Logs an error, unless one of the same key was logged within the minute. */
  public void error(String key, String message, Object... arguments) {
    write(Level.ERROR, key, message, arguments);
  }

  private void write(Level level, String key, String message, Object... arguments) {
    boolean[] due = {false};
    AtomicInteger count =
        leftOut.get(
            key,
            k -> {
              due[0] = true;
              return new AtomicInteger();
            });
    if (!due[0]) {
      before.put(key, count.incrementAndGet());
      return;
    }
    Integer missed = before.asMap().remove(key);
    var line = log.atLevel(level);
    Throwable cause = null;
    for (Object argument : arguments) {
      if (argument instanceof Throwable thrown) {
        cause = thrown;
      } else {
        line = line.addArgument(argument);
      }
    }
    if (cause != null) {
      line = line.setCause(cause);
    }
    line.log(
        message + (missed == null ? "" : " (" + missed + " more like this since the last line)"));
  }
}
