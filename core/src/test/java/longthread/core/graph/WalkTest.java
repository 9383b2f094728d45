package longthread.core.graph;

import static longthread.core.graph.Graphs.graph;
import static longthread.core.graph.Graphs.node;
import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import longthread.core.graph.GraphStore.NamedLink;
import longthread.core.lineage.Flow;
import net.jqwik.api.Arbitraries;
import net.jqwik.api.Arbitrary;
import net.jqwik.api.Combinators;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.Provide;
import org.junit.jupiter.api.Test;

class WalkTest {
  private static String values(LineageGraph graph, String from, Direction direction, int hops) {
    return Graphs.asText(
        graph, Walk.values(graph, new int[] {node(graph, from)}, direction, hops, 1_000));
  }

  @Test
  void a_cycle_shows_each_column_once_at_its_smallest_hop() {
    LineageGraph graph = graph("a#x IDENTITY b#x", "b#x IDENTITY a#x");
    assertThat(values(graph, "a#x", Direction.DOWNSTREAM, 9)).isEqualTo("a#x@0 b#x@1");
  }

  @Test
  void what_only_decides_the_rows_is_not_where_a_value_comes_from() {
    LineageGraph graph =
        graph(
            "a#v AGGREGATION b#v",
            "a#k JOIN b",
            "a ROWS b",
            "a ROWS_TO_VALUE b#v",
            "a#c CONDITIONAL b#v");
    assertThat(values(graph, "b#v", Direction.UPSTREAM, 9)).isEqualTo("b#v@0 a#c@1 a#v@1");
  }

  @Test
  void a_value_that_counts_rows_comes_from_the_rows() {
    LineageGraph graph = graph("a ROWS_TO_VALUE b#n", "a ROWS b");
    assertThat(values(graph, "b#n", Direction.UPSTREAM, 9)).isEqualTo("b#n@0 a@1");
  }

  @Test
  void behind_a_coarse_link_every_column_is_reached() {
    LineageGraph graph =
        graph("a#x IDENTITY b#x", "a#y IDENTITY b#y", "b COARSE c", "c#z IDENTITY d#z");
    assertThat(values(graph, "a#x", Direction.DOWNSTREAM, 9))
        .isEqualTo("a#x@0 b#x@1 c@2 c#z@2 d#z@3");
    assertThat(values(graph, "d#z", Direction.UPSTREAM, 9))
        .isEqualTo("d#z@0 c#z@1 b@2 b#x@2 b#y@2 a#x@3 a#y@3");
  }

  @Test
  void hops_and_limit_end_a_walk() {
    LineageGraph graph = graph("a#x IDENTITY b#x", "b#x IDENTITY c#x", "c#x IDENTITY d#x");
    assertThat(values(graph, "a#x", Direction.DOWNSTREAM, 2)).isEqualTo("a#x@0 b#x@1 c#x@2");
    Reach cut = Walk.values(graph, new int[] {node(graph, "a#x")}, Direction.DOWNSTREAM, 9, 2);
    assertThat(cut.truncated()).isTrue();
    assertThat(cut.size()).isEqualTo(2);
  }

  @Test
  void whole_assets_are_followed_along_their_rows() {
    LineageGraph graph = graph("a ROWS b", "b READS c", "c HOLDS d", "a#x JOIN b");
    Reach reach = Walk.assets(graph, new int[] {node(graph, "a")}, Direction.DOWNSTREAM, 9, 100);
    assertThat(Graphs.asText(graph, reach)).isEqualTo("a@0 b@1 c@2 d@3");
  }

  @Property(tries = 300)
  void a_walk_finds_what_a_plain_search_finds(@ForAll("links") List<NamedLink> links) {
    var store = new GraphStore();
    store.replace("@n/j", links);
    LineageGraph graph = store.current();
    for (int asset = 0; asset < graph.assetCount(); asset++) {
      graph.forEachColumn(
          asset,
          node -> {
            Reach reach = Walk.values(graph, new int[] {node}, Direction.DOWNSTREAM, 100, 10_000);
            var found = new TreeMap<String, Integer>();
            for (int i = 0; i < reach.size(); i++) {
              found.put(graph.reference(reach.nodes()[i]), reach.hops()[i]);
            }
            assertThat(found).isEqualTo(plainSearch(links, graph.reference(node)));
          });
    }
  }

