package longthread.core.graph;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.BitSet;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import longthread.core.lineage.Flow;

/**
 * Takes changes of the lineage graph and publishes snapshots. One thread at a time may change it;
 * any number may read {@link #current} meanwhile, and none of them ever waits.
 *
 * <p>A change replaces all links of one owner (a job, or a dataset that declares its own sources),
 * in O(k + p) for k links touched and p nodes patched so far. When more than a fiftieth of the
 * nodes are patched, the arrays are made anew in O(nodes + links).
 */
public final class GraphStore {
  private static final int SMALLEST_MERGE = 512;
  private static final int MERGE_SHARE = 50;

  /** A link between reference texts of assets and paths of columns, {@code *} for rows. */
  public record NamedLink(
      String fromAsset,
      String fromColumn,
      String toAsset,
      String toColumn,
      Flow flow,
      boolean masking) {}

  private final NodeTable nodes;
  private final OwnerTargets targets;
  private volatile LineageGraph current;

  /** A store without any link. */
  public GraphStore() {
    this(new NodeTable(), new OwnerTargets(), Adjacency.empty(), Adjacency.empty(), new BitSet());
  }

  GraphStore(NodeTable nodes, OwnerTargets targets, Adjacency down, Adjacency up, BitSet listed) {
    this.nodes = nodes;
    this.targets = targets;
    this.current = new LineageGraph(nodes, targets, down, up, listed);
  }

  /** The newest snapshot. */
  public LineageGraph current() {
    return current;
  }

  /**
   * A store of its own that begins with the links of this one and lists no columns; neither sees
   * what becomes of the other. It copies the names, in O(n) for n nodes, and shares the links.
   * Nothing may change this store meanwhile.
   */
  public GraphStore fork() {
    return new GraphStore(
        new NodeTable(nodes),
        new OwnerTargets(targets),
        current.down(),
        current.up(),
        new BitSet());
  }

  /** Describes one asset, as {@link #describeAll} does. */
  public void describe(String asset, Collection<String> columns) {
    describeAll(Map.of(asset, columns));
  }

  /**
   * Sets which columns the schemas of assets list. A column that is listed no more is gone unless
   * it has links. Takes O(n) bits for n nodes, and O(c²) time for c columns of an asset.
   */
  public void describeAll(Map<String, ? extends Collection<String>> assets) {
    if (assets.isEmpty()) {
      return;
    }
    var listed = (BitSet) current.listed().clone();
    assets.forEach(
        (asset, columns) -> {
          int ordinal = nodes.internAsset(asset);
          nodes.forEachColumn(ordinal, nodes.nodeCount(), listed::clear);
          columns.forEach(column -> listed.set(nodes.internColumn(ordinal, column)));
        });
    current = new LineageGraph(nodes, targets, current.down(), current.up(), listed);
  }

  /** Replaces all links that {@code owner} states. */
  public void replace(String owner, Collection<NamedLink> links) {
    replaceAll(Map.of(owner, links));
  }

  /** Replaces the links of several owners at once; readers see all of it or nothing. */
  public void replaceAll(Map<String, ? extends Collection<NamedLink>> changes) {
    var removed = new HashSet<Integer>(); // owners
    var added = new ArrayList<GraphLink>();
    var touchedUp = new HashSet<Integer>(); // nodes whose incoming links change
    var touchedDown = new HashSet<Integer>();
    LineageGraph before = current;
    changes.forEach(
        (reference, links) -> {
          int owner = nodes.internOwner(reference);
          removed.add(owner);
          for (int asset : targets.of(owner)) {
            collectOld(before, asset, owner, touchedUp, touchedDown);
          }
          var written = new LinkedHashSet<Integer>();
          // Links between several parts of one asset are one link.
          for (NamedLink link : new LinkedHashSet<>(links)) {
            int fromAsset = nodes.internAsset(link.fromAsset());
            int toAsset = nodes.internAsset(link.toAsset());
            written.add(toAsset);
            added.add(
                new GraphLink(
                    nodes.internColumn(fromAsset, link.fromColumn()),
                    nodes.internColumn(toAsset, link.toColumn()),
                    link.flow(),
                    link.masking(),
                    owner));
          }
          targets.set(owner, written);
        });
    publish(before, removed, added, touchedDown, touchedUp);
  }

  /**
   * Takes in the links of many owners one by one and publishes them all at once, in the place of
   * all links there are: how a graph is filled at the start, in 16 bytes for each link on the way.
   */
  public final class Loading {
    private int[] froms = new int[1024];
    private int[] tos = new int[1024];
    private int[] infos = new int[1024];
    private int count;

