package longthread.core.graph;

import static longthread.core.graph.Graphs.graph;
import static longthread.core.graph.Graphs.node;
import static org.assertj.core.api.Assertions.assertThat;

import java.util.stream.Collectors;
import org.junit.jupiter.api.Test;

class ThreadAndViewTest {
  private static String thread(LineageGraph graph, String from, String to) {
    return ThreadFinder.find(graph, node(graph, from), node(graph, to))
        .map(found -> found.basis() + ": " + Graphs.asText(graph, found.hops()))
        .orElse("none");
  }

  @Test
  void a_thread_of_values_is_preferred_to_a_shorter_one_that_only_decides() {
    LineageGraph graph =
        graph(
            "a#v IDENTITY b#v",
            "b#v AGGREGATION c#v",
            "a#v CONDITIONAL c#v",
            "a ROWS b",
            "b ROWS c");
    assertThat(thread(graph, "a#v", "c#v")).isEqualTo("VALUES: a#v > b#v > c#v");
  }

  @Test
  void where_no_value_travels_the_deciding_links_explain() {
    LineageGraph graph = graph("a#k JOIN b", "a ROWS b", "b ROWS c", "b#v IDENTITY c#v");
    assertThat(thread(graph, "a#k", "c")).isEqualTo("DECIDES: a#k > b > c");
  }

  @Test
  void between_whole_assets_the_rows_lead_and_against_the_flow_nothing_does() {
    LineageGraph graph = graph("a COARSE b", "b COARSE c");
    assertThat(thread(graph, "a", "c")).isEqualTo("ASSETS: a > b > c");
    assertThat(thread(graph, "c", "a")).isEqualTo("none");
    assertThat(thread(graph, "a", "a")).isEqualTo("ASSETS: ");
  }

  private static GraphView view(LineageGraph graph, String ref, GraphView.Detail detail) {
    int[] nodes = {node(graph, ref)};
    return GraphView.of(
        graph,
        new GraphView.Focus(ref, nodes, new int[0], new int[0]),
        true,
        true,
        9,
        100,
        detail,
        asset -> asset.substring(0, 1));
  }

  private static String asText(GraphView view) {
    String nodes =
        view.nodes().stream().map(n -> n.ref() + "@" + n.hops()).collect(Collectors.joining(" "));
    String links =
        view.links().stream()
            .map(l -> l.from() + ">" + l.to())
            .sorted()
            .collect(Collectors.joining(" "));
    return nodes + " | " + links;
  }

  private final LineageGraph estate =
      graph(
          "a1#x IDENTITY b1#x by @n/load",
          "a1 ROWS b1 by @n/load",
          "b1#x AGGREGATION b2#y by @n/sum",
          "b1#k FILTER b2 by @n/sum",
          "b1 ROWS b2 by @n/sum",
          "b2 HOLDS c1 by c1");

  @Test
  void assets_are_told_with_their_distance_upstream_negative() {
    assertThat(asText(view(estate, "b1", GraphView.Detail.ASSETS)))
        .isEqualTo("b1@0 a1@-1 b2@1 c1@2 | a1>b1 b1>b2 b2>c1");
  }

  @Test
  void steps_put_the_jobs_between_and_what_is_held_stays_direct() {
    assertThat(asText(view(estate, "b1", GraphView.Detail.STEPS)))
        .isEqualTo(
            "b1@0 @n/load@-1 @n/sum@1 a1@-1 b2@1 c1@2 | @n/load>b1 @n/sum>b2 a1>@n/load b1>@n/sum b2>c1");
  }

  @Test
  void columns_follow_values_and_tell_apart_what_decides_the_rows() {
    GraphView view = view(estate, "b2#y", GraphView.Detail.COLUMNS);
    assertThat(asText(view)).isEqualTo("b2#y@0 b1#x@-1 a1#x@-2 | a1#x>b1#x b1#x>b2#y");
    assertThat(view.deciding()).extracting(GraphView.Link::from).containsExactly("b1#k");
  }

  @Test
  void systems_gather_their_assets() {
    assertThat(asText(view(estate, "b1", GraphView.Detail.SYSTEMS)))
        .isEqualTo("system:b@0 system:a@-1 system:c@2 | system:a>system:b system:b>system:c");
  }
}
