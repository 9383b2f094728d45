package longthread.core.graph;

import java.util.Arrays;
import java.util.BitSet;
import org.jspecify.annotations.Nullable;

/**
 * The assets of a graph and which feeds which, in an order in which every asset stands after all
 * that it feeds. Assets that feed each other in a circle share a number.
 *
 * @see "Tarjan, Depth-first search and linear graph algorithms, 1972"
 */
final class AssetOrder {
  final int assets;
  final int[] starts; // by asset, where its successors begin
  final int[] circle; // of each asset: what it feeds has the same or a lesser number
  int[] successors = new int[1024];
  int circles;
  private final LineageGraph graph;
  private final @Nullable BitSet within;

  /**
   * Takes O(a + l log d) for a assets and l links between them, at most d of one.
   *
   * @param within the assets that count; null for all
   */
  AssetOrder(LineageGraph graph, @Nullable BitSet within) {
    this.graph = graph;
    this.within = within;
    this.assets = graph.assetCount();
    this.starts = new int[assets + 1];
    this.circle = new int[assets];
    gather();
    findCircles();
  }

  private boolean counts(int asset) {
    return asset < assets && (within == null || within.get(asset));
  }

  /** The assets in the order of their circles; {@code first} gets where each circle begins. */
  int[] byCircle(int[] first) {
    for (int asset = 0; asset < assets; asset++) {
      first[circle[asset] + 1]++;
    }
    for (int c = 0; c < circles; c++) {
      first[c + 1] += first[c];
    }
    int[] order = new int[assets];
    int[] at = Arrays.copyOf(first, circles);
    for (int asset = 0; asset < assets; asset++) {
      order[at[circle[asset]]++] = asset;
    }
    return order;
  }

  private void gather() {
    int[] size = {0};
    for (int asset = 0; asset < assets; asset++) {
      starts[asset] = size[0];
      int from = asset;
      if (!counts(asset)) {
        continue;
      }
      graph
          .down()
          .forEach(
              graph.rowsOf(asset),
              (end, info) -> {
                int to = graph.assetOf(end);
                boolean betweenAssets = counts(to) && to != from && graph.rowsOf(to) == end;
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
}
