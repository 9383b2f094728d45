package longthread.core.label;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.BitSet;
import java.util.Collections;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.IntConsumer;
import longthread.core.graph.Direction;
import longthread.core.graph.GraphLink;
import longthread.core.graph.LineageGraph;
import longthread.core.lineage.Flow;
import org.jspecify.annotations.Nullable;

/**
 * Where one label is: the columns on which it is set, and all that inherit it along column lineage.
 * It is worked out anew from what stands, so that it does not matter in which order labels, links
 * and stops came to be known. Immutable.
 *
 * <p>A column inherits for certain where a way of links leads to it on which every one passes the
 * label ({@link LabelRule}), and perhaps where some link on every way is only known between whole
 * datasets. A label of a whole dataset is one of each of its columns. A struct has the label of its
 * fields, and they have that of their struct; a page has the labels of the charts it holds.
 *
 * <p>Takes O(n + l) for the n columns and l links downstream, and 20 bytes for each column reached.
 */
public final class LabelSpread {
  private static final int NONE = -1;
  private static final int NODE_SHIFT = 32;

  /** How a column has a label. */
  public enum How {
    /** It was set there. */
    SET,
    /** It came along lineage. */
    INHERITED,
    /** It may have come along lineage of which the columns are not known. */
    PERHAPS
  }

  private final LineageGraph graph;
  private final LabelRule rule;
  private final BitSet stopped;
  private final BitSet set = new BitSet();
  private final BitSet certain = new BitSet();
  private final BitSet reached = new BitSet();
  private final BitSet influenced = new BitSet();
  private final BitSet masked = new BitSet();
  // Assets of which all that holds them, and all links between whole datasets, were followed: once
  // is enough, since what is nearest is followed first.
  private final BitSet held = new BitSet();
  private final BitSet guessed = new BitSet();
  private int[] order = new int[64]; // nodes, those that are certain first, nearest first
  private int[] from = new int[64]; // at the same places: the place it came from, NONE where set
  private int count;
  private long[] places = {}; // of the nodes in order, each with its place behind it

  private LabelSpread(LineageGraph graph, LabelRule rule, BitSet stopped) {
    this.graph = graph;
    this.rule = rule;
    this.stopped = stopped;
  }

  /**
   * Works out where a label is.
   *
   * @param at the columns on which it is set; a rows node stands for all columns of its dataset
   * @param stops the columns at which a steward stopped it: it is not inherited there, and does not
   *     go on from there unless it is set there; a rows node stands for all columns of its dataset
   */
  public static LabelSpread of(
      LineageGraph graph, LabelRule rule, Set<Integer> at, Set<Integer> stops) {
    var stopped = new BitSet();
    stops.forEach(node -> forEachColumn(graph, node, stopped::set));
    var spread = new LabelSpread(graph, rule, stopped);
    at.stream().sorted().forEach(node -> forEachColumn(graph, node, spread::start));
    spread.goOn(true);
    int sure = spread.count;
    for (int i = 0; i < sure; i++) {
      spread.perhapsFrom(i);
    }
    spread.goOn(sure);
    // What has the label, or may, is not called masked or influenced as well.
    spread.masked.andNot(spread.reached);
    spread.influenced.andNot(spread.reached);
    spread.influenced.andNot(spread.masked);
    spread.index();
    return spread;
  }

  private static void forEachColumn(LineageGraph graph, int node, IntConsumer visit) {
    visit.accept(node);
    if (graph.isRows(node)) {
      graph.forEachColumn(graph.assetOf(node), visit);
    }
  }

  private void start(int node) {
    if (!set.get(node)) {
      set.set(node);
      arrive(node, NONE, true);
    }
  }

  private void arrive(int node, int before, boolean isCertain) {
    if (reached.get(node) || (stopped.get(node) && !set.get(node))) {
      return;
    }
    reached.set(node);
    if (isCertain) {
      certain.set(node);
    }
    if (count == order.length) {
      order = Arrays.copyOf(order, count * 2);
      from = Arrays.copyOf(from, count * 2);
    }
    order[count] = node;
    from[count++] = before;
  }

  /** Follows what is certain over links that pass the label. */
  private void goOn(boolean isCertain) {
    for (int i = 0; i < count; i++) {
      follow(i, isCertain);
    }
  }

  /** Follows what is only possible, from a place on. */
  private void goOn(int first) {
    for (int i = first; i < count; i++) {
      follow(i, false);
      perhapsFrom(i);
    }
  }

