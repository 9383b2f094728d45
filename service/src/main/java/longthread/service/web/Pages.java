package longthread.service.web;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Component;

/**
 * Hands out long lists piece by piece. A list that does not fit one answer is kept for five
 * minutes, so that all its pieces are of one moment; its cursor is gone after that.
 */
@Component
public class Pages {
  public static final int USUAL = 100;
  public static final int MOST = 1_000;
  private static final Duration KEPT = Duration.ofMinutes(5);
  private static final int MOST_KEPT = 200;

  /** A piece of a list and the cursor of the next, null at the end. */
  public record Page<T>(List<T> items, int total, @Nullable String cursor) {}

  private record Kept(List<?> all, Instant until) {}

  private final Map<String, Kept> kept = new ConcurrentHashMap<>();
  private final Clock clock;

  Pages(Clock clock) {
    this.clock = clock;
  }

  /** A limit as asked for, checked. */
  public static int limit(@Nullable Integer asked) {
    int limit = asked == null ? USUAL : asked;
    if (limit < 1 || limit > MOST) {
      throw ProblemException.badRequest(
          "bad-limit", "limit is " + limit + "; it takes 1 to " + MOST);
    }
    return limit;
  }

  /** The first piece of a list. */
  public <T> Page<T> first(List<T> all, int limit) {
    if (all.size() <= limit) {
      return new Page<>(all, all.size(), null);
    }
    Instant now = clock.instant();
    kept.values().removeIf(list -> list.until().isBefore(now));
    if (kept.size() >= MOST_KEPT) {
      kept.clear();
    }
    String id = UUID.randomUUID().toString();
    kept.put(id, new Kept(all, now.plus(KEPT)));
    return new Page<>(all.subList(0, limit), all.size(), id + "." + limit);
  }

  /** The piece behind a cursor. */
  @SuppressWarnings("unchecked") // a cursor leads back to the list it was made from
  public <T> Page<T> next(String cursor, int limit) {
    int dot = cursor.lastIndexOf('.');
    Kept list = dot < 0 ? null : kept.get(cursor.substring(0, dot));
    if (list == null || list.until().isBefore(clock.instant())) {
      throw new ProblemException(
          HttpStatus.GONE,
          "cursor-gone",
          "The cursor is no longer good",
          "a cursor is good for five minutes; ask for the list anew without it");
    }
    int from;
    try {
      from = Integer.parseInt(cursor.substring(dot + 1));
    } catch (NumberFormatException e) {
      throw ProblemException.badRequest("bad-cursor", "the cursor was changed; pass it as given");
    }
    List<T> all = (List<T>) list.all();
    int end = Math.min(all.size(), Math.max(0, from) + limit);
    return new Page<>(
        all.subList(Math.min(Math.max(0, from), all.size()), end),
        all.size(),
        end < all.size() ? cursor.substring(0, dot) + "." + end : null);
  }
}
