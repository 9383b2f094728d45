package longthread.core.label;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.IntFunction;
import longthread.core.graph.GraphLink;
import longthread.core.graph.LineageGraph;
import longthread.core.lineage.Flow;
import org.jspecify.annotations.Nullable;

/**
 * Finds where a label reaches assets that may not hold it. An asset may not hold it if a policy
 * forbids it there and none allows it: what allows wins, so that an exception needs no change of
 * the rule it is an exception from.
 */
public final class LeakSearch {
  /**
   * A label where it may not be.
   *
   * @param asset its number in the graph
   * @param columns the labelled nodes there, the nearest to where the label was set first
   * @param isCertain whether it is there for certain; else by lineage of which no columns are known
   * @param forbiddenBy the policy that forbids it
   * @param hops by how many hops the label came to the first of the columns
   */
  public record Leak(
      int asset, List<Integer> columns, boolean isCertain, LabelPolicy forbiddenBy, int hops) {
    public Leak {
      columns = List.copyOf(columns);
    }
  }

  /**
   * How a label came to where it may not be.
   *
   * @param thread the way to the first of the columns; empty where the label was set there
   * @param unmaskedAt which hop of the thread is the first that leads out of the places that a
   *     policy allows: there a mask would have ended it. Absent for a thread without hops
   */
  public record Way(List<GraphLink> thread, @Nullable Integer unmaskedAt) {
    public Way {
      thread = List.copyOf(thread);
    }
  }

  private final LineageGraph graph;
  private final List<LabelPolicy> policies;
  private final IntFunction<Holder> holderOf;
  private final Map<Integer, Holder> holders = new HashMap<>();

  private LeakSearch(LineageGraph graph, List<LabelPolicy> policies, IntFunction<Holder> holderOf) {
    this.graph = graph;
    this.policies = policies;
    this.holderOf = holderOf;
  }

  /**
   * Returns the leaks of one label, those for certain first, then by the length of their threads.
   *
   * <p>Takes O(n + a · p) for the n labelled nodes, the a assets that they are in and p policies.
   *
   * @param policies those of this label
   * @param holderOf what policies ask of an asset, by its number; asked once for each
   */
  public static List<Leak> of(
      LineageGraph graph,
      LabelSpread spread,
      List<LabelPolicy> policies,
      IntFunction<Holder> holderOf) {
    if (policies.stream().allMatch(LabelPolicy::allows)) {
      return List.of();
    }
    return new LeakSearch(graph, policies, holderOf).find(spread);
  }

  private List<Leak> find(LabelSpread spread) {
    var byAsset = new LinkedHashMap<Integer, List<Integer>>();
    for (int node : spread.nodes()) {
      byAsset.computeIfAbsent(graph.assetOf(node), k -> new ArrayList<>()).add(node);
    }
    var leaks = new ArrayList<Leak>();
    byAsset.forEach(
        (asset, nodes) ->
            forbidding(asset).ifPresent(by -> leaks.add(leak(asset, nodes, by, spread))));
    leaks.sort(
        Comparator.comparing((Leak leak) -> !leak.isCertain())
            .thenComparing(Leak::hops)
            .thenComparing(leak -> graph.assetReference(leak.asset())));
    return leaks;
  }

  /** The policy by which an asset may not hold the label; empty if it may. */
  private Optional<LabelPolicy> forbidding(int asset) {
    Holder holder = holder(asset);
    if (isAllowed(holder)) {
      return Optional.empty();
    }
    return policies.stream().filter(p -> !p.allows() && p.speaksOf(holder)).findFirst();
  }

  private boolean isAllowed(Holder holder) {
    return policies.stream().anyMatch(p -> p.allows() && p.speaksOf(holder));
  }

  private Holder holder(int asset) {
    return holders.computeIfAbsent(asset, holderOf::apply);
  }

  private Leak leak(int asset, List<Integer> nodes, LabelPolicy by, LabelSpread spread) {
    // A page as a whole has the label because a column or chart of it has: that one says more.
    var columns = new ArrayList<>(nodes);
    if (columns.size() > 1) {
      columns.removeIf(graph::isRows);
    }
    boolean isCertain = columns.stream().anyMatch(n -> spread.at(n) != LabelSpread.How.PERHAPS);
    return new Leak(asset, columns, isCertain, by, spread.hops(columns.get(0)));
  }

  /**
   * The way of a label to a leak. Takes as long as looking at all links of what lies on it.
   *
   * @param policies those of the label
   * @param holderOf what policies ask of an asset, by its number
   */
  public static Way way(
      LineageGraph graph,
      LabelSpread spread,
      List<LabelPolicy> policies,
      IntFunction<Holder> holderOf,
      Leak leak) {
    List<GraphLink> thread = spread.thread(leak.columns().get(0));
    return new Way(thread, new LeakSearch(graph, policies, holderOf).unmasked(thread));
  }

  private @Nullable Integer unmasked(List<GraphLink> thread) {
    for (int i = 0; i < thread.size(); i++) {
      GraphLink hop = thread.get(i);
      // A page that holds a chart copies nothing: there is nothing that a mask could be put on.
      if (hop.flow() != Flow.HOLDS && !isAllowed(holder(graph.assetOf(hop.to())))) {
        return i;
      }
    }
    return thread.isEmpty() ? null : thread.size() - 1;
  }
}
