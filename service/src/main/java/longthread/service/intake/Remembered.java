package longthread.service.intake;

import java.util.LinkedHashMap;
import java.util.function.ToIntFunction;
import org.jspecify.annotations.Nullable;

/**
 * What the applier read or wrote lately and need not ask the database for: the least recently used
 * is forgotten first, once all weigh more than the bound. For one thread.
 */
final class Remembered<K, V> {
  private static final float LOAD = 0.75f;

  private record Entry<V>(V value, int weight) {}

  private final LinkedHashMap<K, Entry<V>> entries = new LinkedHashMap<>(1024, LOAD, true);
  private final long mostWeight;
  private final ToIntFunction<V> weigher;
  private long weight;

  /**
   * @param weigher what an entry weighs; asked when it is put, so an entry that grew is put again
   */
  Remembered(long mostWeight, ToIntFunction<V> weigher) {
    this.mostWeight = mostWeight;
    this.weigher = weigher;
  }

  @Nullable V get(K key) {
    Entry<V> entry = entries.get(key);
    return entry == null ? null : entry.value();
  }

  boolean has(K key) {
    return entries.containsKey(key);
  }

  void put(K key, V value) {
    var entry = new Entry<>(value, weigher.applyAsInt(value));
    Entry<V> before = entries.put(key, entry);
    weight += entry.weight() - (before == null ? 0 : before.weight());
    var oldest = entries.values().iterator();
    while (weight > mostWeight && entries.size() > 1) {
      weight -= oldest.next().weight();
      oldest.remove();
    }
  }

  void remove(K key) {
    Entry<V> gone = entries.remove(key);
    weight -= gone == null ? 0 : gone.weight();
  }

  void clear() {
    entries.clear();
    weight = 0;
  }
}
