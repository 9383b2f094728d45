package longthread.core.graph;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.Comparator;
import java.util.EnumSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.function.Function;
import longthread.core.asset.Reference;
import longthread.core.lineage.Flow;
import org.jspecify.annotations.Nullable;

/**
 * The neighbourhood of an asset or a column at one detail level, as named nodes and links.
 *
 * @param nodes nearest first, the focus at hop 0; upstream hops are negative
 * @param deciding the columns that decide which rows stand in the datasets shown; only for columns
 */
public record GraphView(
    List<Node> nodes, List<Link> links, List<Link> deciding, boolean truncated) {
  /** How closely a view looks. */
  public enum Detail {
    SYSTEMS,
    ASSETS,
    STEPS,
    COLUMNS
  }

  /** A node by its reference; for a system {@code system:<name>}. */
  public record Node(String ref, int hops) {}

  /**
   * A link with all the ways it works.
   *
   * @param owner the job that makes it or the dataset that declares it; null at the systems level
   */
  public record Link(
      String from, String to, Set<Flow> flows, boolean masking, @Nullable String owner) {}

  /**
   * What to look at.
   *
   * @param ref the focus itself, which may be a job
   * @param node its node; empty for a job
   * @param sources for a job, the rows nodes it reads
   * @param targets for a job, the rows nodes it writes
   */
  public record Focus(String ref, int @Nullable [] node, int[] sources, int[] targets) {}

  /**
   * Returns the view in the time of the walks and of the links among what they reach.
   *
   * @param upstream whether to look upstream
   * @param downstream whether to look downstream
   * @param mostHops how far, in links between assets or columns
   * @param limit the most assets or columns in each direction
   * @param systemOf names the system of an asset by the asset's reference
   */
  public static GraphView of(
      LineageGraph graph,
      Focus focus,
      boolean upstream,
      boolean downstream,
      int mostHops,
      int limit,
      Detail detail,
      Function<String, String> systemOf) {
    var composer = new Composer(graph, focus, detail);
    if (upstream) {
      composer.walk(Direction.UPSTREAM, mostHops, limit);
    }
    if (downstream) {
      composer.walk(Direction.DOWNSTREAM, mostHops, limit);
    }
    GraphView view = composer.view();
    return detail == Detail.SYSTEMS ? view.bySystem(systemOf) : view;
  }

  private GraphView bySystem(Function<String, String> systemOf) {
    Function<String, String> name = ref -> "system:" + systemOf.apply(ref);
    var hops = new LinkedHashMap<String, Integer>();
    for (Node node : nodes) {
      hops.merge(name.apply(node.ref()), node.hops(), (a, b) -> Math.abs(a) <= Math.abs(b) ? a : b);
    }
    var merged = new LinkedHashMap<String, Link>();
    for (Link link : links) {
      String from = name.apply(link.from());
      String to = name.apply(link.to());
      if (!from.equals(to)) {
        merged.merge(
            from + " " + to,
            new Link(from, to, link.flows(), link.masking(), null),
            GraphView::plus);
      }
    }
    return new GraphView(
        hops.entrySet().stream().map(e -> new Node(e.getKey(), e.getValue())).toList(),
        List.copyOf(merged.values()),
        List.of(),
        truncated);
  }

  private static final class Composer {
    private final LineageGraph graph;
    private final Focus focus;
    private final Detail detail;
    private final Map<Integer, Integer> hopsOf = new LinkedHashMap<>();
    private final Map<String, Integer> jobHops = new LinkedHashMap<>();
    private final Map<String, Link> links = new LinkedHashMap<>();
    private boolean truncated;

    Composer(LineageGraph graph, Focus focus, Detail detail) {
      this.graph = graph;
      this.focus = focus;
      this.detail = detail;
    }

    private boolean byColumns() {
      return detail == Detail.COLUMNS && focus.node() != null;
    }

    void walk(Direction direction, int mostHops, int limit) {
      boolean job = focus.node() == null;
      int[] origins =
          !job ? focus.node() : direction == Direction.UPSTREAM ? focus.sources() : focus.targets();
      if (job) {
        mostHops = Math.max(0, mostHops - 1);
      }
      Reach reach =
          byColumns()
              ? Walk.values(graph, origins, direction, mostHops, limit)
              : Walk.assets(graph, rowsNodes(origins), direction, mostHops, limit);
      truncated |= reach.truncated();
      int sign = direction == Direction.UPSTREAM ? -1 : 1;
      for (int i = 0; i < reach.size(); i++) {
        hopsOf.putIfAbsent(reach.nodes()[i], sign * (reach.hops()[i] + (job ? 1 : 0)));
      }
      int[] within = reach.sorted();
      for (int node : reach.nodes()) {
        addLinks(node, node, direction, within);
        if (byColumns()) {
          graph.forEachNested(node, nested -> addLinks(nested, node, direction, within));
        }
      }
      if (job) {
        for (int origin : origins) {
          String ref = graph.reference(origin);
          if (direction == Direction.UPSTREAM) {
            put(ref, focus.ref(), Flow.ROWS, false, focus.ref());
          } else {
            put(focus.ref(), ref, Flow.ROWS, false, focus.ref());
          }
        }
      }
    }

    /** Adds the links of a node that lead to others within reach; it stands as far as another. */
    private void addLinks(int node, int asFarAs, Direction direction, int[] within) {
      graph.forEachLink(
          node,
          direction,
          (end, flow, masking, owner) -> {
            boolean shown =
                byColumns()
                    ? flow.shapesValues() || flow == Flow.ROWS_TO_VALUE || flow == Flow.COARSE
                    : graph.isRows(end);
            if (shown && Arrays.binarySearch(within, end) >= 0) {
              hopsOf.putIfAbsent(node, hopsOf.get(asFarAs));
              int from = direction == Direction.UPSTREAM ? end : node;
              int to = direction == Direction.UPSTREAM ? node : end;
              add(from, to, flow, masking, graph.owner(owner));
            }
          });
    }

    private int[] rowsNodes(int[] nodes) {
      return Arrays.stream(nodes).map(n -> graph.rowsOf(graph.assetOf(n))).distinct().toArray();
    }

    private void add(int from, int to, Flow flow, boolean masking, String owner) {
      if (from == to && !Reference.isJob(owner)) {
        return; // a dataset that computes fields out of its own
      }
      String source = graph.reference(from);
      String target = graph.reference(to);
      boolean endsAtJob = source.equals(owner) || target.equals(owner);
      if (detail == Detail.STEPS && Reference.isJob(owner) && !endsAtJob) {
        int far =
            Math.abs(hopsOf.get(from)) >= Math.abs(hopsOf.get(to))
                ? hopsOf.get(from)
                : hopsOf.get(to);
        jobHops.merge(owner, far, (a, b) -> Math.abs(a) <= Math.abs(b) ? a : b);
        put(source, owner, flow, masking, owner);
        put(owner, target, flow, masking, owner);
      } else {
        put(source, target, flow, masking, owner);
      }
    }

    private void put(String from, String to, Flow flow, boolean masking, String owner) {
      links.merge(
          from + "\n" + to + "\n" + owner,
          new Link(from, to, EnumSet.of(flow), masking, owner),
          GraphView::plus);
    }

    GraphView view() {
      var hops = new LinkedHashMap<String, Integer>();
      if (focus.node() == null) {
        hops.put(focus.ref(), 0);
      }
      hopsOf.forEach((node, hop) -> hops.putIfAbsent(graph.reference(node), hop));
      jobHops.forEach(hops::putIfAbsent);
      var nodes = new ArrayList<Node>();
      hops.forEach((ref, hop) -> nodes.add(new Node(ref, hop)));
      nodes.sort(Comparator.comparingInt((Node n) -> Math.abs(n.hops())).thenComparing(Node::ref));
      return new GraphView(
          nodes,
          List.copyOf(links.values()),
          byColumns() ? deciding(hopsOf.keySet()) : List.of(),
          truncated);
    }

    /** What decides the rows of the datasets shown. */
    private List<Link> deciding(Collection<Integer> shown) {
      var assets = new LinkedHashSet<Integer>();
      shown.forEach(node -> assets.add(graph.assetOf(node)));
      var found = new LinkedHashMap<String, Link>();
      for (int asset : assets) {
        int rows = graph.rowsOf(asset);
        graph.forEachLink(
            rows,
            Direction.UPSTREAM,
            (from, flow, masking, owner) -> {
              if (flow.group() == Flow.Group.DECIDES_ROWS) {
                String source = graph.reference(from);
                String target = graph.reference(rows);
                found.merge(
                    source + "\n" + target + "\n" + owner,
                    new Link(source, target, EnumSet.of(flow), masking, graph.owner(owner)),
                    GraphView::plus);
              }
            });
      }
      return List.copyOf(found.values());
    }
  }

  private static Set<Flow> union(Set<Flow> a, Set<Flow> b) {
    var all = EnumSet.copyOf(a);
    all.addAll(b);
    return all;
  }

  private static Link plus(Link a, Link b) {
    return new Link(
        a.from(), a.to(), union(a.flows(), b.flows()), a.masking() && b.masking(), a.owner());
  }
}
