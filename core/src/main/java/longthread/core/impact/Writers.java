package longthread.core.impact;

import java.util.HashMap;
import java.util.HashSet;
import java.util.Map;
import java.util.Set;
import longthread.core.graph.Direction;
import longthread.core.graph.LineageGraph;
import longthread.core.lineage.Flow;

/**
 * Who writes what several jobs write. An effect on such a column or dataset is certain only when
 * each of its writers brings it for certain: else what stands there may be another writer's.
 *
 * <p>A writer whose sources there are not known to the column does not count beside one that states
 * them, since a task and the engine it starts often report the same work twice. Neither does one
 * that only writes a dataset from itself.
 */
final class Writers {
  private final LineageGraph graph;
  private final Map<Long, Set<Integer>> missing = new HashMap<>(); // by effect and node

  Writers(LineageGraph graph) {
    this.graph = graph;
  }

  /**
   * Notes that a writer brings an effect to a node for certain, and returns whether all of them do.
   * Takes as long as the node has links, once for each effect and node that others write too.
   */
  boolean allBring(int effect, int node, int owner) {
    if (graph.isWrittenOnlyBy(node, owner)) {
      return true;
    }
    long key = (long) effect << 32 | node;
    Set<Integer> others = missing.get(key);
    if (others == null) {
      others = others(node, owner);
      if (others.isEmpty()) {
        return true; // the common case keeps nothing
      }
      missing.put(key, others);
    }
    others.remove(owner);
    return others.isEmpty();
  }

  private Set<Integer> others(int node, int owner) {
    var search = new Others(node, owner);
    graph.forEachLink(node, Direction.UPSTREAM, search);
    return search.found;
  }

  private final class Others implements LineageGraph.LinkVisitor {
    private final int asset;
    private final int owner;
    private Set<Integer> found = Set.of();

    Others(int node, int owner) {
      this.asset = graph.assetOf(node);
      this.owner = owner;
    }

    @Override
    public void link(int from, Flow flow, boolean masking, int by) {
      if (by != owner
          && flow != Flow.COARSE
          && flow != Flow.READS
          && graph.assetOf(from) != asset) {
        if (found.isEmpty()) {
          found = new HashSet<>();
        }
        found.add(by);
      }
    }
  }
}
