package longthread.core.graph;

import java.util.Arrays;

/**
 * The nodes that a walk reached, nearest first, its origins among them at hop 0.
 *
 * @param nodes ordinals in the order they were reached
 * @param hops the distance of each in links
 * @param truncated whether the walk stopped at its limit with more to come
 */
public record Reach(int[] nodes, int[] hops, boolean truncated) {
  public int size() {
    return nodes.length;
  }

  /** The reached nodes in ascending order, to look one up by binary search. */
  public int[] sorted() {
    int[] sorted = nodes.clone();
    Arrays.sort(sorted);
    return sorted;
  }
}
