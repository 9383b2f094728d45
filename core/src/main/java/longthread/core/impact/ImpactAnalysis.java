package longthread.core.impact;

import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.Collections;
import java.util.Comparator;
import java.util.EnumMap;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import longthread.core.event.Flow;
import longthread.core.graph.Direction;
import longthread.core.graph.GraphLink;
import longthread.core.graph.LineageGraph;
import longthread.core.graph.Reach;
import longthread.core.graph.Walk;
import org.jspecify.annotations.Nullable;

/**
 * Judges changes by following their effects along the links.
 *
 * <ul>
 *   <li>A column that is gone breaks every job that uses it, whatever for, and every view or chart
 *       that is made of it live; all outputs of a broken job go stale.
 *   <li>Shifted values shift the values made from or decided by them, and the rows of outputs that
 *       they join, filter, group or sort. A mask leaves that only possible.
 *   <li>Shifted rows shift the rows of every output they feed and the values made from many rows.
 *   <li>Stale data makes stale whatever is fed by it, and never turns into shifted values or rows.
 *   <li>Over a coarse link everything but staleness is only possible.
 * </ul>
 *
 * <p>An effect that is first found possible and later certain is followed again, so that certainty
 * does not depend on the order of search. Takes O(n + l) steps, each node at most twice per effect.
 */
public final class ImpactAnalysis {
  /** Says what is missing for the columns of a link's target to be known in full. */
  public interface Knowledge {
    /**
     * Returns what is missing before the map of {@code owner} into {@code target} can be called
     * complete, or null if it is.
     */
    @Nullable String missing(String owner, String target);
  }

  /** What travels along the links. */
  private enum Effect {
    GONE,
    GONE_FOR_COPIES,
    BREAKS,
    STALE,
    VALUES,
    ROWS
  }

  private record Mark(Effect effect, int node) {}

  private record Found(boolean certain, int hops, @Nullable Mark from, @Nullable GraphLink by) {}

  private record Broken(boolean certain, int hops, Mark from, GraphLink by) {}

  private final LineageGraph graph;
  private final Map<Mark, Found> found = new LinkedHashMap<>();
  private final Map<Integer, Broken> brokenJobs = new LinkedHashMap<>();
  private final ArrayDeque<Mark> open = new ArrayDeque<>();

  private ImpactAnalysis(LineageGraph graph) {
    this.graph = graph;
  }

  /** Returns what the changes do together. */
  public static Impact of(
      LineageGraph graph, Collection<Change> changes, Knowledge knowledge, int mostHops) {
    var analysis = new ImpactAnalysis(graph);
    changes.forEach(analysis::start);
    analysis.spread(mostHops);
    Set<Integer> origins = new HashSet<>();
    changes.forEach(change -> origins.add(graph.assetOf(change.node())));
    List<Impact.Item> items = analysis.items(origins);
    return new Impact(items, analysis.untouched(origins, items, knowledge));
  }

  private void start(Change change) {
    int node = change.node();
    int rows = graph.rowsOf(graph.assetOf(node));
    switch (change.kind()) {
      case DROP, RENAME -> seed(Effect.GONE, node, true);
      case RETYPE -> {
        // A wider type can only trouble plain copies; a narrower one may cut values off as well.
        seed(change.narrows() ? Effect.GONE : Effect.GONE_FOR_COPIES, node, false);
        if (change.narrows()) {
          seed(Effect.VALUES, node, false);
        }
      }
      case VALUES -> seed(Effect.VALUES, node, true);
      case ROWS -> seed(Effect.ROWS, rows, true);
      case DELAY -> seed(Effect.STALE, rows, true);
    }
  }

  private void seed(Effect effect, int node, boolean certain) {
    mark(effect, node, certain, 0, null, null);
    if (graph.isRows(node) && effect != Effect.ROWS && effect != Effect.STALE) {
      graph.forEachColumn(
          graph.assetOf(node), column -> mark(effect, column, certain, 0, null, null));
    }
  }

  private void mark(
      Effect effect,
      int node,
      boolean certain,
      int hops,
      @Nullable Mark from,
      @Nullable GraphLink by) {
    var mark = new Mark(effect, node);
    Found before = found.get(mark);
    if (before == null || (certain && !before.certain())) {
      int nearest = before == null ? hops : Math.min(hops, before.hops());
      found.put(mark, new Found(certain, nearest, from, by));
      open.add(mark);
    }
  }

  private void spread(int mostHops) {
    while (!open.isEmpty()) {
      Mark mark = open.poll();
      Found at = found.get(mark);
      if (at.hops() >= mostHops) {
        continue;
      }
      for (GraphLink link : graph.links(mark.node(), Direction.DOWNSTREAM)) {
        pass(mark, at, link);
      }
      int rows = graph.rowsOf(graph.assetOf(mark.node()));
      boolean ofColumn = rows != mark.node();
      if (ofColumn && mark.effect() != Effect.STALE && mark.effect() != Effect.BREAKS) {
        for (GraphLink link : graph.links(rows, Direction.DOWNSTREAM)) {
          if (link.flow() == Flow.COARSE) {
            pass(mark, at, link);
          }
        }
      }
    }
  }

