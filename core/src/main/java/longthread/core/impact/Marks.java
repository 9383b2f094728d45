package longthread.core.impact;

import java.util.Arrays;
import java.util.BitSet;
import longthread.core.graph.GraphLink;
import longthread.core.lineage.Flow;

/**
 * What was found at which node, in the order of finding: for each pair of an effect and a node one
 * mark, with the link and the mark it came by. Takes about 40 bytes a mark.
 */
final class Marks {
  static final int NONE = -1;

  private static final int EFFECTS = 8; // and more than there are

  private static final Flow[] FLOWS = Flow.values();

  /*
   * Marks are numbered from 0 as they are made; the columns below hold one value each by number.
   * `slots` is an open-addressing hash table from a mark's key to its number, a power of two long
   * and at most half full, so that a search ends soon: a table of objects took most of the time of
   * an impact over a hundred thousand columns.
   */
  private long[] keys = new long[64]; // effect and node
  private boolean[] certain = new boolean[64];
  private boolean[] nested = new boolean[64]; // only by a column that covers it or lies in it
  private int[] hops = new int[64];
  private int[] from = new int[64]; // the mark it came from, NONE at an origin
  private int[] linkFrom = new int[64];
  private int[] linkTo = new int[64];
  private int[] linkHow = new int[64]; // flow and masking
  private int[] linkOwner = new int[64];
  private int[] slots = new int[256];
  private int size;

  /*
   * By effect, the nodes with a mark that is not nested, and those of them where it is certain. Most
   * links of a wide impact lead to nodes that are marked already: a bit of a set that fits the
   * nearest cache tells so, where the table costs a wait for memory or two.
   */
  private final BitSet[] present = new BitSet[EFFECTS];
  private final BitSet[] settled = new BitSet[EFFECTS];

  Marks() {
    Arrays.fill(slots, NONE);
    for (int effect = 0; effect < EFFECTS; effect++) {
      present[effect] = new BitSet();
      settled[effect] = new BitSet();
    }
  }

  /** Whether a mark that comes by a link, certain or not, would change nothing. */
  boolean tellsNothingNew(int effect, int node, boolean isCertain) {
    return (isCertain ? settled : present)[effect].get(node);
  }

  private void note(int mark) {
    int effect = effect(mark);
    int node = node(mark);
    present[effect].set(node, !nested[mark]);
    settled[effect].set(node, certain[mark] && !nested[mark]);
  }

  int size() {
    return size;
  }

  int find(int effect, int node) {
    return slots[slot(key(effect, node))];
  }

  /** Makes a mark that is not there yet, or the number of the one that is. */
  int make(int effect, int node) {
    long key = key(effect, node);
    int slot = slot(key);
    if (slots[slot] != NONE) {
      return slots[slot];
    }
    if (size == keys.length) {
      grow();
      slot = slot(key);
    }
    keys[size] = key;
    from[size] = NONE;
    linkFrom[size] = NONE;
    nested[size] = false;
    slots[slot] = size;
    return size++;
  }

  void set(int mark, boolean isCertain, int distance) {
    certain[mark] = isCertain;
    hops[mark] = distance;
    note(mark);
  }

  /** Says that a mark came by a column of the same asset that covers it or lies in it. */
  void cameWithin(int mark, int before) {
    from[mark] = before;
  }

  void setNested(int mark, boolean isNested) {
    nested[mark] = isNested;
    note(mark);
  }

  boolean isNested(int mark) {
    return nested[mark];
  }

  void cameBy(int mark, int before, int source, int target, Flow flow, boolean masking, int owner) {
    from[mark] = before;
    linkFrom[mark] = source;
    linkTo[mark] = target;
    linkHow[mark] = flow.ordinal() * 2 + (masking ? 1 : 0);
    linkOwner[mark] = owner;
  }

  int effect(int mark) {
    return (int) (keys[mark] >>> 32);
  }

  int node(int mark) {
    return (int) keys[mark];
  }

  boolean certain(int mark) {
    return certain[mark];
  }

  int hops(int mark) {
    return hops[mark];
  }

  int from(int mark) {
    return from[mark];
  }

  /** Whether a mark came by a link, and not by being an origin or by one within its asset. */
  boolean cameByLink(int mark) {
    return linkFrom[mark] != NONE;
  }

  /** The link that a mark came by, if it {@link #cameByLink}. */
  GraphLink link(int mark) {
    return new GraphLink(
        linkFrom[mark],
        linkTo[mark],
        FLOWS[linkHow[mark] / 2],
        linkHow[mark] % 2 == 1,
        linkOwner[mark]);
  }

  private static long key(int effect, int node) {
    return (long) effect << 32 | node;
  }

  private int slot(long key) {
    int mask = slots.length - 1;
    int slot = (int) ((key * 0x9E3779B97F4A7C15L) >>> 32) & mask;
    while (slots[slot] != NONE && keys[slots[slot]] != key) {
      slot = (slot + 1) & mask;
    }
    return slot;
  }

  private void grow() {
    int length = keys.length * 2;
    keys = Arrays.copyOf(keys, length);
    certain = Arrays.copyOf(certain, length);
    nested = Arrays.copyOf(nested, length);
    hops = Arrays.copyOf(hops, length);
    from = Arrays.copyOf(from, length);
    linkFrom = Arrays.copyOf(linkFrom, length);
    linkTo = Arrays.copyOf(linkTo, length);
    linkHow = Arrays.copyOf(linkHow, length);
    linkOwner = Arrays.copyOf(linkOwner, length);
    slots = new int[length * 4];
    Arrays.fill(slots, NONE);
    for (int mark = 0; mark < size; mark++) {
      slots[slot(keys[mark])] = mark;
    }
  }
}
