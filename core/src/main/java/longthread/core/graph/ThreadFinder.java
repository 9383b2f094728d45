package longthread.core.graph;

import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.BitSet;
import java.util.Collections;
import java.util.HashMap;
import java.util.List;
import java.util.Optional;
import longthread.core.lineage.Flow;

/** Finds the shortest thread between two places of a snapshot: the one that explains the most. */
public final class ThreadFinder {
  /** On what the links of a thread rest, from the strongest to the weakest. */
  public enum Basis {
    /** Every link carries values. */
    VALUES,
    /** Some link only decides which value or which rows there are. */
    DECIDES,
    /** Whole assets only; nothing finer is known between the two. */
    ASSETS
  }

  /** A thread from its source to its target; empty if both are the same place. */
  public record Found(Basis basis, List<GraphLink> hops) {}

  private ThreadFinder() {}

  /**
   * Returns the shortest thread from one node to another on the strongest basis that has one, in
   * O(nodes + links). A rows node stands for its asset as a whole.
   */
  public static Optional<Found> find(LineageGraph graph, int from, int to) {
    boolean wholeAssets = graph.isRows(from) && graph.isRows(to);
    for (Basis basis : Basis.values()) {
      if (wholeAssets && basis != Basis.ASSETS) {
        continue;
      }
      Optional<List<GraphLink>> hops =
          basis == Basis.ASSETS
              ? search(
                  graph,
                  new int[] {graph.rowsOf(graph.assetOf(from))},
                  targets(graph, graph.rowsOf(graph.assetOf(to)), false),
                  basis)
              : search(graph, Walk.originsOf(graph, from), targets(graph, to, true), basis);
      if (hops.isPresent()) {
        return Optional.of(new Found(basis, hops.get()));
      }
    }
    return Optional.empty();
  }

  private static BitSet targets(LineageGraph graph, int to, boolean withColumns) {
    var targets = new BitSet();
    targets.set(to);
    if (withColumns) {
      graph.forEachNested(to, targets::set);
    }
    if (withColumns && graph.isRows(to)) {
      graph.forEachColumn(graph.assetOf(to), targets::set);
    }
    return targets;
  }

  private static Optional<List<GraphLink>> search(
      LineageGraph graph, int[] origins, BitSet targets, Basis basis) {
    var cameBy = new HashMap<Integer, Arrival>();
    var open = new ArrayDeque<Integer>();
    var seen = new BitSet();
    for (int origin : origins) {
      if (targets.get(origin)) {
        return Optional.of(List.of());
      }
      seen.set(origin);
      open.add(origin);
    }
    while (!open.isEmpty()) {
      int node = open.poll();
      var links = new ArrayList<>(graph.links(node, Direction.DOWNSTREAM));
      if (basis != Basis.ASSETS) {
        graph.forEachNested(
            node, nested -> links.addAll(graph.links(nested, Direction.DOWNSTREAM)));
      }
      for (GraphLink link : links) {
        boolean passes =
            switch (basis) {
              case VALUES -> link.flow().carriesValues() && !graph.isRows(link.to());
              case DECIDES -> link.flow() != Flow.READS && link.flow() != Flow.COARSE;
              case ASSETS -> graph.isRows(node) && graph.isRows(link.to());
            };
        if (passes && !seen.get(link.to())) {
          seen.set(link.to());
          cameBy.put(link.to(), new Arrival(node, link));
          if (targets.get(link.to())) {
            return Optional.of(back(cameBy, origins, link.to()));
          }
          open.add(link.to());
        }
      }
    }
    return Optional.empty();
  }

  /** A link into a node, and the node it was found at: a field's link is that of its struct too. */
  private record Arrival(int at, GraphLink link) {}

  private static List<GraphLink> back(HashMap<Integer, Arrival> cameBy, int[] origins, int target) {
    var hops = new ArrayList<GraphLink>();
    var starts = new BitSet();
    Arrays.stream(origins).forEach(starts::set);
    for (int node = target; !starts.get(node); node = cameBy.get(node).at()) {
      hops.add(cameBy.get(node).link());
    }
    Collections.reverse(hops);
    return hops;
  }
}