  private void pass(Mark mark, Found at, GraphLink link) {
    int hops = at.hops() + 1;
    boolean masked = at.certain() && !link.masking();
    boolean betweenAssets = graph.isRows(link.from()) && graph.isRows(link.to());
    switch (mark.effect()) {
      case GONE -> gone(mark, at, link, hops);
      case GONE_FOR_COPIES -> {
        if (link.flow() == Flow.IDENTITY) {
          gone(mark, at, link, hops);
        }
      }
      case BREAKS -> {
        if (link.flow() == Flow.HOLDS && betweenAssets) {
          mark(Effect.BREAKS, link.to(), at.certain(), hops, mark, link);
        } else if (betweenAssets) {
          mark(Effect.STALE, link.to(), at.certain(), hops, mark, link);
        }
      }
      case STALE -> {
        if (betweenAssets) {
          mark(Effect.STALE, link.to(), at.certain(), hops, mark, link);
        }
      }
      case VALUES -> {
        if (link.flow().shapesValues()) {
          if (!(graph.isRows(link.from()) && link.flow() == Flow.HOLDS)) {
            mark(Effect.VALUES, link.to(), masked, hops, mark, link);
          }
        } else if (link.flow().group() == Flow.Group.DECIDES_ROWS) {
          mark(Effect.ROWS, link.to(), at.certain(), hops, mark, link);
        } else if (link.flow() == Flow.COARSE) {
          coarse(mark, link, hops);
        }
      }
      case ROWS -> {
        switch (link.flow()) {
          case ROWS, HOLDS -> mark(Effect.ROWS, link.to(), at.certain(), hops, mark, link);
          case ROWS_TO_VALUE -> mark(Effect.VALUES, link.to(), masked, hops, mark, link);
          case COARSE -> coarse(mark, link, hops);
          default -> {}
        }
      }
    }
  }

  private void gone(Mark mark, Found at, GraphLink link, int hops) {
    boolean certain = at.certain() && link.flow() != Flow.COARSE;
    int target = graph.rowsOf(graph.assetOf(link.to()));
    if (link.flow() == Flow.HOLDS) {
      if (!graph.isRows(link.from())) {
        mark(Effect.GONE, link.to(), certain, hops, mark, link);
      }
      mark(Effect.BREAKS, target, certain, hops, mark, link);
    } else if (!graph.owner(link.owner()).startsWith("@")) {
      mark(Effect.BREAKS, target, certain, hops, mark, link);
    } else {
      breakJob(mark, link, certain, hops);
    }
  }

  private void breakJob(Mark mark, GraphLink link, boolean certain, int hops) {
    Broken before = brokenJobs.get(link.owner());
    if (before != null && (before.certain() || !certain)) {
      return;
    }
    int nearest = before == null ? hops : Math.min(hops, before.hops());
    brokenJobs.put(link.owner(), new Broken(certain, nearest, mark, link));
    // All outputs of the job have a link from the rows of everything it reads.
    int rows = graph.rowsOf(graph.assetOf(link.from()));
    for (GraphLink output : graph.links(rows, Direction.DOWNSTREAM)) {
      if (output.owner() == link.owner() && graph.isRows(output.to())) {
        boolean same = graph.assetOf(output.to()) == graph.assetOf(link.to());
        mark(Effect.STALE, output.to(), certain, hops, mark, same ? link : output);
      }
    }
  }

  private void coarse(Mark mark, GraphLink link, int hops) {
    mark(Effect.ROWS, link.to(), false, hops, mark, link);
    mark(Effect.VALUES, link.to(), false, hops, mark, link);
    graph.forEachColumn(
        graph.assetOf(link.to()), column -> mark(Effect.VALUES, column, false, hops, mark, link));
  }

  private List<Impact.Item> items(Set<Integer> origins) {
    var byAsset = new LinkedHashMap<Integer, Gathered>();
    found.forEach(
        (mark, at) -> {
          int asset = graph.assetOf(mark.node());
          if (at.from() != null) {
            byAsset.computeIfAbsent(asset, k -> new Gathered()).add(mark, at);
          }
        });
    var items = new ArrayList<Impact.Item>();
    byAsset.forEach(
        (asset, gathered) -> {
          if (!origins.contains(asset) && !gathered.verdicts.isEmpty()) {
            items.add(gathered.item(graph.assetReference(asset)));
          }
        });
    brokenJobs.forEach(
        (owner, broken) ->
            items.add(
                new Impact.Item(
                    graph.owner(owner),
                    Map.of(Verdict.BREAKS, broken.certain()),
                    broken.hops(),
                    thread(broken.from(), broken.by()),
                    Map.of())));
    items.sort(
        Comparator.comparing(Impact.Item::headline)
            .thenComparing(Impact.Item::hops)
            .thenComparing(Impact.Item::ref));
    return items;
  }

