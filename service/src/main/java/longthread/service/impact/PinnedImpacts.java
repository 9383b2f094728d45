package longthread.service.impact;

import com.github.benmanes.caffeine.cache.Cache;
import com.github.benmanes.caffeine.cache.Caffeine;
import java.util.AbstractList;
import java.util.List;
import java.util.function.Function;
import java.util.function.Supplier;
import longthread.core.impact.Impact;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Component;

/**
 * Lists of touched items that may be asked for page by page. What was found at a million nodes
 * takes more memory than a hundred such lists may have, so only the newest are held; an older one
 * is judged again, from the same graph, when its next page is asked for.
 */
@Component
class PinnedImpacts {
  private static final long MOST_MARKS = 600_000; // about 40 MB

  private final Cache<Object, Impact> held =
      Caffeine.newBuilder()
          .maximumWeight(MOST_MARKS)
          .<Object, Impact>weigher((key, impact) -> 100 + impact.weight())
          .executor(Runnable::run)
          .build();

  /**
   * The list of an impact's items.
   *
   * @param impact as it was just judged
   * @param again judges it once more, with the same result
   * @param chosen the numbers of the items to list; null for all
   * @param make makes an item for an answer
   */
  <T> List<T> list(
      Impact impact,
      Supplier<Impact> again,
      int @Nullable [] chosen,
      Function<Impact.Item, T> make) {
    int size = chosen == null ? impact.items().size() : chosen.length;
    var list =
        new AbstractList<T>() {
          @Override
          public T get(int index) {
            Impact.Item item =
                held.get(this, k -> again.get())
                    .items()
                    .get(chosen == null ? index : chosen[index]);
            return make.apply(item);
          }

          @Override
          public int size() {
            return size;
          }

          @Override
          public boolean equals(@Nullable Object other) {
            return this == other; // a key of its own
          }

          @Override
          public int hashCode() {
            return System.identityHashCode(this);
          }
        };
    held.put(list, impact);
    return list;
  }
}
