package longthread.core.graph;

import java.util.ArrayList;
import java.util.BitSet;
import java.util.List;
import java.util.Map;
import java.util.OptionalInt;
import java.util.function.IntConsumer;
import longthread.core.asset.ColumnName;
import org.jspecify.annotations.Nullable;

/**
 * A lineage graph as it stands at one moment. Immutable and safe for many threads.
 *
 * <p>Ordinals of nodes, assets and owners never change while a {@link GraphStore} lives, so they
 * may be carried from one snapshot to a later one of the same store.
 */
public final class LineageGraph {
  /** Called for each link of a walk: where it leads and how it works. */
  public interface LinkVisitor {
    void link(int node, longthread.core.lineage.Flow flow, boolean masking, int owner);
  }

  private final NodeTable nodes;
  private final OwnerTargets targets;
  private final int nodeCount;
  private final int assetCount;
  private final Adjacency down;
  private final Adjacency up;
  private final BitSet listed; // columns that their asset's schema lists; never changed
  private final @Nullable BitSet shown; // the only assets there are; null for all

  LineageGraph(NodeTable nodes, OwnerTargets targets, Adjacency down, Adjacency up, BitSet listed) {
    this(nodes, targets, down, up, listed, null);
  }

  private LineageGraph(
      NodeTable nodes,
      OwnerTargets targets,
      Adjacency down,
      Adjacency up,
      BitSet listed,
      @Nullable BitSet shown) {
    this.nodes = nodes;
    this.targets = targets;
    this.listed = listed;
    this.shown = shown;
    this.nodeCount = nodes.nodeCount();
    this.assetCount = nodes.assetCount();
    this.down = down;
    this.up = up;
  }

  /** The number of ordinals of nodes; some may belong to columns that are gone. */
  public int nodeCount() {
    return nodeCount;
  }

  /** The number of ordinals of assets. */
  public int assetCount() {
    return assetCount;
  }

  /** The number of jobs and declaring datasets that state links or did. */
  public int ownerCount() {
    return nodes.ownerCount();
  }

  /** The ordinals of the assets there are. */
  public BitSet assets() {
    if (shown != null) {
      return (BitSet) shown.clone();
    }
    var all = new BitSet(assetCount);
    all.set(0, assetCount);
    return all;
  }

  /**
   * The same graph with those assets only that a link leaves or reaches, as if no other had ever
   * been named. O(n) for n nodes.
   */
  public LineageGraph linkedOnly() {
    var linked = new BitSet(assetCount);
    for (int node = 0; node < nodeCount; node++) {
      if (isLinked(node)) {
        linked.set(assetOf(node));
      }
    }
    return new LineageGraph(nodes, targets, down, up, listed, linked);
  }

  public int linkCount() {
    return down.links();
  }

  /** The ordinal of an asset by its reference text. */
  public OptionalInt asset(String reference) {
    OptionalInt asset = nodes.asset(reference);
    return shown == null || asset.isEmpty() || shown.get(asset.getAsInt())
        ? asset
        : OptionalInt.empty();
  }

  public String assetReference(int asset) {
    return nodes.assetReference(asset);
  }

  /** The asset that a node belongs to. */
  public int assetOf(int node) {
    return nodes.assetOf(node);
  }

  /** The path of the node's column, {@code *} for rows. */
  public String columnOf(int node) {
    return nodes.columnOf(node);
  }

  public boolean isRows(int node) {
    return nodes.rowsOf(nodes.assetOf(node)) == node;
  }

  /** The node of an asset's rows, which stands for the asset as a whole too. */
  public int rowsOf(int asset) {
    return nodes.rowsOf(asset);
  }

  /**
   * The node of a column, or of the rows if {@code column} is null or {@code *}; empty for a column
   * that the schema does not list and no link has.
   */
  public OptionalInt node(int asset, @Nullable String column) {
    if (column == null || column.equals(ColumnName.ROWS)) {
      return OptionalInt.of(rowsOf(asset));
    }
    OptionalInt node = nodes.column(asset, column);
    return node.isPresent() && exists(node.getAsInt()) ? node : OptionalInt.empty();
  }

  /** The nodes of an asset's columns, its rows left out. */
  public void forEachColumn(int asset, IntConsumer visit) {
    nodes.forEachColumn(asset, nodeCount, existing(visit));
  }

  /**
   * The columns that a column covers or is covered by: the structs that a field lies in, and the
   * fields that lie in a struct.
   */
  public void forEachNested(int node, IntConsumer visit) {
    if (!isRows(node)) {
      nodes.forEachNested(node, nodeCount, existing(visit));
    }
  }

  private IntConsumer existing(IntConsumer visit) {
    return node -> {
      if (exists(node)) {
        visit.accept(node);
      }
    };
  }

  /** Whether a column is listed by its asset's schema or has a link. */
  private boolean exists(int node) {
    return node < nodeCount && (listed.get(node) || isLinked(node));
  }

  public String reference(int node) {
    return isRows(node)
        ? assetReference(assetOf(node))
        : assetReference(assetOf(node)) + "#" + columnOf(node);
  }

  /** The reference of the job or dataset that states a link. */
  public String owner(int owner) {
    return nodes.owner(owner);
  }

  public OptionalInt ownerOrdinal(String reference) {
    return nodes.ownerOrdinal(reference);
  }

  /**
   * The assets that an owner states links to, as of the newest snapshot: what a job writes, as far
   * as it reads something.
   */
  public int[] targetsOf(int owner) {
    return targets.of(owner);
  }

  public void forEachLink(int node, Direction direction, LinkVisitor visit) {
    (direction == Direction.DOWNSTREAM ? down : up).forEachLink(node, visit);
  }

  /** Whether all links that reach a node are this owner's, as when there are none. */
  public boolean isWrittenOnlyBy(int node, int owner) {
    return up.allOwnedBy(node, owner);
  }

  /** The links that leave ({@code DOWNSTREAM}) or reach ({@code UPSTREAM}) a node. */
  public List<GraphLink> links(int node, Direction direction) {
    var links = new ArrayList<GraphLink>();
    forEachLink(
        node,
        direction,
        (end, flow, masking, owner) ->
            links.add(
                direction == Direction.DOWNSTREAM
                    ? new GraphLink(node, end, flow, masking, owner)
                    : new GraphLink(end, node, flow, masking, owner)));
    return links;
  }

  /** Whether any link leaves or reaches the node. */
  public boolean isLinked(int node) {
    return down.degree(node) + up.degree(node) > 0;
  }

  Adjacency down() {
    return down;
  }

  Adjacency up() {
    return up;
  }

  BitSet listed() {
    return listed;
  }

  NodeTable nodes() {
    return nodes;
  }

  int patches() {
    return Math.max(down.patches(), up.patches());
  }

  LineageGraph patched(Map<Integer, int[]> downSlices, Map<Integer, int[]> upSlices) {
    return new LineageGraph(nodes, targets, down.with(downSlices), up.with(upSlices), listed);
  }
}