  /** What was found at one asset. */
  private final class Gathered {
    private final Map<Verdict, Boolean> verdicts = new EnumMap<>(Verdict.class);
    private final Map<Verdict, Mark> proofs = new EnumMap<>(Verdict.class);
    private final Map<String, Verdict> columns = new TreeMap<>();
    private int hops = Integer.MAX_VALUE;

    void add(Mark mark, Found at) {
      Verdict verdict =
          switch (mark.effect()) {
            case GONE, GONE_FOR_COPIES, BREAKS -> Verdict.BREAKS;
            case STALE -> Verdict.GOES_STALE;
            case VALUES -> Verdict.VALUES_SHIFT;
            case ROWS -> Verdict.ROWS_SHIFT;
          };
      hops = Math.min(hops, at.hops());
      Boolean before = verdicts.get(verdict);
      if (before == null || (at.certain() && !before)) {
        verdicts.put(verdict, at.certain());
        proofs.put(verdict, mark);
      }
      if (!graph.isRows(mark.node())) {
        columns.merge(graph.columnOf(mark.node()), verdict, (a, b) -> a.compareTo(b) <= 0 ? a : b);
      }
    }

    Impact.Item item(String ref) {
      Verdict headline = Collections.min(verdicts.keySet());
      Mark proof = proofs.get(headline);
      Found at = found.get(proof);
      return new Impact.Item(ref, verdicts, hops, thread(at.from(), at.by()), columns);
    }
  }

  private List<GraphLink> thread(@Nullable Mark from, @Nullable GraphLink last) {
    var hops = new ArrayList<GraphLink>();
    if (last != null) {
      hops.add(last);
    }
    Mark mark = from;
    while (mark != null) {
      Found at = found.get(mark);
      if (at.by() != null) {
        hops.add(at.by());
      }
      mark = at.from();
    }
    Collections.reverse(hops);
    return hops;
  }

  private List<Impact.Untouched> untouched(
      Set<Integer> origins, List<Impact.Item> items, Knowledge knowledge) {
    int[] starts = origins.stream().mapToInt(graph::rowsOf).toArray();
    Reach below =
        Walk.assets(graph, starts, Direction.DOWNSTREAM, Integer.MAX_VALUE, Integer.MAX_VALUE);
    Set<String> touched = new HashSet<>();
    items.forEach(item -> touched.add(item.ref()));
    Map<Integer, String> doubts = doubts(below, origins, touched, knowledge);
    var untouched = new ArrayList<Impact.Untouched>();
    for (int i = 0; i < below.size(); i++) {
      int asset = graph.assetOf(below.nodes()[i]);
      String ref = graph.assetReference(asset);
      if (!origins.contains(asset) && !touched.contains(ref)) {
        untouched.add(new Impact.Untouched(ref, below.hops()[i], doubts.get(asset)));
      }
    }
    var readers = new LinkedHashMap<String, @Nullable String>();
    for (int start : starts) {
      for (GraphLink link : graph.links(start, Direction.DOWNSTREAM)) {
        String job = graph.owner(link.owner());
        if (graph.isRows(link.to()) && job.startsWith("@") && !touched.contains(job)) {
          String missing = knowledge.missing(job, graph.assetReference(graph.assetOf(link.to())));
          readers.merge(job, missing == null ? "" : missing, (a, b) -> a.isEmpty() ? b : a);
        }
      }
    }
    readers.forEach(
        (job, missing) ->
            untouched.add(new Impact.Untouched(job, 1, missing.isEmpty() ? null : missing)));
    untouched.sort(
        Comparator.comparing(Impact.Untouched::hops).thenComparing(Impact.Untouched::ref));
    return untouched;
  }

  /**
   * The assets that an incomplete column map may hide the change from: every one below a link out
   * of a touched asset whose map is not known in full.
   */
  private Map<Integer, String> doubts(
      Reach below, Set<Integer> origins, Set<String> touched, Knowledge knowledge) {
    var doubts = new HashMap<Integer, String>();
    for (int node : below.nodes()) {
      int asset = graph.assetOf(node);
      if (!origins.contains(asset) && !touched.contains(graph.assetReference(asset))) {
        continue;
      }
      for (GraphLink link : graph.links(node, Direction.DOWNSTREAM)) {
        if (!graph.isRows(link.to())) {
          continue;
        }
        int target = graph.assetOf(link.to());
        String missing = knowledge.missing(graph.owner(link.owner()), graph.assetReference(target));
        if (missing != null && !doubts.containsKey(target)) {
          Reach hidden =
              Walk.assets(
                  graph,
                  new int[] {link.to()},
                  Direction.DOWNSTREAM,
                  Integer.MAX_VALUE,
                  Integer.MAX_VALUE);
          Arrays.stream(hidden.nodes()).forEach(n -> doubts.putIfAbsent(graph.assetOf(n), missing));
        }
      }
    }
    return doubts;
  }
}
