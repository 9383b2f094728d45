package longthread.core.graph;

import java.util.Arrays;
import java.util.BitSet;
import java.util.HashMap;
import java.util.Map;
import java.util.function.IntPredicate;
import longthread.core.lineage.Flow;
import org.jspecify.annotations.Nullable;

/**
 * The links of a graph in one direction, by node. Immutable: a change makes a new one that shares
 * all but the changed slices. Takes 8 bytes a link and 4 a node.
 */
final class Adjacency {
  /*
   * Compressed sparse rows: the links of node n stand from starts[n] up to, not including,
   * starts[n + 1]. Four nodes with the links 0→1, 0→3 and 2→3 are starts = 0 2 2 3 3,
   * ends = 1 3 3. A walk waits for memory far longer than it computes, and a slice brings the
   * neighbours in together.
   *
   * Nodes whose links changed since the arrays were made have their whole slice in `patched`; few
   * at any time, since the store merges them into new arrays when they grow.
   */
  private static final Flow[] FLOWS = Flow.values();
  private static final int FLOW_BITS = 5;
  private static final int MASK_BIT = 1 << FLOW_BITS;
  private static final int OWNER_SHIFT = FLOW_BITS + 1;

  /** The most jobs and declaring datasets a graph can hold. */
  static final int MAX_OWNERS = 1 << (32 - OWNER_SHIFT);

  private final int[] starts; // one per node and one more; never decreasing
  private final int[] ends; // one per link: the node at its other end
  private final int[] infos; // one per link: flow, masking and owner, packed
  private final Map<Integer, int[]> patched; // by node: end, info, end, info, …
  private final int links;
  private final Mixed mixed;

  /** The nodes of the arrays whose links have several owners; found when first asked for. */
  private static final class Mixed {
    private volatile @Nullable BitSet nodes;
  }

  private Adjacency(int[] starts, int[] ends, int[] infos, Map<Integer, int[]> patched, int links) {
    this(starts, ends, infos, patched, links, new Mixed());
  }

  private Adjacency(
      int[] starts, int[] ends, int[] infos, Map<Integer, int[]> patched, int links, Mixed mixed) {
    this.starts = starts;
    this.ends = ends;
    this.infos = infos;
    this.patched = patched;
    this.links = links;
    this.mixed = mixed;
  }

  /** The links as arrays that were packed before. */
  static Adjacency whole(int[] starts, int[] ends, int[] infos) {
    return new Adjacency(starts, ends, infos, Map.of(), ends.length);
  }

  static Adjacency empty() {
    return new Adjacency(new int[1], new int[0], new int[0], Map.of(), 0);
  }

  /** Packs {@code froms[i] → tos[i]} by counting sort, in O(nodes + links). */
  static Adjacency of(int nodes, int[] froms, int[] tos, int[] infos, int count) {
    int[] starts = new int[nodes + 1];
    for (int i = 0; i < count; i++) {
      starts[froms[i] + 1]++;
    }
    for (int n = 0; n < nodes; n++) {
      starts[n + 1] += starts[n];
    }
    int[] next = Arrays.copyOf(starts, nodes);
    int[] ends = new int[count];
    int[] packed = new int[count];
    for (int i = 0; i < count; i++) {
      int slot = next[froms[i]]++;
      ends[slot] = tos[i];
      packed[slot] = infos[i];
    }
    return new Adjacency(starts, ends, packed, Map.of(), count);
  }

  /**
   * Sorts links by where they come from and takes out what is there twice; returns how many remain,
   * at the beginning of the arrays.
   */
  static int distinct(int nodes, int[] froms, int[] tos, int[] infos, int count) {
    Adjacency sorted = of(nodes, froms, tos, infos, count);
    int kept = 0;
    long[] slice = new long[16];
    for (int node = 0; node < nodes; node++) {
      int start = sorted.starts[node];
      int size = sorted.starts[node + 1] - start;
      if (size > slice.length) {
        slice = new long[size * 2];
      }
      for (int i = 0; i < size; i++) {
        slice[i] = (long) sorted.ends[start + i] << 32 | (sorted.infos[start + i] & 0xFFFFFFFFL);
      }
      Arrays.sort(slice, 0, size);
      for (int i = 0; i < size; i++) {
        if (i == 0 || slice[i] != slice[i - 1]) {
          froms[kept] = node;
          tos[kept] = (int) (slice[i] >>> 32);
          infos[kept++] = (int) slice[i];
        }
      }
    }
    return kept;
  }

