package longthread.core.graph;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.BitSet;
import java.util.Collections;
import java.util.List;
import java.util.Optional;
import longthread.core.lineage.Flow;
import org.jspecify.annotations.Nullable;

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
    return find(graph, from, to, null);
  }

  /**
   * The same, where it is known which assets have {@code to} downstream: a thread runs through
   * nothing else, and the search looks no further.
   *
   * @param within by asset; null if it is not known
   */
  public static Optional<Found> find(
      LineageGraph graph, int from, int to, @Nullable BitSet within) {
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
                  basis,
                  within)
              : search(graph, Walk.originsOf(graph, from), targets(graph, to, true), basis, within);
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
      LineageGraph graph, int[] origins, BitSet targets, Basis basis, @Nullable BitSet within) {
    var search = new Search(graph, targets, basis, within);
    for (int origin : origins) {
      if (targets.get(origin)) {
        return Optional.of(List.of());
      }
      search.arrive(origin, Search.ORIGIN, origin);
    }
    return search.run();
  }

  /** A search in rounds; the places it reached are numbered in the order it came to them. */
  private static final class Search implements LineageGraph.LinkVisitor {
    private static final int ORIGIN = -1;

    private final LineageGraph graph;
    private final BitSet targets;
    private final Basis basis;
    private final @Nullable BitSet within;
    private final BitSet seen;
    private int[] nodes = new int[256]; // by number
    private int[] before = new int[256]; // by number, that of the place it was reached from
    private int[] source = new int[256]; // by number, where the link came from: it or a field of it
    private int count;
    private int at; // the number of the place whose links are looked at
    private int from; // the node whose links are looked at: the place itself or one within it
    private int found = ORIGIN;

    Search(LineageGraph graph, BitSet targets, Basis basis, @Nullable BitSet within) {
      this.graph = graph;
      this.within = within;
      this.targets = targets;
      this.basis = basis;
      this.seen = new BitSet(graph.nodeCount());
    }

    void arrive(int node, int reachedFrom, int by) {
      if (seen.get(node)) {
        return;
      }
      seen.set(node);
      if (count == nodes.length) {
        nodes = Arrays.copyOf(nodes, count * 2);
        before = Arrays.copyOf(before, count * 2);
        source = Arrays.copyOf(source, count * 2);
      }
      nodes[count] = node;
      before[count] = reachedFrom;
      source[count++] = by;
    }

    Optional<List<GraphLink>> run() {
      for (at = 0; at < count && found == ORIGIN; at++) {
        from = nodes[at];
        graph.forEachLink(from, Direction.DOWNSTREAM, this);
        if (basis != Basis.ASSETS && found == ORIGIN) {
          graph.forEachNested(
              nodes[at],
              nested -> {
                from = nested;
                graph.forEachLink(nested, Direction.DOWNSTREAM, this);
              });
        }
      }
      return found == ORIGIN ? Optional.empty() : Optional.of(back());
    }

    @Override
    public void link(int node, Flow flow, boolean masking, int owner) {
      boolean passes =
          found == ORIGIN
              && switch (basis) {
                case VALUES -> flow.carriesValues() && !graph.isRows(node);
                case DECIDES -> flow != Flow.READS && flow != Flow.COARSE;
                case ASSETS -> graph.isRows(from) && graph.isRows(node);
              };
      boolean leadsThere = within == null || within.get(graph.assetOf(node));
      if (passes && leadsThere && !seen.get(node)) {
        arrive(node, at, from);
        if (targets.get(node)) {
          found = count - 1;
        }
      }
    }

    private List<GraphLink> back() {
      var hops = new ArrayList<GraphLink>();
      for (int place = found; before[place] != ORIGIN; place = before[place]) {
        hops.add(link(source[place], nodes[place]));
      }
      Collections.reverse(hops);
      return hops;
    }

    /** The first link between two nodes that this search goes by. */
    private GraphLink link(int start, int end) {
      for (GraphLink link : graph.links(start, Direction.DOWNSTREAM)) {
        boolean carries =
            switch (basis) {
              case VALUES -> link.flow().carriesValues();
              case DECIDES -> link.flow() != Flow.READS && link.flow() != Flow.COARSE;
              case ASSETS -> true;
            };
        if (link.to() == end && carries) {
          return link;
        }
      }
      throw new IllegalStateException("a thread lost a link of its graph");
    }
  }
}