  /** A search over the links as given, for graphs without coarse links and counted rows. */
  private static Map<String, Integer> plainSearch(List<NamedLink> links, String from) {
    var hops = new TreeMap<String, Integer>(Map.of(from, 0));
    var open = new ArrayDeque<>(List.of(from));
    while (!open.isEmpty()) {
      String at = open.poll();
      for (NamedLink link : links) {
        String source = link.fromAsset() + "#" + link.fromColumn();
        String target = link.toAsset() + "#" + link.toColumn();
        if (link.flow().shapesValues() && source.equals(at) && !hops.containsKey(target)) {
          hops.put(target, hops.get(at) + 1);
          open.add(target);
        }
      }
    }
    return hops;
  }

  @Property(tries = 100)
  void upstream_is_downstream_of_the_reversed_graph(@ForAll("links") List<NamedLink> links) {
    var reversed =
        links.stream()
            .map(
                l ->
                    new NamedLink(
                        l.toAsset(), l.toColumn(), l.fromAsset(), l.fromColumn(), l.flow(), false))
            .toList();
    var one = new GraphStore();
    one.replace("@n/j", links);
    var other = new GraphStore();
    other.replace("@n/j", reversed);
    for (NamedLink link : links) {
      String ref = link.toAsset() + "#" + link.toColumn();
      assertThat(values(one.current(), ref, Direction.UPSTREAM, 100))
          .isEqualTo(values(other.current(), ref, Direction.DOWNSTREAM, 100));
    }
  }

  @Property(tries = 150)
  void changes_lead_to_the_same_graph_as_starting_with_the_result(
      @ForAll("links") List<NamedLink> first,
      @ForAll("links") List<NamedLink> second,
      @ForAll("links") List<NamedLink> third) {
    var changed = new GraphStore();
    changed.replace("@n/one", first);
    changed.replace("@n/two", second);
    changed.replace("@n/one", third);
    var fresh = new GraphStore();
    fresh.replaceAll(Map.of("@n/one", third, "@n/two", second));
    assertThat(allLinks(changed.current())).isEqualTo(allLinks(fresh.current()));
    assertThat(changed.current().linkCount()).isEqualTo(fresh.current().linkCount());
  }

  private static Set<String> allLinks(LineageGraph graph) {
    var all = new HashMap<String, Integer>();
    for (int node = 0; node < graph.nodeCount(); node++) {
      for (Direction direction : Direction.values()) {
        for (GraphLink link : graph.links(node, direction)) {
          String text =
              direction
                  + graph.reference(link.from())
                  + link.flow()
                  + graph.reference(link.to())
                  + graph.owner(link.owner());
          all.merge(text, 1, Integer::sum);
        }
      }
    }
    var found = new HashSet<String>();
    all.forEach((text, n) -> found.add(text + n));
    return found;
  }

  @Test
  void a_snapshot_does_not_see_later_changes() {
    GraphStore store = Graphs.store("a#x IDENTITY b#x");
    LineageGraph before = store.current();
    store.replace("@n/j", List.of(Graphs.link("a#x IDENTITY c#x")));
    assertThat(values(before, "a#x", Direction.DOWNSTREAM, 9)).isEqualTo("a#x@0 b#x@1");
    assertThat(values(store.current(), "a#x", Direction.DOWNSTREAM, 9)).isEqualTo("a#x@0 c#x@1");
  }

  @Test
  void many_changes_are_worked_into_fresh_arrays_without_loss() {
    var store = new GraphStore();
    for (int job = 0; job < 2_000; job++) {
      store.replace(
          "@n/" + job, List.of(Graphs.link("t" + job + "#x IDENTITY t" + (job + 1) + "#x")));
    }
    LineageGraph graph = store.current();
    assertThat(graph.patches()).isLessThan(1_000);
    Reach reach =
        Walk.values(graph, new int[] {node(graph, "t0#x")}, Direction.DOWNSTREAM, 9_999, 9_999);
    assertThat(reach.size()).isEqualTo(2_001);
  }

  @Provide
  Arbitrary<List<NamedLink>> links() {
    Arbitrary<String> assets = Arbitraries.of("a", "b", "c", "d", "e");
    Arbitrary<String> columns = Arbitraries.of("x", "y", "z");
    Arbitrary<Flow> flows =
        Arbitraries.of(Flow.IDENTITY, Flow.AGGREGATION, Flow.CONDITIONAL, Flow.HOLDS);
    return Combinators.combine(assets, columns, assets, columns, flows)
        .as((a, x, b, y, flow) -> new NamedLink(a, x, b, y, flow, false))
        .list()
        .ofMaxSize(14)
        .map(ArrayList::new);
  }
}