    private Loading() {}

    public void add(String reference, NamedLink link) {
      int owner = nodes.internOwner(reference);
      int fromAsset = nodes.internAsset(link.fromAsset());
      int toAsset = nodes.internAsset(link.toAsset());
      if (count == froms.length) {
        froms = Arrays.copyOf(froms, count * 2);
        tos = Arrays.copyOf(tos, count * 2);
        infos = Arrays.copyOf(infos, count * 2);
      }
      froms[count] = nodes.internColumn(fromAsset, link.fromColumn());
      tos[count] = nodes.internColumn(toAsset, link.toColumn());
      infos[count++] = Adjacency.info(link.flow(), link.masking(), owner);
      targets.add(owner, toAsset);
    }

    /** Publishes what was added. Takes O(n + l log d) for n nodes and l links, d at most of one. */
    public void publish() {
      int n = nodes.nodeCount();
      // Links between several parts of one asset are one link.
      int kept = Adjacency.distinct(n, froms, tos, infos, count);
      current =
          new LineageGraph(
              nodes,
              targets,
              Adjacency.of(n, froms, tos, infos, kept),
              Adjacency.of(n, tos, froms, infos, kept),
              current.listed());
    }
  }

  /** Begins to fill an empty graph; nothing else may change it until it is published. */
  public Loading load() {
    return new Loading();
  }

  private static void collectOld(
      LineageGraph graph, int asset, int owner, Set<Integer> touchedUp, Set<Integer> touchedDown) {
    List<Integer> own = new ArrayList<>();
    own.add(graph.rowsOf(asset));
    graph.forEachColumn(asset, own::add);
    for (int node : own) {
      graph.forEachLink(
          node,
          Direction.UPSTREAM,
          (from, flow, masking, by) -> {
            if (by == owner) {
              touchedUp.add(node);
              touchedDown.add(from);
            }
          });
    }
  }

  private void publish(
      LineageGraph before,
      Set<Integer> removed,
      List<GraphLink> added,
      Set<Integer> touchedDown,
      Set<Integer> touchedUp) {
    var addedDown = new HashMap<Integer, List<GraphLink>>();
    var addedUp = new HashMap<Integer, List<GraphLink>>();
    for (GraphLink link : added) {
      addedDown.computeIfAbsent(link.from(), k -> new ArrayList<>()).add(link);
      addedUp.computeIfAbsent(link.to(), k -> new ArrayList<>()).add(link);
    }
    touchedDown.addAll(addedDown.keySet());
    touchedUp.addAll(addedUp.keySet());
    LineageGraph patched =
        before.patched(
            slices(before.down(), touchedDown, removed, addedDown, true),
            slices(before.up(), touchedUp, removed, addedUp, false));
    boolean much = patched.patches() > Math.max(SMALLEST_MERGE, patched.nodeCount() / MERGE_SHARE);
    current = much ? merged(patched) : patched;
  }

  private static Map<Integer, int[]> slices(
      Adjacency old,
      Set<Integer> touched,
      Set<Integer> removed,
      Map<Integer, List<GraphLink>> added,
      boolean down) {
    var slices = new HashMap<Integer, int[]>();
    for (int node : touched) {
      List<GraphLink> more = added.getOrDefault(node, List.of());
      int[] slice = old.slice(node, info -> !removed.contains(Adjacency.owner(info)), more.size());
      int at = slice.length - 2 * more.size();
      for (GraphLink link : more) {
        slice[at++] = down ? link.to() : link.from();
        slice[at++] = Adjacency.info(link.flow(), link.masking(), link.owner());
      }
      slices.put(node, slice);
    }
    return slices;
  }

  /** The same graph with all patches merged into new arrays. */
  private LineageGraph merged(LineageGraph graph) {
    int count = graph.linkCount();
    int[] froms = new int[count];
    int[] tos = new int[count];
    int[] infos = new int[count];
    int[] at = {0};
    for (int n = 0; n < graph.nodeCount(); n++) {
      int node = n;
      graph
          .down()
          .forEach(
              node,
              (end, info) -> {
                froms[at[0]] = node;
                tos[at[0]] = end;
                infos[at[0]++] = info;
              });
    }
    return new LineageGraph(
        nodes,
        targets,
        Adjacency.of(graph.nodeCount(), froms, tos, infos, count),
        Adjacency.of(graph.nodeCount(), tos, froms, infos, count),
        graph.listed());
  }
}
