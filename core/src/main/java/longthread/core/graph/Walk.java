package longthread.core.graph;

import java.util.Arrays;
import java.util.BitSet;
import java.util.function.IntConsumer;
import longthread.core.lineage.Flow;

/**
 * Breadth-first walks over a snapshot. {@link #assets} takes O(n + l) time for the n nodes and l
 * links within reach. {@link #values} also looks through the links of an asset's rows once for each
 * of its columns reached: O(n + l + c·r) for c columns of an asset whose rows have r links. The
 * space of both is the answer and one bit per node of the graph.
 *
 * @see "Cormen et al., Introduction to Algorithms, 3rd ed., section 22.2 (breadth-first search)"
 */
public final class Walk {
  private final LineageGraph graph;
  private final Direction direction;
  private final int mostHops;
  private final int limit;
  private final BitSet seen;
  private int[] nodes = new int[64];
  private int[] hops = new int[64];
  private int size;
  private boolean truncated;

  private Walk(LineageGraph graph, Direction direction, int mostHops, int limit) {
    this.graph = graph;
    this.direction = direction;
    this.mostHops = mostHops;
    this.limit = limit;
    this.seen = new BitSet(graph.nodeCount());
  }

  /**
   * Returns whole assets within reach: the rows nodes that links from rows to rows lead to.
   *
   * @param origins rows nodes to start from
   * @param mostHops how far to walk, in links, from 0
   * @param limit the most nodes to return
   */
  public static Reach assets(
      LineageGraph graph, int[] origins, Direction direction, int mostHops, int limit) {
    var walk = new Walk(graph, direction, mostHops, limit);
    walk.start(origins);
    for (int at = 0; at < walk.size; at++) {
      int hop = walk.hops[at] + 1;
      graph.forEachLink(
          walk.nodes[at],
          direction,
          (end, flow, masking, owner) -> {
            if (graph.isRows(end)) {
              walk.visit(end, hop);
            }
          });
    }
    return walk.reach();
  }

  /**
   * Returns the columns whose values lineage (upstream) or are shaped by (downstream) those of the
   * origins. Where lineage is only coarse, all columns of the dataset behind it are reached. The
   * rows of a dataset are reached where a value counts them, and not walked on from. The links of a
   * struct are those of its fields too, and the other way round.
   */
  public static Reach values(
      LineageGraph graph, int[] origins, Direction direction, int mostHops, int limit) {
    var walk = new Walk(graph, direction, mostHops, limit);
    walk.start(origins);
    for (int at = 0; at < walk.size; at++) {
      int hop = walk.hops[at] + 1;
      walk.valuesOf(walk.nodes[at], hop);
      graph.forEachNested(walk.nodes[at], nested -> walk.valuesOf(nested, hop));
    }
    return walk.reach();
  }

  /** Returns every node within reach over links of any kind, in the manner of {@link #values}. */
  public static Reach everything(
      LineageGraph graph, int[] origins, Direction direction, int mostHops, int limit) {
    var walk = new Walk(graph, direction, mostHops, limit);
    walk.start(origins);
    for (int at = 0; at < walk.size; at++) {
      int hop = walk.hops[at] + 1;
      walk.allOf(walk.nodes[at], hop);
      walk.coarse(walk.nodes[at], hop);
      graph.forEachNested(walk.nodes[at], nested -> walk.allOf(nested, hop));
    }
    return walk.reach();
  }

  private void allOf(int node, int hop) {
    graph.forEachLink(
        node,
        direction,
        (end, flow, masking, owner) -> {
          if (flow == Flow.COARSE) {
            whole(end, hop);
          } else if (flow != Flow.READS) {
            visit(end, hop);
          }
        });
  }

  private void valuesOf(int node, int hop) {
    graph.forEachLink(
        node,
        direction,
        (end, flow, masking, owner) -> {
          boolean counts =
              flow == Flow.ROWS_TO_VALUE
                  && countsRows(graph, direction == Direction.UPSTREAM ? node : end);
          if (flow.shapesValues() || counts) {
            visit(end, hop);
          } else if (flow == Flow.COARSE) {
            whole(end, hop);
          }
        });
    coarse(node, hop);
  }

  /**
   * Whether a value is made of nothing but how many rows there are. Any other aggregate depends on
   * the rows too, but is reported by the columns it is made of.
   */
  public static boolean countsRows(LineageGraph graph, int node) {
    boolean[] only = {true};
    graph.forEachLink(
        node,
        Direction.UPSTREAM,
        (from, flow, masking, owner) -> only[0] &= flow == Flow.ROWS_TO_VALUE);
    return only[0];
  }

  /** Coarse links hang on the rows node and hold for every column of the asset. */
  private void coarse(int node, int hop) {
    int rows = graph.rowsOf(graph.assetOf(node));
    if (rows != node) {
      graph.forEachLink(
          rows,
          direction,
          (end, flow, masking, owner) -> {
            if (flow == Flow.COARSE) {
              whole(end, hop);
            }
          });
    }
  }

  private void whole(int end, int hop) {
    visit(end, hop);
    if (graph.isRows(end)) {
      graph.forEachColumn(graph.assetOf(end), column -> visit(column, hop));
    }
  }

  private void start(int[] origins) {
    for (int origin : origins) {
      visit(origin, 0);
    }
  }

  private void visit(int node, int hop) {
    if (hop > mostHops || seen.get(node)) {
      return;
    }
    if (size == limit) {
      truncated = true;
      return;
    }
    seen.set(node);
    if (size == nodes.length) {
      nodes = Arrays.copyOf(nodes, size * 2);
      hops = Arrays.copyOf(hops, size * 2);
    }
    nodes[size] = node;
    hops[size++] = hop;
  }

  private Reach reach() {
    return new Reach(Arrays.copyOf(nodes, size), Arrays.copyOf(hops, size), truncated);
  }

  /** The nodes of a column, or of a whole asset with all its columns, as origins of a walk. */
  public static int[] originsOf(LineageGraph graph, int node) {
    if (!graph.isRows(node)) {
      return new int[] {node};
    }
    var all = new java.util.ArrayList<Integer>();
    all.add(node);
    IntConsumer add = all::add;
    graph.forEachColumn(graph.assetOf(node), add);
    return all.stream().mapToInt(Integer::intValue).toArray();
  }
}
