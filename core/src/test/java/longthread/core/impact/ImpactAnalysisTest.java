package longthread.core.impact;

import static longthread.core.graph.Graphs.graph;
import static longthread.core.graph.Graphs.node;
import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.stream.Collectors;
import longthread.core.graph.LineageGraph;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class ImpactAnalysisTest {
  private static final ImpactAnalysis.Knowledge COMPLETE = (owner, target) -> null;

  private static Impact impact(LineageGraph graph, String ref, Change.Kind kind, boolean narrows) {
    var change = new Change.OfData(node(graph, ref), kind, null, narrows);
    return ImpactAnalysis.of(graph, List.of(change), COMPLETE, Integer.MAX_VALUE);
  }

  private static String asText(LineageGraph graph, String ref, Change.Kind kind) {
    return asText(impact(graph, ref, kind, false));
  }

  /** Items as {@code ref verdict}, with a question mark where only possible. */
  private static String asText(Impact impact) {
    return impact.items().stream()
        .map(
            i ->
                i.ref()
                    + " "
                    + i.headline().word()
                    + (i.certainty() == Certainty.CERTAIN ? "" : "?"))
        .collect(Collectors.joining(", "));
  }

  private final LineageGraph estate =
      graph(
          "s#v IDENTITY a#v by @n/load",
          "s#k IDENTITY a#k by @n/load",
          "s ROWS a by @n/load",
          "a#v AGGREGATION m#sum by @n/sum",
          "a#k JOIN m by @n/sum",
          "a ROWS m by @n/sum",
          "a ROWS_TO_VALUE m#sum by @n/sum",
          "m#sum IDENTITY c#sum by c",
          "m ROWS c by c",
          "c#sum HOLDS r#c.sum by r",
          "c HOLDS r by r");

  @Test
  void a_dropped_column_breaks_its_job_and_leaves_all_behind_stale() {
    assertThat(asText(estate, "s#v", Change.Kind.DROP))
        .isEqualTo("@n/load breaks, a goes-stale, m goes-stale, c goes-stale, r goes-stale");
  }

  @Test
  void a_renamed_join_key_breaks_as_a_carried_one_does() {
    assertThat(asText(estate, "a#k", Change.Kind.RENAME)).startsWith("@n/sum breaks");
  }

  @Test
  void what_is_live_breaks_itself_and_so_does_what_holds_it() {
    assertThat(asText(estate, "m#sum", Change.Kind.DROP)).isEqualTo("c breaks, r breaks");
  }

  @Test
  void values_shift_along_values_and_turn_to_rows_at_a_join() {
    assertThat(asText(estate, "s#v", Change.Kind.VALUES))
        .isEqualTo("a values-shift, m values-shift, c values-shift, r values-shift");
    LineageGraph plain =
        graph(
            "a#k JOIN m by @n/join",
            "a#v IDENTITY m#v by @n/join",
            "a ROWS m by @n/join",
            "m ROWS c by c");
    assertThat(asText(plain, "a#k", Change.Kind.VALUES)).isEqualTo("m rows-shift, c rows-shift");
  }

  @Test
  void a_shifted_key_shifts_what_the_job_makes_of_many_of_the_joined_rows() {
    assertThat(asText(estate, "s#k", Change.Kind.VALUES))
        .isEqualTo("a values-shift, m values-shift, c values-shift, r values-shift");
    Impact byKey = impact(estate, "a#k", Change.Kind.VALUES, false);
    assertThat(byKey.items().get(0).verdicts())
        .containsOnlyKeys(Verdict.VALUES_SHIFT, Verdict.ROWS_SHIFT);
    assertThat(byKey.items().get(0).columns()).containsOnlyKeys("sum");
    // Another job's aggregates in the same table are made of other rows.
    LineageGraph two =
        graph(
            "a#k FILTER m by @n/one",
            "a ROWS m by @n/one",
            "b#v AGGREGATION m#sum by @n/two",
            "b ROWS m by @n/two");
    assertThat(asText(two, "a#k", Change.Kind.VALUES)).isEqualTo("m rows-shift?");
  }

  @Test
  void rows_shift_values_that_are_made_of_many_rows() {
    Impact impact = impact(estate, "a", Change.Kind.ROWS, false);
    Impact.Item mart = impact.items().get(0);
    assertThat(mart.ref()).isEqualTo("m");
    assertThat(mart.verdicts()).containsOnlyKeys(Verdict.VALUES_SHIFT, Verdict.ROWS_SHIFT);
    assertThat(mart.columns()).containsEntry("sum", Verdict.VALUES_SHIFT);
  }

  @Test
  void delay_makes_stale_and_never_shifts() {
    assertThat(asText(estate, "s", Change.Kind.DELAY))
        .isEqualTo("a goes-stale, m goes-stale, c goes-stale, r goes-stale");
  }

  @Test
  void over_a_coarse_link_all_but_staleness_is_only_possible() {
    LineageGraph coarse =
        graph(
            "a#x IDENTITY b#x by @n/1",
            "a ROWS b by @n/1",
            "b COARSE c by @n/2",
            "c#z IDENTITY d#z by @n/3",
            "c ROWS d by @n/3");
    assertThat(asText(coarse, "a#x", Change.Kind.VALUES))
        .isEqualTo("b values-shift, c values-shift?, d values-shift?");
    assertThat(asText(coarse, "b#x", Change.Kind.DROP))
        .isEqualTo("@n/2 breaks?, c goes-stale?, d goes-stale?");
    assertThat(asText(coarse, "a", Change.Kind.DELAY))
        .isEqualTo("b goes-stale, c goes-stale, d goes-stale");
  }

  @Test
  void a_mask_leaves_shifted_values_only_possible() {
    LineageGraph masked = graph("a#x TRANSFORMATION! b#h by @n/1", "a ROWS b by @n/1");
    assertThat(asText(masked, "a#x", Change.Kind.VALUES)).isEqualTo("b values-shift?");
  }

  @Test
  void certainty_found_later_on_a_longer_way_still_counts() {
    LineageGraph graph =
        graph(
            "a#x TRANSFORMATION! d#x by @n/3",
            "a#x IDENTITY b#x by @n/1",
            "b#x IDENTITY c#x by @n/2",
            "c#x IDENTITY d#x by @n/3",
            "d#x IDENTITY e#x by @n/4");
    Impact impact = impact(graph, "a#x", Change.Kind.VALUES, false);
    assertThat(asText(impact))
        .contains("d values-shift,")
        .contains("e values-shift")
        .doesNotContain("?");
    assertThat(
            impact.items().stream()
                .filter(i -> i.ref().equals("d"))
                .findFirst()
                .orElseThrow()
                .hops())
        .as("the distance is still the shortest")
        .isEqualTo(1);
  }

  @Test
  void a_wider_type_can_only_trouble_copies_a_narrower_one_values_too() {
    LineageGraph graph =
        graph(
            "a#x IDENTITY b#x by @n/copy",
            "a ROWS b by @n/copy",
            "a#x TRANSFORMATION c#x by @n/calc",
            "a ROWS c by @n/calc");
    assertThat(asText(impact(graph, "a#x", Change.Kind.RETYPE, false)))
        .isEqualTo("@n/copy breaks?, b goes-stale?");
    assertThat(asText(impact(graph, "a#x", Change.Kind.RETYPE, true)))
        .isEqualTo("@n/calc breaks?, @n/copy breaks?, b goes-stale?, c goes-stale?");
  }

  @Test
  void what_reads_the_same_table_without_the_column_is_untouched() {
    LineageGraph graph =
        graph(
            "s#v IDENTITY a#v by @n/1",
            "s ROWS a by @n/1",
            "s#w IDENTITY b#w by @n/2",
            "s ROWS b by @n/2");
    Impact impact = impact(graph, "s#v", Change.Kind.DROP, false);
    assertThat(impact.untouched()).extracting(Impact.Untouched::ref).containsExactly("@n/2", "b");
    assertThat(impact.untouched()).allMatch(u -> u.certainty() == Certainty.CERTAIN);
  }

  @Test
  void an_incomplete_column_map_leaves_untouched_only_possible_all_the_way_down() {
    LineageGraph graph =
        graph(
            "s#w IDENTITY b#w by @n/2",
            "s ROWS b by @n/2",
            "b#w IDENTITY c#w by @n/3",
            "b ROWS c by @n/3",
            "s#v IDENTITY d#v by @n/4",
            "s ROWS d by @n/4");
    var change = new Change.OfData(node(graph, "s#v"), Change.Kind.VALUES, null, false);
    Impact impact =
        ImpactAnalysis.of(
            graph,
            List.of(change),
            (owner, target) -> owner.equals("@n/2") ? "half reported" : null,
            99);
    assertThat(impact.untouched())
        .filteredOn(u -> !u.ref().startsWith("@"))
        .extracting(Impact.Untouched::ref, Impact.Untouched::missing)
        .containsExactly(
            org.assertj.core.groups.Tuple.tuple("b", "half reported"),
            org.assertj.core.groups.Tuple.tuple("c", "half reported"));
  }

  @Test
  void every_item_has_a_thread_from_the_change_to_itself() {
    for (Change.Kind kind : List.of(Change.Kind.DROP, Change.Kind.VALUES, Change.Kind.DELAY)) {
      for (Impact.Item item : impact(estate, "s#v", kind, false).items()) {
        var thread = item.thread();
        assertThat(estate.assetReference(estate.assetOf(thread.get(0).from()))).isEqualTo("s");
        for (int i = 0; i + 1 < thread.size(); i++) {
          assertThat(estate.assetOf(thread.get(i).to()))
              .isEqualTo(estate.assetOf(thread.get(i + 1).from()));
        }
        if (!item.ref().startsWith("@")) {
          assertThat(estate.assetReference(estate.assetOf(thread.get(thread.size() - 1).to())))
              .isEqualTo(item.ref());
        }
      }
    }
  }

  @Test
  void several_changes_are_judged_together_and_cycles_end() {
    LineageGraph cycle =
        graph(
            "a#x IDENTITY b#x by @n/1",
            "a ROWS b by @n/1",
            "b#x IDENTITY a#x by @n/2",
            "b ROWS a by @n/2");
    assertThat(asText(cycle, "a#x", Change.Kind.VALUES)).isEqualTo("b values-shift");
    Impact both =
        ImpactAnalysis.of(
            estate,
            List.of(
                new Change.OfData(node(estate, "s#v"), Change.Kind.VALUES, null, false),
                new Change.OfData(node(estate, "m#sum"), Change.Kind.DROP, null, false)),
            COMPLETE,
            99);
    assertThat(asText(both)).contains("c breaks").contains("a values-shift");
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      value = {
        "int|bigint|false",
        "bigint|int|true",
        "varchar(10)|varchar(20)|false",
        "varchar(20)|varchar(10)|true",
        "numeric(8,1)|numeric(10,1)|false",
        "numeric(8,1)|numeric(10,4)|true",
        "date|timestamp|false",
        "money|text|false",
        "text|int|true",
        "blob|geometry|true",
      })
  void a_type_narrows_if_some_value_may_not_fit(String from, String to, boolean narrows) {
    assertThat(TypeChange.mayNarrow(from, to)).isEqualTo(narrows);
  }
}
