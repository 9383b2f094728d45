package longthread.core.graph;

import java.util.Arrays;
import java.util.BitSet;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * Which of many starting points lie upstream of which assets, found for all of them together: along
 * an order in which causes come first, each asset hands on the set of starting points that reach
 * it, {@value #BLOCK} at a time, as bits. Takes O((a + l) · s / 64) steps of one word for a assets,
 * l links between them and s starting points, where a walk from each would take O((a + l) · s).
 */
public final class ReachTable {
  private static final int BLOCK = 512;
  private static final int WORDS = BLOCK / Long.SIZE;

  private final Map<Integer, BitSet> reaching = new HashMap<>();

  /**
   * @param starts the assets that each starting point stands for; it reaches them too
   * @param ends the assets that will be asked about
   * @param within the assets that count, with all starts; null for all of the graph
   */
  public ReachTable(
      LineageGraph graph, List<int[]> starts, Iterable<Integer> ends, @Nullable BitSet within) {
    ends.forEach(end -> reaching.put(end, new BitSet(starts.size())));
    var order = new AssetOrder(graph, within);
    int[] first = new int[order.circles + 1];
    int[] assets = order.byCircle(first);
    var bits = new long[order.circles * WORDS];
    for (int block = 0; block < starts.size(); block += BLOCK) {
      Arrays.fill(bits, 0);
      int end = Math.min(starts.size(), block + BLOCK);
      for (int start = block; start < end; start++) {
        for (int asset : starts.get(start)) {
          int place = order.circle[asset] * WORDS + (start - block) / Long.SIZE;
          bits[place] |= 1L << (start - block) % Long.SIZE;
        }
      }
      for (int c = order.circles - 1; c >= 0; c--) {
        handOn(order, first, assets, bits, c);
      }
      int from = block;
      reaching.forEach(
          (asset, found) -> {
            int own = order.circle[asset] * WORDS;
            for (int start = from; start < end; start++) {
              if ((bits[own + (start - from) / Long.SIZE] & 1L << (start - from) % Long.SIZE)
                  != 0) {
                found.set(start);
              }
            }
          });
    }
  }

  private static void handOn(AssetOrder order, int[] first, int[] assets, long[] bits, int c) {
    boolean any = false;
    for (int w = 0; w < WORDS; w++) {
      any |= bits[c * WORDS + w] != 0;
    }
    if (!any) {
      return;
    }
    for (int i = first[c]; i < first[c + 1]; i++) {
      for (int s = order.starts[assets[i]]; s < order.starts[assets[i] + 1]; s++) {
        int other = order.circle[order.successors[s]];
        if (other != c) {
          for (int w = 0; w < WORDS; w++) {
            bits[other * WORDS + w] |= bits[c * WORDS + w];
          }
        }
      }
    }
  }

  /** The numbers of the starting points that reach an asset; not to be changed. */
  public BitSet reaching(int asset) {
    return reaching.getOrDefault(asset, new BitSet());
  }
}
