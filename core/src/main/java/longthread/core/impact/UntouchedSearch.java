package longthread.core.impact;

import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import longthread.core.asset.Reference;
import longthread.core.graph.Direction;
import longthread.core.graph.LineageGraph;
import longthread.core.graph.Reach;
import longthread.core.graph.Walk;

/**
 * What lies downstream of changes by whole assets and is not reached by them, and the jobs that
 * read a changed asset and go on as before. Takes O(n + l) steps for the n assets and l links
 * downstream.
 */
final class UntouchedSearch {
  private final LineageGraph graph;
  private final ImpactAnalysis.Knowledge knowledge;
  private final Set<Integer> origins;
  private final Set<Integer> outputs;
  private final Set<String> jobs;
  private final Set<String> touched = new HashSet<>();

  /**
   * @param origins the changed assets
   * @param outputs the assets that changed jobs write
   * @param jobs the changed jobs
   */
  UntouchedSearch(
      LineageGraph graph,
      ImpactAnalysis.Knowledge knowledge,
      Set<Integer> origins,
      Set<Integer> outputs,
      Set<String> jobs,
      List<Impact.Item> items) {
    this.graph = graph;
    this.knowledge = knowledge;
    this.origins = origins;
    this.outputs = outputs;
    this.jobs = jobs;
    items.forEach(item -> touched.add(item.ref()));
  }

  List<Impact.Untouched> all() {
    Map<Integer, Integer> below = below();
    Map<Integer, String> doubts = doubts(below);
    var untouched = new ArrayList<Impact.Untouched>();
    below.forEach(
        (asset, hops) -> {
          String ref = graph.assetReference(asset);
          if (!origins.contains(asset) && !touched.contains(ref) && !jobs.contains(ref)) {
            untouched.add(untouched(ref, hops, doubts.getOrDefault(asset, "")));
          }
        });
    readers().forEach((job, missing) -> untouched.add(untouched(job, 1, missing)));
    untouched.sort(
        Comparator.comparing(Impact.Untouched::hops).thenComparing(Impact.Untouched::ref));
    return untouched;
  }

  /** The assets downstream with their hops; what a changed job writes is one hop from it. */
  private Map<Integer, Integer> below() {
    var below = new LinkedHashMap<Integer, Integer>();
    walk(origins, 0, below);
    if (!outputs.isEmpty()) {
      walk(outputs, 1, below);
    }
    return below;
  }

  private void walk(Set<Integer> assets, int hops, Map<Integer, Integer> below) {
    int[] starts = assets.stream().mapToInt(graph::rowsOf).toArray();
    Reach reach =
        Walk.assets(graph, starts, Direction.DOWNSTREAM, Integer.MAX_VALUE, Integer.MAX_VALUE);
    for (int i = 0; i < reach.size(); i++) {
      below.merge(graph.assetOf(reach.nodes()[i]), reach.hops()[i] + hops, Math::min);
    }
  }

  /** The jobs that read a changed asset and are not touched, with what is missing of their maps. */
  private Map<String, String> readers() {
    var readers = new LinkedHashMap<String, String>();
    for (int origin : origins) {
      graph.forEachLink(
          graph.rowsOf(origin),
          Direction.DOWNSTREAM,
          (end, flow, masking, owner) -> {
            String job = graph.owner(owner);
            String target = graph.assetReference(graph.assetOf(end));
            if (graph.isRows(end)
                && Reference.isJob(job)
                && !target.equals(job)
                && !touched.contains(job)
                && !jobs.contains(job)) {
              String missing = knowledge.missing(job, target);
              readers.merge(job, missing == null ? "" : missing, (a, b) -> a.isEmpty() ? b : a);
            }
          });
    }
    return readers;
  }

  private static Impact.Untouched untouched(String ref, int hops, String missing) {
    return missing.isEmpty()
        ? Impact.Untouched.certain(ref, hops)
        : Impact.Untouched.possible(ref, hops, missing);
  }

  /**
   * The assets that an incomplete column map may hide the change from: every one below a link out
   * of a touched asset whose map is not known in full.
   */
  private Map<Integer, String> doubts(Map<Integer, Integer> below) {
    var doubts = new HashMap<Integer, String>();
    var open = new ArrayDeque<Integer>();
    for (int asset : below.keySet()) {
      if (!origins.contains(asset) && !touched.contains(graph.assetReference(asset))) {
        continue;
      }
      graph.forEachLink(
          graph.rowsOf(asset),
          Direction.DOWNSTREAM,
          (end, flow, masking, owner) -> {
            int target = graph.assetOf(end);
            if (!graph.isRows(end) || doubts.containsKey(target)) {
              return;
            }
            String missing = knowledge.missing(graph.owner(owner), graph.assetReference(target));
            if (missing != null) {
              doubts.put(target, missing);
              open.add(end);
              hide(open, doubts);
            }
          });
    }
    return doubts;
  }

  /** Gives all that lies below an asset that is in doubt the same reason; each asset once. */
  private void hide(ArrayDeque<Integer> open, Map<Integer, String> doubts) {
    while (!open.isEmpty()) {
      int node = open.poll();
      String reason = doubts.get(graph.assetOf(node));
      graph.forEachLink(
          node,
          Direction.DOWNSTREAM,
          (end, flow, masking, owner) -> {
            if (graph.isRows(end) && doubts.putIfAbsent(graph.assetOf(end), reason) == null) {
              open.add(end);
            }
          });
    }
  }
}
