package longthread.bench;

import java.util.Arrays;
import java.util.BitSet;

/**
 * A breadth-first search over flat arrays and a bitset, with nothing beside it: what a walk costs
 * at least.
 *
 * @param starts by node, where its ends begin, and one more
 */
record BareSearch(int[] starts, int[] ends) {
  int links() {
    return ends.length;
  }

  /** How many nodes a node reaches, itself too. */
  int reach(int from) {
    var seen = new BitSet(starts.length);
    int[] queue = new int[1024];
    int size = 1;
    queue[0] = from;
    seen.set(from);
    for (int i = 0; i < size; i++) {
      for (int e = starts[queue[i]]; e < starts[queue[i] + 1]; e++) {
        int end = ends[e];
        if (!seen.get(end)) {
          seen.set(end);
          if (size == queue.length) {
            queue = Arrays.copyOf(queue, size * 2);
          }
          queue[size++] = end;
        }
      }
    }
    return size;
  }
}
