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

  private final LineageGraph graph;
  private final int assets;
  private final int[] starts; // by asset, where its successors begin
  private int[] successors = new int[1024];
  private final int[] circle; // of each asset, numbered so that each stands after what it feeds
  private int circles;

  private ImpactCounts(LineageGraph graph) {
    this.graph = graph;
    this.assets = graph.assetCount();
    this.starts = new int[assets + 1];
    this.circle = new int[assets];
    gather();
    findCircles();
  }

  /**
   * The number of assets downstream of each asset, by its ordinal; an asset does not count itself.
   */
  public static int[] of(LineageGraph graph) {
    return new ImpactCounts(graph).count();
  }

  private void gather() {
    int[] size = {0};
    for (int asset = 0; asset < assets; asset++) {
      starts[asset] = size[0];
      int from = asset;
      graph
          .down()
          .forEach(
              graph.rowsOf(asset),
              (end, info) -> {
                int to = graph.assetOf(end);
                boolean betweenAssets = to < assets && to != from && graph.rowsOf(to) == end;
                if (betweenAssets) {
                  if (size[0] == successors.length) {
                    successors = Arrays.copyOf(successors, size[0] * 2);
                  }
                  successors[size[0]++] = to;
                }
              });
      // Several jobs may feed the same asset.
      Arrays.sort(successors, starts[asset], size[0]);
      int kept = starts[asset];
      for (int i = starts[asset]; i < size[0]; i++) {
        if (kept == starts[asset] || successors[kept - 1] != successors[i]) {
          successors[kept++] = successors[i];
        }
      }
      size[0] = kept;
    }
    starts[assets] = size[0];
  }

  /** Tarjan's search, with a stack of its own: chains of assets may be longer than a thread's. */
  private void findCircles() {
    int[] index = new int[assets];
    int[] low = new int[assets];
    boolean[] waiting = new boolean[assets];
    int[] stack = new int[assets];
    int[] path = new int[assets];
    int[] next = new int[assets];
    int stacked = 0;
    int counter = 0;
    for (int root = 0; root < assets; root++) {
      if (index[root] != 0) {
        continue;
      }
      int depth = 0;
      path[0] = root;
      while (depth >= 0) {
        int asset = path[depth];
        if (index[asset] == 0) {
          index[asset] = ++counter;
          low[asset] = counter;
          next[asset] = starts[asset];
          stack[stacked++] = asset;
          waiting[asset] = true;
        }
        if (next[asset] < starts[asset + 1]) {
          int to = successors[next[asset]++];
          if (index[to] == 0) {
            path[++depth] = to;
          } else if (waiting[to]) {
            low[asset] = Math.min(low[asset], index[to]);
          }
          continue;
        }
        if (low[asset] == index[asset]) {
          int one;
          do {
            one = stack[--stacked];
            waiting[one] = false;
            circle[one] = circles;
          } while (one != asset);
          circles++;
        }
        depth--;
        if (depth >= 0) {
          low[path[depth]] = Math.min(low[path[depth]], low[asset]);
        }
      }
    }
  }

  private int[] count() {
    int[] members = new int[circles];
    int[] first = new int[circles + 1]; // assets in the order of their circles
    for (int asset = 0; asset < assets; asset++) {
      members[circle[asset]]++;
    }
    for (int c = 0; c < circles; c++) {
      first[c + 1] = first[c] + members[c];
    }
    int[] order = new int[assets];
    int[] at = Arrays.copyOf(first, circles);
    for (int asset = 0; asset < assets; asset++) {
      order[at[circle[asset]]++] = asset;
    }
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
          for (int s = starts[order[i]]; s < starts[order[i] + 1]; s++) {
            int other = circle[successors[s]];
            if (other >= block && other != c) {
              for (int w = 0; w < WORDS; w++) {
                bits[own + w] |= bits[other * WORDS + w];
              }
            }
          }
        }
        reached[c] += weight(bits, own, block, members);
      }
    }
    int[] counts = new int[assets];
    for (int asset = 0; asset < assets; asset++) {
      counts[asset] = reached[circle[asset]] - 1;
    }
    return counts;
  }

  private int weight(long[] bits, int own, int block, int[] members) {
    int weight = 0;
    for (int w = 0; w < WORDS; w++) {
      long word = bits[own + w];
      if (circles == assets) {
        weight += Long.bitCount(word); // no circles: each stands for one asset
        continue;
      }
      while (word != 0) {
        weight += members[block + w * Long.SIZE + Long.numberOfTrailingZeros(word)];
        word &= word - 1;
      }
    }
    return weight;
  }
}
