package longthread.service.web;

import ch.qos.logback.classic.Level;
import ch.qos.logback.classic.Logger;
import ch.qos.logback.classic.LoggerContext;
import ch.qos.logback.classic.turbo.TurboFilter;
import ch.qos.logback.core.spi.FilterReply;
import com.github.benmanes.caffeine.cache.Cache;
import com.github.benmanes.caffeine.cache.Caffeine;
import com.github.benmanes.caffeine.cache.Ticker;
import java.time.Duration;
import java.util.Arrays;
import java.util.concurrent.atomic.AtomicInteger;
import org.jspecify.annotations.Nullable;
import org.slf4j.LoggerFactory;
import org.slf4j.Marker;

/**
 * Lets a warning or error that repeats through once a minute, with how often it was left out, so
 * that an outage of hours does not fill the disk. Two are the same if logger, level and text are,
 * whatever stands in the places of the text; only of what concerns access are those compared, too:
 * who was refused must not hide who else was.
 *
 * <p>Safe for use by many threads.
 */
final class RepeatedFaultFilter extends TurboFilter {
  private static final Duration BETWEEN_LINES = Duration.ofMinutes(1);
  private static final int MAX_KEPT = 2_000;
  private static final String ACCESS = "longthread.service.access.";

  private record Line(String logger, Level level, String text, String places) {}

  // How often each was left out since its last line.
  private final Cache<Line, AtomicInteger> recent;

  RepeatedFaultFilter(Ticker ticker) {
    recent =
        Caffeine.newBuilder()
            .maximumSize(MAX_KEPT)
            .expireAfterWrite(BETWEEN_LINES)
            .ticker(ticker)
            .executor(Runnable::run)
            .<Line, AtomicInteger>removalListener((line, count, cause) -> noteLeftOut(line, count))
            .build();
  }

  /** Puts one in place, once in a process. */
  static void install() {
    if (LoggerFactory.getILoggerFactory() instanceof LoggerContext context
        && context.getTurboFilterList().stream().noneMatch(RepeatedFaultFilter.class::isInstance)) {
      var filter = new RepeatedFaultFilter(Ticker.systemTicker());
      filter.setContext(context);
      filter.start();
      context.addTurboFilter(filter);
    }
  }

  @Override
  public FilterReply decide(
      @Nullable Marker marker,
      Logger logger,
      Level level,
      @Nullable String text,
      Object @Nullable [] places,
      @Nullable Throwable thrown) {
    if (text == null || !level.isGreaterOrEqual(Level.WARN) || !logger.isEnabledFor(level)) {
      return FilterReply.NEUTRAL;
    }
    boolean all = logger.getName().startsWith(ACCESS);
    var line = new Line(logger.getName(), level, text, all ? Arrays.toString(places) : "");
    boolean[] isFirst = {false};
    AtomicInteger leftOut =
        recent.get(
            line,
            l -> {
              isFirst[0] = true;
              return new AtomicInteger();
            });
    if (isFirst[0]) {
      return FilterReply.NEUTRAL;
    }
    leftOut.incrementAndGet();
    return FilterReply.DENY;
  }

  private static void noteLeftOut(@Nullable Line line, @Nullable AtomicInteger count) {
    if (line != null && count != null && count.get() > 0) {
      LoggerFactory.getLogger(line.logger())
          .info("{} more lines like this within a minute: {}", count.get(), line.text());
    }
  }
}
