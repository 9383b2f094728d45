package longthread.core.graph;

import java.util.Arrays;
import java.util.Collection;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;

/**
 * The assets that each owner states links to. One thread changes it, any number read it. Takes
 * about 60 bytes an owner; adding the n-th asset of an owner takes O(n).
 */
final class OwnerTargets {
  private static final int[] NONE = {};

  private final Map<Integer, int[]> byOwner = new ConcurrentHashMap<>();

  OwnerTargets() {}

  /** One that begins with what another has. */
  OwnerTargets(OwnerTargets other) {
    byOwner.putAll(other.byOwner); // their arrays are never written to
  }

  /** The ordinals of the assets; not to be changed. */
  int[] of(int owner) {
    return byOwner.getOrDefault(owner, NONE);
  }

  /** Replaces those of an owner at once, so that nobody sees a part of them. */
  void set(int owner, Collection<Integer> assets) {
    byOwner.put(owner, assets.stream().mapToInt(Integer::intValue).toArray());
  }

  /** Takes over what another had of an owner. */
  void restore(int owner, int[] assets) {
    if (assets.length > 0) {
      byOwner.put(owner, assets);
    }
  }

  void add(int owner, int asset) {
    int[] before = of(owner);
    for (int known : before) {
      if (known == asset) {
        return;
      }
    }
    int[] after = Arrays.copyOf(before, before.length + 1);
    after[before.length] = asset;
    byOwner.put(owner, after);
  }
}
