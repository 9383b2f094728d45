package longthread.core.graph;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import longthread.core.lineage.Flow;

/** Finds assets that are filled by copying another one, column by column. */
public final class LikelyCopies {
  private static final double LEAST_SHARE = 0.8;
  private static final int LEAST_COLUMNS = 2;

  /**
   * An asset that is copied.
   *
   * @param copies the ordinals of those that are, each with how many of its columns it takes
   */
  public record Copied(int source, List<Copy> copies) {}

  /**
   * A copy.
   *
   * @param copied how many of its columns are copied from the source unchanged
   * @param columns how many columns it has whose origin is known
   */
  public record Copy(int asset, int copied, int columns) {}

  private LikelyCopies() {}

  /**
   * Returns what is copied at least twice, and what is copied once within a system, by reference.
   * Takes O(n + l) time for n columns and l links.
   *
   * <p>A copy takes at least {@value #LEAST_SHARE} of its columns, and at least {@value
   * #LEAST_COLUMNS}, by identity flows from one asset. A report that contains a chart is none.
   */
  public static List<Copied> in(LineageGraph graph) {
    var bySource = new TreeMap<Integer, List<Copy>>();
    for (int asset = 0; asset < graph.assetCount(); asset++) {
      Copy[] found = {null};
      int source = sourceOf(graph, asset, found);
      if (source >= 0) {
        bySource.computeIfAbsent(source, k -> new ArrayList<>()).add(found[0]);
      }
    }
    var all = new ArrayList<Copied>();
    bySource.forEach((source, copies) -> all.add(new Copied(source, copies)));
    all.sort(
        Comparator.comparing((Copied copied) -> -copied.copies().size())
            .thenComparing(copied -> graph.assetReference(copied.source())));
    return all;
  }

  private static int sourceOf(LineageGraph graph, int asset, Copy[] copy) {
    Map<Integer, Integer> copiedFrom = new HashMap<>();
    int[] columns = {0};
    graph.forEachColumn(
        asset,
        node -> {
          boolean[] known = {false};
          int[] only = {-1};
          boolean[] changed = {false};
          graph.forEachLink(
              node,
              Direction.UPSTREAM,
              (end, flow, masking, owner) -> {
                if (flow.group() == Flow.Group.HOLDS) {
                  changed[0] = true;
                } else if (flow.shapesValues()) {
                  known[0] = true;
                  int from = graph.assetOf(end);
                  boolean same = flow == Flow.IDENTITY && !masking;
                  changed[0] |= !same || (only[0] >= 0 && only[0] != from);
                  only[0] = from;
                }
              });
          columns[0] += known[0] || changed[0] ? 1 : 0;
          if (known[0] && !changed[0]) {
            copiedFrom.merge(only[0], 1, Integer::sum);
          }
        });
    int best = -1;
    int most = 0;
    for (var entry : copiedFrom.entrySet()) {
      if (entry.getKey() != asset && entry.getValue() > most) {
        best = entry.getKey();
        most = entry.getValue();
      }
    }
    boolean isCopy = most >= LEAST_COLUMNS && most >= LEAST_SHARE * columns[0];
    copy[0] = new Copy(asset, most, columns[0]);
    return isCopy ? best : -1;
  }

  /**
   * The columns that hold the values of a column unchanged: those it is copied to and those it is
   * copied from, over any number of hops, without itself. Takes time linear in what it finds.
   */
  public static List<Integer> ofColumn(LineageGraph graph, int node, int most) {
    var found = new java.util.LinkedHashSet<>(List.of(node));
    var open = new java.util.ArrayDeque<>(found);
    while (!open.isEmpty() && found.size() <= most) {
      int at = open.poll();
      for (Direction direction : Direction.values()) {
        graph.forEachLink(
            at,
            direction,
            (end, flow, masking, owner) -> {
              boolean copied = flow == Flow.IDENTITY || flow == Flow.HOLDS;
              if (copied && !masking && !graph.isRows(end) && found.add(end)) {
                open.add(end);
              }
            });
      }
    }
    found.remove(node);
    return List.copyOf(found);
  }
}