  private void follow(int place, boolean isCertain) {
    int node = order[place];
    int asset = graph.assetOf(node);
    int rows = graph.rowsOf(asset);
    if (!held.get(asset)) {
      held.set(asset);
      // What holds a chart shows all of it.
      graph.forEachLink(
          rows,
          Direction.DOWNSTREAM,
          (end, flow, masking, owner) -> {
            if (flow == Flow.HOLDS) {
              arrive(end, place, isCertain);
            }
          });
    }
    if (node == rows) {
      return; // else the label of a dataset goes on from its columns
    }
    graph.forEachNested(node, other -> arrive(other, place, isCertain));
    graph.forEachLink(
        node,
        Direction.DOWNSTREAM,
        (end, flow, masking, owner) -> {
          switch (rule.at(flow, masking)) {
            case GOES_ON -> arrive(end, place, isCertain);
            case MASKED -> masked.set(end);
            case INFLUENCES -> influenced.set(end);
            case PERHAPS, ENDS -> {}
          }
        });
  }

  /** Follows links between whole datasets: any column behind them may have the label. */
  private void perhapsFrom(int place) {
    int asset = graph.assetOf(order[place]);
    if (guessed.get(asset)) {
      return;
    }
    guessed.set(asset);
    graph.forEachLink(
        graph.rowsOf(asset),
        Direction.DOWNSTREAM,
        (end, flow, masking, owner) -> {
          if (rule.at(flow, masking) == LabelRule.Passage.PERHAPS) {
            forEachColumn(graph, graph.rowsOf(graph.assetOf(end)), to -> arrive(to, place, false));
          }
        });
  }

  /** How a column has the label; null if it has not. */
  public @Nullable How at(int node) {
    if (!reached.get(node)) {
      return null;
    }
    return set.get(node) ? How.SET : certain.get(node) ? How.INHERITED : How.PERHAPS;
  }

  /** Whether a mask keeps the label from a column that is made of labelled values. */
  public boolean isMaskedAt(int node) {
    return masked.get(node);
  }

  /** Whether labelled columns only decide what stands at a node: by a join or filter, a count. */
  public boolean isInfluenced(int node) {
    return influenced.get(node);
  }

  /** The nodes that have the label, the certain ones first and the nearest first. */
  public int[] nodes() {
    return Arrays.copyOf(order, count);
  }

  /** How many columns have it, by how they do. */
  public int count(How how) {
    int found = 0;
    for (int i = 0; i < count; i++) {
      found += !graph.isRows(order[i]) && at(order[i]) == how ? 1 : 0;
    }
    return found;
  }

  /** The node on which the label was set that a node has it from; itself where it was set. */
  public int originOf(int node) {
    int place = place(node);
    while (from[place] != NONE) {
      place = from[place];
    }
    return order[place];
  }

  /** By how many hops a label came to a node; 0 where it was set. */
  public int hops(int node) {
    int hops = 0;
    for (int place = place(node); from[place] != NONE; place = from[place]) {
      hops++;
    }
    return hops;
  }

  /**
   * The shortest way by which a label came to a node, from where it was set; empty where it was.
   * Between a struct and its fields there is no link. O(hops · log columns reached).
   */
  public List<GraphLink> thread(int node) {
    var hops = new ArrayList<GraphLink>();
    for (int place = place(node); from[place] != NONE; place = from[place]) {
      link(order[from[place]], order[place]).ifPresent(hops::add);
    }
    Collections.reverse(hops);
    return hops;
  }

  private void index() {
    places = new long[count];
    for (int i = 0; i < count; i++) {
      places[i] = (long) order[i] << NODE_SHIFT | i;
    }
    Arrays.sort(places);
  }

  private int place(int node) {
    int at = -1 - Arrays.binarySearch(places, (long) node << NODE_SHIFT | -1L >>> NODE_SHIFT);
    if (!reached.get(node)) {
      throw new IllegalArgumentException("node " + node + " has no such label");
    }
    return (int) places[at - 1];
  }

  /** The link that passed the label from one node to another, of whole datasets if need be. */
  private Optional<GraphLink> link(int start, int end) {
    var found = new GraphLink[1];
    graph.forEachLink(
        start,
        Direction.DOWNSTREAM,
        (to, flow, masking, owner) -> {
          boolean passes = rule.at(flow, masking) == LabelRule.Passage.GOES_ON;
          if (found[0] == null && to == end && passes) {
            found[0] = new GraphLink(start, to, flow, masking, owner);
          }
        });
    if (found[0] != null) {
      return Optional.of(found[0]);
    }
    int rows = graph.rowsOf(graph.assetOf(start));
    int target = graph.assetOf(end);
    graph.forEachLink(
        rows,
        Direction.DOWNSTREAM,
        (to, flow, masking, owner) -> {
          boolean perhaps = rule.at(flow, masking) == LabelRule.Passage.PERHAPS;
          boolean holds = flow == Flow.HOLDS && to == end;
          if (found[0] == null && (holds || (graph.assetOf(to) == target && perhaps))) {
            found[0] = new GraphLink(rows, to, flow, masking, owner);
          }
        });
    return Optional.ofNullable(found[0]);
  }
}
