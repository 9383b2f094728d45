package longthread.core.impact;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.stream.Collectors;
import longthread.core.graph.Direction;
import longthread.core.graph.Graphs;
import longthread.core.graph.LineageGraph;
import longthread.core.graph.ThreadFinder;
import longthread.core.graph.Walk;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** A struct covers its fields; across that border nothing is certain. */
class NestedColumnsTest {
  private static final LineageGraph FIELDS =
      Graphs.graph(
          "n/t#* ROWS n/u#* @n/j",
          "n/t#pos.lat IDENTITY n/u#lat @n/j",
          "n/t#pos.lon IDENTITY n/u#lon @n/j",
          "n/t#posx IDENTITY n/u#x @n/j",
          "n/u#* ROWS n/v#* @n/k",
          "n/u#lat TRANSFORMATION n/v#lat @n/k");

  private static final LineageGraph WHOLE =
      Graphs.graph(
          "n/t#* ROWS n/u#* @n/j",
          "n/t#s IDENTITY n/u#s @n/j",
          "n/u#* ROWS n/v#* @n/k",
          "n/u#s.a.b IDENTITY n/v#b @n/k",
          "n/u#s.c IDENTITY n/v#c @n/k",
          "n/t#s.x IDENTITY n/w#x @n/l",
          "n/t#s.y IDENTITY n/w#y @n/l");

  private static String impact(LineageGraph graph, String column, Change.Kind kind) {
    var change = new Change.OfData(Graphs.node(graph, column), kind, null, false);
    Impact impact =
        ImpactAnalysis.of(graph, List.of(change), (owner, target) -> null, Integer.MAX_VALUE);
    return impact.items().stream()
        .map(
            item ->
                item.ref()
                    + " "
                    + item.headline().word()
                    + " "
                    + item.certainty().word()
                    + item.columns().keySet())
        .collect(Collectors.joining(", "));
  }

  @Test
  void dropping_a_struct_may_break_what_reads_its_fields() {
    assertThat(impact(FIELDS, "n/t#pos.lat", Change.Kind.DROP)).startsWith("@n/j breaks certain[]");
    LineageGraph graph = described(FIELDS);
    assertThat(impact(graph, "n/t#pos", Change.Kind.DROP))
        .isEqualTo("@n/j breaks possible[], n/u goes-stale possible[], n/v goes-stale possible[]");
    assertThat(impact(graph, "n/t#pos", Change.Kind.VALUES))
        .isEqualTo("n/u values-shift possible[lat, lon], n/v values-shift possible[lat]");
  }

  /** The same links, and the schema of the source, which lists the struct as a column too. */
  private static LineageGraph described(LineageGraph graph) {
    var store =
        Graphs.store(
            "n/t#* ROWS n/u#* @n/j",
            "n/t#pos.lat IDENTITY n/u#lat @n/j",
            "n/t#pos.lon IDENTITY n/u#lon @n/j",
            "n/t#posx IDENTITY n/u#x @n/j",
            "n/u#* ROWS n/v#* @n/k",
            "n/u#lat TRANSFORMATION n/v#lat @n/k");
    store.describe("n/t", List.of("pos", "pos.lat", "pos.lon", "posx"));
    return store.current();
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      value = {
        // A field of a struct that is copied as a whole; its sibling is not touched.
        "n/t#s.x|n/w values-shift certain[x], n/u values-shift possible[s, s.a.b, s.c],"
            + " n/v values-shift possible[b, c]",
        // The struct itself: its copy is certain, what reads its fields is not.
        "n/t#s|n/u values-shift certain[s, s.a.b, s.c], n/w values-shift possible[x, y],"
            + " n/v values-shift possible[b, c]",
      })
  void values_pass_the_border_of_a_struct_as_possible(String column, String items) {
    assertThat(List.of(impact(WHOLE, column, Change.Kind.VALUES).split(", n/|^n/")))
        .containsExactlyInAnyOrder(items.split(", n/|^n/"));
  }

  @Test
  void a_struct_that_is_written_back_to_itself_ends_the_search() {
    LineageGraph loop =
        Graphs.graph(
            "n/t#* ROWS n/u#* @n/j",
            "n/t#s IDENTITY n/u#s @n/j",
            "n/u#* ROWS n/t#* @n/k",
            "n/u#s IDENTITY n/t#s @n/k",
            "n/t#s.x IDENTITY n/v#x @n/l",
            "n/t#s.y IDENTITY n/v#y @n/l",
            "n/t#* ROWS n/v#* @n/l");
    assertThat(impact(loop, "n/t#s.x", Change.Kind.VALUES))
        .isEqualTo("n/u values-shift possible[s], n/v values-shift certain[x, y]");
  }

  @Test
  void threads_and_walks_pass_the_border_but_not_to_siblings() {
    int from = Graphs.node(WHOLE, "n/t#s.x");
    var thread = ThreadFinder.find(WHOLE, from, Graphs.node(WHOLE, "n/v#b")).orElseThrow();
    assertThat(thread.basis()).isEqualTo(ThreadFinder.Basis.VALUES);
    assertThat(thread.hops().stream().map(hop -> WHOLE.reference(hop.from())))
        .containsExactly("n/t#s", "n/u#s.a.b");
    var below = Walk.values(WHOLE, new int[] {from}, Direction.DOWNSTREAM, 9, 99).nodes();
    assertThat(java.util.Arrays.stream(below).mapToObj(WHOLE::reference))
        .containsExactlyInAnyOrder("n/t#s.x", "n/w#x", "n/u#s", "n/v#b", "n/v#c");
    var above =
        Walk.values(WHOLE, new int[] {Graphs.node(WHOLE, "n/v#b")}, Direction.UPSTREAM, 9, 99)
            .nodes();
    assertThat(java.util.Arrays.stream(above).mapToObj(WHOLE::reference))
        .containsExactly("n/v#b", "n/u#s.a.b", "n/t#s");
  }
}
