package longthread.core.graph;

import java.util.Arrays;

/**
 * How many assets lie downstream of each asset, near or far.
 *
 * <p>Assets that feed each other in a circle are found first and taken as one (Tarjan); the rest
 * has an order in which every asset stands before what it feeds. Along it, from the end, each asset
 * takes over what its successors reach, for a block of {@value #BLOCK} targets at a time, as bits.
 * That takes O((a + l) · a / 64) steps of one word for a assets and l links between them, and
 * {@value #BLOCK} bits for each asset.
 *
 * @see "Tarjan, Depth-first search and linear graph algorithms, 1972"
 */
public final class ImpactCounts {
  private static final int BLOCK = 512;
  private static final int WORDS = BLOCK / Long.SIZE;

  private final AssetOrder order;

  private ImpactCounts(LineageGraph graph) {
    this.order = new AssetOrder(graph, null);
  }

  /**
   * The number of assets downstream of each asset, by its ordinal; an asset does not count itself.
   */
  public static int[] of(LineageGraph graph) {
    return new ImpactCounts(graph).count();
  }

  private int[] count() {
    int circles = order.circles;
    int[] first = new int[circles + 1];
    int[] assets = order.byCircle(first);
    int[] reached = new int[circles];
    var bits = new long[circles * WORDS];
    for (int block = 0; block < circles; block += BLOCK) {
      int end = Math.min(circles, block + BLOCK);
      // A circle reaches only such with lesser numbers: those before the block reach none of it.
      Arrays.fill(bits, block * WORDS, circles * WORDS, 0);
      for (int c = block; c < circles; c++) {
        int own = c * WORDS;
        if (c < end) {
          bits[own + (c - block) / Long.SIZE] |= 1L << (c - block) % Long.SIZE;
        }
        for (int i = first[c]; i < first[c + 1]; i++) {
          for (int s = order.starts[assets[i]]; s < order.starts[assets[i] + 1]; s++) {
            int other = order.circle[order.successors[s]];
            if (other >= block && other != c) {
              for (int w = 0; w < WORDS; w++) {
                bits[own + w] |= bits[other * WORDS + w];
              }
            }
          }
        }
        reached[c] += weight(bits, own, block, first);
      }
    }
    int[] counts = new int[order.assets];
    for (int asset = 0; asset < order.assets; asset++) {
      counts[asset] = reached[order.circle[asset]] - 1;
    }
    return counts;
  }

  private int weight(long[] bits, int own, int block, int[] first) {
    int weight = 0;
    for (int w = 0; w < WORDS; w++) {
      long word = bits[own + w];
      if (order.circles == order.assets) {
        weight += Long.bitCount(word); // no circles: each stands for one asset
        continue;
      }
      while (word != 0) {
        int circle = block + w * Long.SIZE + Long.numberOfTrailingZeros(word);
        weight += first[circle + 1] - first[circle];
        word &= word - 1;
      }
    }
    return weight;
  }
}
