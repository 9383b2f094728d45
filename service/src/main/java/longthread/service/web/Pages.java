package longthread.service.web;

import com.github.benmanes.caffeine.cache.Cache;
import com.github.benmanes.caffeine.cache.Caffeine;
import com.github.benmanes.caffeine.cache.Ticker;
import java.time.Clock;
import java.time.Duration;
import java.util.AbstractList;
import java.util.List;
import java.util.UUID;
import java.util.concurrent.TimeUnit;
import java.util.function.Function;
import java.util.function.IntFunction;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpStatus;
import org.springframework.security.core.Authentication;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.stereotype.Component;

/**
 * Hands out long lists page by page. A list that does not fit one answer is kept for five minutes,
 * so that all its pages are of one moment; its cursor expires after that.
 */
@Component
public class Pages {
  public static final int DEFAULT_LIMIT = 100;
  public static final int MAX_LIMIT = 1_000;
  private static final Duration KEPT = Duration.ofMinutes(5);
  private static final int MAX_CALLERS = 200;
  private static final long MAX_ITEMS = 200_000; // of all lists of one caller
  private static final int ITEMS_PER_LIST = 1_000; // a short list counts as so many

  private static final int NUMBERS_PER_ITEM = 20;

  /** A page of a list and the cursor of the next, null at the end. */
  public record Page<T>(List<T> items, int total, @Nullable String cursor) {
    /** The header that names the next page of a list that is a bare array (RFC 8288). */
    public HttpHeaders next(String path, @Nullable Integer limit) {
      var headers = new HttpHeaders();
      if (cursor != null) {
        String query = (limit == null ? "" : "limit=" + limit + "&") + "cursor=" + cursor;
        headers.add(HttpHeaders.LINK, "<" + path + "?" + query + ">; rel=\"next\"");
      }
      return headers;
    }
  }

  // Of each caller its own: many lists of one push out no list of another, and a cursor is worth
  // nothing to anybody else.
  private final Cache<String, Cache<String, List<?>>> kept;
  private final Ticker ticker;

  Pages(Clock clock) {
    ticker = () -> TimeUnit.MILLISECONDS.toNanos(clock.instant().toEpochMilli());
    kept =
        Caffeine.newBuilder()
            .maximumSize(MAX_CALLERS)
            .expireAfterAccess(KEPT)
            .ticker(ticker)
            .executor(Runnable::run)
            .build();
  }

  private Cache<String, List<?>> keptOfCaller() {
    Authentication who = SecurityContextHolder.getContext().getAuthentication();
    return kept.get(
        who == null ? "" : who.getName(),
        name ->
            Caffeine.newBuilder()
                .maximumWeight(MAX_ITEMS)
                .<String, List<?>>weigher((id, list) -> weight(list))
                .expireAfterWrite(KEPT)
                .ticker(ticker)
                .executor(Runnable::run)
                .build());
  }

  /** A limit as asked for, checked. */
  public static int limit(@Nullable Integer asked) {
    int limit = asked == null ? DEFAULT_LIMIT : asked;
    if (limit < 1 || limit > MAX_LIMIT) {
      throw ProblemException.badRequest(
          "bad-limit", "limit is " + limit + "; it takes 1 to " + MAX_LIMIT);
    }
    return limit;
  }

  /**
   * The page that a request asks for: that behind its cursor, else the first of a new list.
   *
   * @param limit as the request gives it; null for the default
   * @param cursor as the request gives it; null for the first page
   */
  public <T> Page<T> page(
      @Nullable Integer limit, @Nullable String cursor, Supplier<List<T>> list) {
    int most = limit(limit);
    return cursor == null ? first(list.get(), most) : next(cursor, most);
  }

  /** The first page of a list, which may make its items when a part of it is taken. */
  public <T> Page<T> first(List<T> all, int limit) {
    if (all.size() <= limit) {
      return new Page<>(all.subList(0, all.size()), all.size(), null);
    }
    String id = UUID.randomUUID().toString();
    keptOfCaller().put(id, all);
    return new Page<>(all.subList(0, limit), all.size(), id + "." + limit);
  }

  /** A list whose items are made when they are asked for: of thousands, a page is. */
  public static <S, T> List<T> made(List<S> all, Function<S, T> make) {
    return new AbstractList<>() {
      @Override
      public T get(int index) {
        return make.apply(all.get(index));
      }

      @Override
      public int size() {
        return all.size();
      }
    };
  }

  /** A list of numbers, which take little room, whose items are made when they are asked for. */
  private static final class Numbered<T> extends AbstractList<T> {
    private final int[] numbers;
    private final IntFunction<T> make;

    Numbered(int[] numbers, IntFunction<T> make) {
      this.numbers = numbers;
      this.make = make;
    }

    @Override
    public T get(int index) {
      return make.apply(numbers[index]);
    }

    @Override
    public int size() {
      return numbers.length;
    }
  }

  /** A list whose items are made of numbers when they are asked for: of a million, a page is. */
  public static <T> List<T> made(int[] numbers, IntFunction<T> make) {
    return new Numbered<>(numbers, make);
  }

  /** How much room a list takes, in items of a list of texts. */
  private static int weight(List<?> list) {
    return ITEMS_PER_LIST
        + (list instanceof Numbered ? list.size() / NUMBERS_PER_ITEM : list.size());
  }

  /** The problem of a cursor behind which there is no list any more. */
  public static ProblemException gone(String why) {
    return new ProblemException(
        HttpStatus.GONE,
        "cursor-gone",
        "The cursor has expired",
        why + "; request the list again without it");
  }

  /** The page behind a cursor. */
  @SuppressWarnings("unchecked") // a cursor leads back to the list it was made from
  public <T> Page<T> next(String cursor, int limit) {
    int dot = cursor.lastIndexOf('.');
    List<T> all = dot < 0 ? null : (List<T>) keptOfCaller().getIfPresent(cursor.substring(0, dot));
    if (all == null) {
      throw gone("a cursor is valid for five minutes");
    }
    int from;
    try {
      from = Math.min(Math.max(0, Integer.parseInt(cursor.substring(dot + 1))), all.size());
    } catch (NumberFormatException e) {
      throw ProblemException.badRequest("bad-cursor", "the cursor was changed; pass it as given");
    }
    int end = Math.min(all.size(), from + limit);
    return new Page<>(
        all.subList(from, end),
        all.size(),
        end < all.size() ? cursor.substring(0, dot) + "." + end : null);
  }
}
