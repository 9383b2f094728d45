package longthread.core.graph;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.List;
import longthread.core.trust.LineageCoverage;
import longthread.core.trust.LineageCoverage.Depth;
import org.junit.jupiter.api.Test;

class LikelyCopiesTest {
  private static List<String> copies(LineageGraph graph) {
    var texts = new ArrayList<String>();
    for (LikelyCopies.Copied copied : LikelyCopies.in(graph)) {
      for (LikelyCopies.Copy copy : copied.copies()) {
        texts.add(
            graph.assetReference(copied.source())
                + " -> "
                + graph.assetReference(copy.asset())
                + " "
                + copy.copied()
                + "/"
                + copy.columns());
      }
    }
    return texts;
  }

  @Test
  void a_table_filled_column_by_column_from_one_other_is_a_copy() {
    var graph =
        Graphs.graph(
            "n/a#x IDENTITY n/b#x by @n/j",
            "n/a#y IDENTITY n/b#z by @n/j",
            "n/a#x IDENTITY n/c#x by @n/k",
            "n/a#y TRANSFORMATION n/c#y by @n/k",
            "n/a#x IDENTITY n/d#x by @n/l");
    assertThat(copies(graph)).containsExactly("n/a -> n/b 2/2");
  }

  @Test
  void masked_or_mixed_columns_are_no_copies() {
    var graph =
        Graphs.graph(
            "n/a#x IDENTITY! n/b#x by @n/j",
            "n/a#y IDENTITY n/b#y by @n/j",
            "n/e#y IDENTITY n/b#y by @n/j");
    assertThat(copies(graph)).isEmpty();
  }

  @Test
  void the_columns_with_the_same_values_are_found_both_ways() {
    var graph =
        Graphs.graph(
            "n/a#x IDENTITY n/b#x by @n/j",
            "n/b#x IDENTITY n/c#x by @n/j",
            "n/b#x AGGREGATION n/d#x by @n/j");
    var found = new ArrayList<String>();
    for (int node : LikelyCopies.ofColumn(graph, Graphs.node(graph, "n/b#x"), 100)) {
      found.add(graph.reference(node));
    }
    assertThat(found).containsExactlyInAnyOrder("n/a#x", "n/c#x");
  }

  @Test
  void coverage_tells_columns_from_tables_and_tables_from_nothing() {
    var graph = Graphs.graph("n/a#x IDENTITY n/b#x by @n/j", "n/b COARSE n/c by @n/k");
    assertThat(of(graph, "n/a")).isEqualTo(new LineageCoverage(Depth.NONE, true));
    assertThat(of(graph, "n/b")).isEqualTo(new LineageCoverage(Depth.COLUMN, true));
    assertThat(of(graph, "n/c")).isEqualTo(new LineageCoverage(Depth.TABLE, false));
  }

  private static LineageCoverage of(LineageGraph graph, String ref) {
    return LineageCoverage.of(graph, graph.asset(ref).orElseThrow());
  }
}
