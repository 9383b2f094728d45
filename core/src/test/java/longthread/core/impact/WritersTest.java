package longthread.core.impact;

import static longthread.core.graph.Graphs.graph;
import static longthread.core.graph.Graphs.node;
import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collections;
import java.util.List;
import java.util.Random;
import java.util.stream.Collectors;
import longthread.core.asset.Reference;
import longthread.core.graph.LineageGraph;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** Columns and datasets that several jobs write, and changes of jobs themselves. */
class WritersTest {
  private static final String[] TWO = {
    "a#x IDENTITY t#x by @n/one",
    "a ROWS t by @n/one",
    "b#y IDENTITY t#x by @n/two",
    "b ROWS t by @n/two",
    "t#x IDENTITY r#x by r",
    "t ROWS r by r"
  };

  private static String judged(LineageGraph graph, Change... changes) {
    return asText(
        ImpactAnalysis.of(graph, List.of(changes), (owner, target) -> null, Integer.MAX_VALUE));
  }

  private static String asText(Impact impact) {
    String items =
        impact.items().stream()
            .map(
                item ->
                    item.ref()
                        + " "
                        + item.headline().word()
                        + (item.certainty() == Certainty.CERTAIN ? "" : "?"))
            .collect(Collectors.joining(", "));
    String untouched =
        impact.untouched().stream()
            .filter(item -> !Reference.isJob(item.ref()))
            .map(item -> item.ref() + "@" + item.hops())
            .collect(Collectors.joining(" "));
    return items + (untouched.isEmpty() ? "" : " / " + untouched);
  }

  private static Change data(LineageGraph graph, String ref, Change.Kind kind) {
    return new Change.OfData(node(graph, ref), kind, null, true);
  }

  private static Change job(LineageGraph graph, String job, Change.Kind kind, String... outputs) {
    return new Change.OfJob(
        graph.ownerOrdinal(job).orElse(-1),
        Arrays.stream(outputs).map(output -> node(graph, output)).toList(),
        kind);
  }

  private static String[] with(String[] lines, String... more) {
    var all = new ArrayList<>(List.of(lines));
    all.addAll(List.of(more));
    return all.toArray(String[]::new);
  }

  @Test
  void a_job_that_reads_nothing_is_one_of_two_writers_all_the_same() {
    LineageGraph graph = graph("b#y IDENTITY t#x by @n/two", "b ROWS t by @n/two");
    assertThat(judged(graph, job(graph, "@n/one", Change.Kind.DELAY, "t")))
        .isEqualTo("t goes-stale?");
  }

  @Test
  void one_of_two_writers_leaves_it_possible_and_both_make_it_certain() {
    LineageGraph graph = graph(TWO);
    assertThat(judged(graph, data(graph, "a#x", Change.Kind.VALUES)))
        .isEqualTo("t values-shift?, r values-shift?");
    assertThat(
            judged(
                graph,
                data(graph, "a#x", Change.Kind.VALUES),
                data(graph, "b#y", Change.Kind.VALUES)))
        .isEqualTo("t values-shift, r values-shift");
    assertThat(judged(graph, data(graph, "a", Change.Kind.ROWS)))
        .isEqualTo("t rows-shift?, r rows-shift?");
    assertThat(judged(graph, data(graph, "a#x", Change.Kind.DROP)))
        .isEqualTo("@n/one breaks, t goes-stale?, r goes-stale?");
  }

  @Test
  void two_writers_that_one_change_reaches_make_it_certain() {
    LineageGraph graph = graph(with(TWO, "s#x IDENTITY a#x by @n/1", "s#x IDENTITY b#y by @n/2"));
    assertThat(judged(graph, data(graph, "s#x", Change.Kind.VALUES)))
        .isEqualTo("a values-shift, b values-shift, t values-shift, r values-shift");
  }

  @Test
  void writers_of_other_columns_do_not_count_for_values() {
    LineageGraph graph =
        graph("a#x IDENTITY t#x by @n/one", "a ROWS t by @n/one", "b#y IDENTITY t#y by @n/two");
    assertThat(judged(graph, data(graph, "a#x", Change.Kind.VALUES))).isEqualTo("t values-shift");
  }

  @Test
  void a_job_that_writes_a_table_from_itself_does_not_count() {
    LineageGraph graph =
        graph(
            "a#x IDENTITY t#x by @n/load",
            "a ROWS t by @n/load",
            "t#x TRANSFORMATION t#x by @n/clean",
            "t ROWS t by @n/clean");
    assertThat(judged(graph, data(graph, "a#x", Change.Kind.VALUES))).isEqualTo("t values-shift");
  }

  @Test
  void a_task_and_the_engine_it_starts_are_not_two_writers() {
    LineageGraph graph =
        graph("a#x IDENTITY t#x by @n/engine", "a ROWS t by @n/engine", "a COARSE t by @n/task");
    Impact rows =
        ImpactAnalysis.of(
            graph,
            List.of(data(graph, "a", Change.Kind.ROWS)),
            (owner, target) -> null,
            Integer.MAX_VALUE);
    assertThat(rows.items().get(0).verdicts()).containsEntry(Verdict.ROWS_SHIFT, Certainty.CERTAIN);
    assertThat(judged(graph, data(graph, "a#x", Change.Kind.DROP)))
        .isEqualTo("@n/engine breaks, @n/task breaks?, t goes-stale");
  }

