package longthread.core.trust;

import longthread.core.graph.Direction;
import longthread.core.graph.LineageGraph;
import longthread.core.lineage.Flow;

/** How much is known of where one asset comes from, and whether anything is known to read it. */
public record LineageCoverage(Depth upstream, boolean isRead) {
  /** How closely it is known where an asset comes from; a later word is a closer look. */
  public enum Depth {
    NONE,
    TABLE,
    COLUMN;

    /** The word in the interface. */
    public String word() {
      return name().toLowerCase(java.util.Locale.ROOT);
    }
  }

  /** The lineage of an asset; linear in its columns and links. */
  public static LineageCoverage of(LineageGraph graph, int asset) {
    int rows = graph.rowsOf(asset);
    boolean[] table = {false};
    boolean[] column = {false};
    boolean[] read = {false};
    look(graph, rows, table, column, read);
    graph.forEachColumn(asset, node -> look(graph, node, table, column, read));
    return new LineageCoverage(
        column[0] ? Depth.COLUMN : table[0] ? Depth.TABLE : Depth.NONE, read[0]);
  }

  private static void look(
      LineageGraph graph, int node, boolean[] table, boolean[] column, boolean[] read) {
    graph.forEachLink(
        node,
        Direction.UPSTREAM,
        (end, flow, masking, owner) -> {
          table[0] = true;
          column[0] |= !graph.isRows(node) && flow.group() != Flow.Group.COARSE;
        });
    graph.forEachLink(node, Direction.DOWNSTREAM, (end, flow, masking, owner) -> read[0] = true);
  }
}