  static int info(Flow flow, boolean masking, int owner) {
    return flow.ordinal() | (masking ? MASK_BIT : 0) | (owner << OWNER_SHIFT);
  }

  static Flow flow(int info) {
    return FLOWS[info & (MASK_BIT - 1)];
  }

  static boolean masking(int info) {
    return (info & MASK_BIT) != 0;
  }

  static int owner(int info) {
    return info >>> OWNER_SHIFT;
  }

  /** What is kept of each link of a node: the node at its other end, and its packed info. */
  interface Visitor {
    void link(int end, int info);
  }

  void forEach(int node, Visitor visit) {
    int[] slice = patched.isEmpty() ? null : patched.get(node);
    if (slice != null) {
      for (int i = 0; i < slice.length; i += 2) {
        visit.link(slice[i], slice[i + 1]);
      }
    } else if (node < starts.length - 1) {
      for (int i = starts[node], end = starts[node + 1]; i < end; i++) {
        visit.link(ends[i], infos[i]);
      }
    }
  }

  /** As {@link #forEach}, without a step in between: most time of a walk is spent here. */
  void forEachLink(int node, LineageGraph.LinkVisitor visit) {
    int[] slice = patched.isEmpty() ? null : patched.get(node);
    if (slice != null) {
      for (int i = 0; i < slice.length; i += 2) {
        int info = slice[i + 1];
        visit.link(slice[i], flow(info), masking(info), owner(info));
      }
    } else if (node < starts.length - 1) {
      for (int i = starts[node], end = starts[node + 1]; i < end; i++) {
        int info = infos[i];
        visit.link(ends[i], flow(info), masking(info), owner(info));
      }
    }
  }

  /**
   * Whether all links of a node have this owner, as when there are none. The first call takes
   * O(links), and others of graphs that share the arrays the time of one bit and one link.
   */
  boolean allOwnedBy(int node, int owner) {
    int[] slice = patched.isEmpty() ? null : patched.get(node);
    if (slice != null) {
      for (int i = 1; i < slice.length; i += 2) {
        if (owner(slice[i]) != owner) {
          return false;
        }
      }
      return true;
    }
    if (node >= starts.length - 1 || starts[node] == starts[node + 1]) {
      return true;
    }
    BitSet known = mixed.nodes;
    if (known == null) {
      known = findMixed();
      mixed.nodes = known;
    }
    return !known.get(node) && owner(infos[starts[node]]) == owner;
  }

  private BitSet findMixed() {
    var found = new BitSet(starts.length - 1);
    for (int node = 0; node < starts.length - 1; node++) {
      int first = starts[node];
      for (int i = first + 1; i < starts[node + 1]; i++) {
        if (owner(infos[i]) != owner(infos[first])) {
          found.set(node);
          break;
        }
      }
    }
    return found;
  }

  int links() {
    return links;
  }

  int patches() {
    return patched.size();
  }

  /** A copy in which each of the nodes has the given slice instead of its own. */
  Adjacency with(Map<Integer, int[]> slices) {
    var merged = new HashMap<>(patched);
    int[] total = {links};
    slices.forEach(
        (node, slice) -> {
          total[0] += slice.length / 2 - degree(node);
          merged.put(node, slice);
        });
    return new Adjacency(starts, ends, infos, merged, total[0], mixed);
  }

  int degree(int node) {
    int[] slice = patched.get(node);
    if (slice != null) {
      return slice.length / 2;
    }
    return node < starts.length - 1 ? starts[node + 1] - starts[node] : 0;
  }

  /** The node's links, except those whose info fails the test, with room for more behind them. */
  int[] slice(int node, IntPredicate keep, int more) {
    int[] slice = new int[2 * (degree(node) + more)];
    int[] at = {0};
    forEach(
        node,
        (end, info) -> {
          if (keep.test(info)) {
            slice[at[0]++] = end;
            slice[at[0]++] = info;
          }
        });
    return Arrays.copyOf(slice, at[0] + 2 * more);
  }
}