  @Test
  void a_job_leaves_stale_what_it_wrote_alone() {
    LineageGraph graph =
        graph(with(TWO, "a#x IDENTITY u#x by @n/one", "a ROWS u by @n/one", "u#x JOIN v by v"));
    for (var kind : List.of(Change.Kind.DROP, Change.Kind.DELAY)) {
      assertThat(judged(graph, job(graph, "@n/one", kind, "t", "u")))
          .isEqualTo("t goes-stale?, u goes-stale, r goes-stale?");
    }
    Impact impact =
        ImpactAnalysis.of(
            graph,
            List.of(job(graph, "@n/one", Change.Kind.DROP, "t", "u")),
            (owner, target) -> null,
            Integer.MAX_VALUE);
    assertThat(impact.items()).allMatch(item -> item.firstFailure() == null);
    assertThat(impact.items().get(1).thread())
        .extracting(link -> graph.owner(link.owner()))
        .containsExactly("@n/one");
  }

  @Test
  void a_job_that_computes_otherwise_shifts_what_it_writes() {
    LineageGraph graph =
        graph(
            "a#x AGGREGATION t#sum by @n/sum",
            "a#g IDENTITY t#g by @n/sum",
            "a ROWS t by @n/sum",
            "t#sum IDENTITY r#sum by r",
            "t ROWS r by r",
            "t#g JOIN w by @n/join",
            "t ROWS w by @n/join");
    assertThat(judged(graph, job(graph, "@n/sum", Change.Kind.VALUES, "t")))
        .isEqualTo("t values-shift, r values-shift, w rows-shift");
    assertThat(judged(graph, job(graph, "@n/sum", Change.Kind.ROWS, "t")))
        .isEqualTo("t values-shift, r values-shift, w rows-shift");
    assertThat(judged(graph, job(graph, "@n/sum", Change.Kind.RENAME, "t")))
        .isEqualTo(" / t@1 r@2 w@2");
  }

  @Test
  void a_job_that_says_nothing_of_columns_may_shift_any() {
    LineageGraph graph = graph("a COARSE t by @n/load", "t#x IDENTITY r#x by r", "t ROWS r by r");
    assertThat(judged(graph, job(graph, "@n/load", Change.Kind.VALUES, "t")))
        .isEqualTo("t values-shift?, r values-shift?");
    assertThat(judged(graph, job(graph, "@n/load", Change.Kind.ROWS, "t")))
        .isEqualTo("t rows-shift?, r rows-shift?");
    assertThat(judged(graph, job(graph, "@n/load", Change.Kind.DELAY, "t")))
        .isEqualTo("t goes-stale, r goes-stale");
  }

  @Test
  void every_item_says_what_fails_first() {
    LineageGraph graph =
        graph(
            "v#x IDENTITY w#x by w", // a view on a view
            "v ROWS w by w",
            "w#x IDENTITY t#x by @n/load",
            "w ROWS t by @n/load",
            "t#x IDENTITY u#x by @n/next",
            "t ROWS u by @n/next",
            "v#x HOLDS d#x by d",
            "v HOLDS d by d");
    Impact impact =
        ImpactAnalysis.of(
            graph,
            List.of(data(graph, "v#x", Change.Kind.DROP)),
            (owner, target) -> null,
            Integer.MAX_VALUE);
    assertThat(impact.items())
        .extracting(item -> item.ref() + " " + item.headline().word() + " " + item.firstFailure())
        .containsExactly("d breaks d", "w breaks w", "t goes-stale w", "u goes-stale w");
    Impact loading =
        ImpactAnalysis.of(
            graph,
            List.of(data(graph, "t#x", Change.Kind.DROP)),
            (owner, target) -> null,
            Integer.MAX_VALUE);
    assertThat(loading.items())
        .extracting(item -> item.ref() + " " + item.firstFailure())
        .containsExactly("@n/next @n/next", "u @n/next");
  }

  /** Whatever the order in which links are stored and found, the verdicts are the same. */
  @ParameterizedTest
  @ValueSource(ints = {1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12})
  void the_order_of_links_decides_nothing(int seed) {
    var random = new Random(seed);
    var lines = new ArrayList<String>();
    String[] flows = {"IDENTITY", "AGGREGATION", "JOIN", "CONDITIONAL", "TRANSFORMATION!"};
    for (int i = 0; i < 40; i++) {
      int from = random.nextInt(10);
      int to = random.nextInt(10); // circles too
      String flow = flows[random.nextInt(flows.length)];
      String job = " by @n/" + random.nextInt(12);
      String target = "t" + to + (flow.equals("JOIN") ? "" : "#c" + random.nextInt(2));
      lines.add("t" + from + "#c" + random.nextInt(2) + " " + flow + " " + target + job);
      lines.add("t" + from + (random.nextInt(8) == 0 ? " COARSE t" : " ROWS t") + to + job);
    }
    lines.add("s#c IDENTITY t0#c0 by @n/in");
    lines.add("s ROWS t0 by @n/in");
    for (Change.Kind kind : Change.Kind.values()) {
      String expected = null;
      for (int order = 0; order < 6; order++) {
        Collections.shuffle(lines, random);
        LineageGraph graph = graph(lines.toArray(String[]::new));
        String judged = verdicts(graph, kind);
        expected = expected == null ? judged : expected;
        assertThat(judged).isEqualTo(expected);
      }
    }
  }

  private static String verdicts(LineageGraph graph, Change.Kind kind) {
    return ImpactAnalysis.of(
            graph, List.of(data(graph, "s#c", kind)), (owner, target) -> null, Integer.MAX_VALUE)
        .items()
        .stream()
        .map(item -> item.ref() + item.verdicts())
        .sorted()
        .collect(Collectors.joining("\n"));
  }
}
