package longthread.service.impact;

import com.github.benmanes.caffeine.cache.Cache;
import com.github.benmanes.caffeine.cache.Caffeine;
import java.util.AbstractList;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import java.util.concurrent.atomic.AtomicReference;
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
   * The list of an impact's items, to be taken in parts: a part is made when it is taken, from one
   * judgement.
   *
   * @param impact as it was just judged; the first part is taken from it
   * @param again judges it once more, with the same result
   * @param chosen the numbers of the items to list; null for all
   * @param make makes an item for an answer
   */
  <T> List<T> list(
      Impact impact,
      Supplier<Impact> again,
      int @Nullable [] chosen,
      Function<Impact.Item, T> make) {
    return new Pinned<>(impact, again, chosen, make);
  }

  private final class Pinned<T> extends AbstractList<T> {
    private final AtomicReference<@Nullable Impact> fresh;
    private final Supplier<Impact> again;
    private final int @Nullable [] chosen;
    private final Function<Impact.Item, T> make;
    private final int size;
    private final Object key = new Object();

    Pinned(
        Impact impact,
        Supplier<Impact> again,
        int @Nullable [] chosen,
        Function<Impact.Item, T> make) {
      this.fresh = new AtomicReference<>(impact);
      this.again = again;
      this.chosen = chosen;
      this.make = make;
      this.size = chosen == null ? impact.items().size() : chosen.length;
    }

    @Override
    public List<T> subList(int from, int to) {
      Objects.checkFromToIndex(from, to, size);
      Impact impact = fresh.getAndSet(null);
      if (impact == null) {
        impact = held.getIfPresent(key);
      }
      if (impact == null) {
        impact = again.get();
      }
      if (to < size) {
        held.put(key, impact); // more of it may be asked for
      }
      var part = new ArrayList<T>(to - from);
      for (int i = from; i < to; i++) {
        part.add(make.apply(impact.items().get(chosen == null ? i : chosen[i])));
      }
      return part;
    }

    @Override
    public T get(int index) {
      return subList(index, index + 1).get(0);
    }

    @Override
    public int size() {
      return size;
    }
  }
}
