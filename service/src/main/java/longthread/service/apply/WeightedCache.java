package longthread.service.apply;

import com.github.benmanes.caffeine.cache.Cache;
import com.github.benmanes.caffeine.cache.Caffeine;
import java.util.function.ToIntFunction;

/** Caches of what the applier wrote or read lately and need not ask the database for. */
final class WeightedCache {
  private WeightedCache() {}

  /**
   * A cache for one thread, bounded by weight.
   *
   * @param weigher what an entry weighs, asked when it is put; an entry that grew is put again
   */
  static <K, V> Cache<K, V> of(long maxWeight, ToIntFunction<V> weigher) {
    return Caffeine.newBuilder()
        .maximumWeight(maxWeight)
        .<K, V>weigher((key, value) -> weigher.applyAsInt(value))
        .executor(Runnable::run)
        .build();
  }
}
