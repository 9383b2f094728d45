package longthread.core.lineage;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Collections;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import longthread.core.asset.ColumnName;
import longthread.core.asset.DatasetName;
import net.jqwik.api.Arbitraries;
import net.jqwik.api.Arbitrary;
import net.jqwik.api.Combinators;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.Provide;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.EnumSource;

class ReportedLineageTest {
  private static final DatasetName RAW = new DatasetName("n", "raw");
  private static final DatasetName PRICE = new DatasetName("n", "price");
  private static final DatasetName CORE = new DatasetName("n", "core");
  private static final DatasetName MART = new DatasetName("n", "mart");

  private static ColumnName column(DatasetName dataset, String name) {
    return ColumnName.of(dataset, name);
  }

  private static ColumnLink link(ColumnName from, ColumnName to, Flow flow) {
    return new ColumnLink(from, to, flow, false);
  }

  private static ReportedLineage reported(
      Set<DatasetName> inputs, Set<DatasetName> outputs, ColumnLink... columns) {
    var described = new TreeSet<ColumnName>();
    for (ColumnLink link : columns) {
      described.add(link.to());
    }
    return new ReportedLineage(
        new TreeSet<>(inputs),
        new TreeSet<>(outputs),
        new TreeSet<>(List.of(columns)),
        described,
        new TreeSet<>(),
        false);
  }

  // ------------------------------------------------------------------ flows

  @ParameterizedTest
  @EnumSource(Flow.class)
  void a_flow_has_words_of_its_own_that_are_no_machine_word(Flow flow) {
    assertThat(flow.words()).isEqualTo(flow.words().toLowerCase(Locale.ROOT)).doesNotContain("_");
    assertThat(Stream.of(Flow.values()).filter(other -> other.words().equals(flow.words())))
        .containsExactly(flow);
  }

  @ParameterizedTest
  @CsvSource({
    "DIRECT, IDENTITY, IDENTITY",
    "direct, aggregation, AGGREGATION",
    "INDIRECT, GROUP_BY, GROUP_BY",
    "DIRECT, SOMETHING NEW, DIRECT",
    "INDIRECT, '', INDIRECT",
    // Words of our own are not the standard's: from outside they mean nothing.
    "DIRECT, HOLDS, DIRECT",
  })
  void a_transformation_is_read_as_the_standard_spells_it(
      String type, String subtype, Flow expected) {
    assertThat(Flow.ofTransformation(type, subtype)).contains(expected);
  }

  @Test
  void a_transformation_of_no_known_type_has_no_flow() {
    assertThat(Flow.ofTransformation("SIDEWAYS", "ROWS")).isEmpty();
  }

  // ------------------------------------------------------------------ links

  @Test
  void an_input_whose_columns_are_mapped_feeds_the_rows_too() {
    var lineage =
        reported(
            Set.of(RAW),
            Set.of(CORE),
            link(column(RAW, "fat"), column(CORE, "fat_pct"), Flow.TRANSFORMATION));
    assertThat(lineage.links())
        .containsExactlyInAnyOrder(
            link(column(RAW, "fat"), column(CORE, "fat_pct"), Flow.TRANSFORMATION),
            link(ColumnName.rowsOf(RAW), ColumnName.rowsOf(CORE), Flow.ROWS));
  }

  @Test
  void an_aggregate_depends_on_which_rows_there_are() {
    var lineage =
        reported(
            Set.of(CORE),
            Set.of(MART),
            link(column(CORE, "fat"), column(MART, "avg_fat"), Flow.AGGREGATION));
    assertThat(lineage.links())
        .contains(
            link(ColumnName.rowsOf(CORE), column(MART, "avg_fat"), Flow.ROWS_TO_VALUE),
            link(ColumnName.rowsOf(CORE), ColumnName.rowsOf(MART), Flow.ROWS));
  }

  @Test
  void an_input_that_feeds_no_column_is_read_only_where_the_map_is_known_and_coarse_elsewhere() {
    var mapped =
        reported(
            Set.of(RAW, PRICE),
            Set.of(CORE),
            link(column(RAW, "fat"), column(CORE, "fat"), Flow.IDENTITY));
    assertThat(mapped.links())
        .contains(link(ColumnName.rowsOf(PRICE), ColumnName.rowsOf(CORE), Flow.READS));
    var unmapped = reported(Set.of(RAW), Set.of(CORE));
    assertThat(unmapped.links())
        .containsExactly(link(ColumnName.rowsOf(RAW), ColumnName.rowsOf(CORE), Flow.COARSE));
  }

  @Test
  void an_output_whose_sources_were_reported_one_by_one_is_fed_by_no_other_input() {
    var columns =
        new TreeSet<>(List.of(link(column(RAW, "fat"), column(CORE, "fat"), Flow.IDENTITY)));
    var lineage =
        new ReportedLineage(
            new TreeSet<>(Set.of(RAW, PRICE)),
            new TreeSet<>(Set.of(CORE)),
            columns,
            new TreeSet<>(),
            new TreeSet<>(Set.of(CORE)),
            false);
    assertThat(lineage.pairs()).isEmpty();
    assertThat(lineage.links()).noneMatch(link -> link.from().dataset().equals(PRICE));
  }

  @Property
  void whole_assets_can_be_followed_along_their_rows_alone(
      @ForAll("lineages") ReportedLineage one) {
    Set<ReportedLineage.DatasetPair> byRows =
        one.links().stream()
            .filter(link -> link.from().isRows() && link.to().isRows())
            .map(
                link -> new ReportedLineage.DatasetPair(link.from().dataset(), link.to().dataset()))
            .collect(Collectors.toSet());
    assertThat(byRows).containsAll(one.pairs());
    assertThat(one.links()).containsAll(one.columns());
  }

  // ------------------------------------------------------------------ union, text

  @Property
  void a_union_does_not_depend_on_order_or_repetition(
      @ForAll("lineages") ReportedLineage a,
      @ForAll("lineages") ReportedLineage b,
      @ForAll("lineages") ReportedLineage c) {
    ReportedLineage all = ReportedLineage.union(List.of(a, b, c));
    assertThat(ReportedLineage.union(List.of(c, a, b, a))).isEqualTo(all);
    assertThat(ReportedLineage.union(List.of(ReportedLineage.union(List.of(b, c)), a)))
        .isEqualTo(all);
    assertThat(ReportedLineage.union(List.of(all, ReportedLineage.EMPTY))).isEqualTo(all);
  }

  @Property
  void text_reads_back_to_the_same_lineage(@ForAll("lineages") ReportedLineage one) {
    EncodedLineage encoded = EncodedLineage.of(one);
    assertThat(LineageText.read(encoded.text())).isEqualTo(one);
    assertThat(EncodedLineage.of(LineageText.read(encoded.text()))).isEqualTo(encoded);
  }

  @Property
  void different_lineages_have_different_digests(
      @ForAll("lineages") ReportedLineage a, @ForAll("lineages") ReportedLineage b) {
    assertThat(EncodedLineage.of(a).digest().equals(EncodedLineage.of(b).digest()))
        .isEqualTo(a.equals(b));
  }

  // ------------------------------------------------------------------ with SQL

  @Test
  void sql_confirms_what_the_run_reported_and_adds_nothing_to_it() {
    ColumnLink same = link(column(RAW, "fat"), column(CORE, "fat"), Flow.IDENTITY);
    ColumnLink onlyRun = link(column(RAW, "day"), column(CORE, "day"), Flow.IDENTITY);
    ColumnLink onlySql = link(column(RAW, "cells"), column(CORE, "cells"), Flow.IDENTITY);
    ResolvedLineage resolved =
        ResolvedLineage.of(reported(Set.of(RAW), Set.of(CORE), same, onlyRun))
            .with(reported(Set.of(RAW), Set.of(CORE), same, onlySql), Collections.emptySortedSet());
    assertThat(resolved.evidence(same)).isEqualTo(Evidence.CONFIRMED);
    assertThat(resolved.evidence(onlyRun)).isEqualTo(Evidence.OBSERVED);
    assertThat(resolved.links()).doesNotContain(onlySql);
  }

  @Test
  void of_an_output_without_a_column_map_the_sql_is_how_its_columns_are_made() {
    ColumnLink derived = link(column(RAW, "fat"), column(CORE, "fat"), Flow.IDENTITY);
    ResolvedLineage resolved =
        ResolvedLineage.of(reported(Set.of(RAW), Set.of(CORE)))
            .with(reported(Set.of(RAW), Set.of(CORE), derived), Collections.emptySortedSet());
    assertThat(resolved.evidence(derived)).isEqualTo(Evidence.DERIVED);
    assertThat(resolved.links())
        .as("the coarse link gives way to what is known of the columns")
        .noneMatch(link -> link.flow() == Flow.COARSE);
  }

  @Property
  void every_link_has_one_evidence_and_reported_columns_stay(
      @ForAll("lineages") ReportedLineage run, @ForAll("lineages") ReportedLineage sql) {
    ResolvedLineage alone = ResolvedLineage.of(run);
    ResolvedLineage resolved = alone.with(sql, Collections.emptySortedSet());
    assertThat(resolved.hash()).isEqualTo(alone.hash());
    assertThat(resolved.links()).containsAll(run.columns());
    assertThat(Collections.disjoint(resolved.derived(), run.columns())).isTrue();
    assertThat(Collections.disjoint(resolved.derived(), resolved.confirmed())).isTrue();
    assertThat(resolved.links()).containsAll(resolved.derived());
  }

  @Provide
  Arbitrary<ReportedLineage> lineages() {
    Arbitrary<DatasetName> datasets = Arbitraries.of(RAW, PRICE, CORE, MART);
    Arbitrary<ColumnName> columns =
        Combinators.combine(datasets, Arbitraries.of("a", "b", "c d", "*")).as(ColumnName::of);
    Arbitrary<ColumnLink> links =
        Combinators.combine(
                columns,
                columns,
                Arbitraries.of(
                    Flow.IDENTITY,
                    Flow.AGGREGATION,
                    Flow.CONDITIONAL,
                    Flow.WINDOW,
                    Flow.JOIN,
                    Flow.FILTER),
                Arbitraries.of(true, false))
            .as(ColumnLink::new);
    return Combinators.combine(
            datasets.set().ofMaxSize(3),
            datasets.set().ofMaxSize(2),
            links.set().ofMaxSize(5),
            columns.set().ofMaxSize(2),
            datasets.set().ofMaxSize(1),
            Arbitraries.of(true, false))
        .as(
            (inputs, outputs, map, described, detailed, gap) ->
                new ReportedLineage(
                    new TreeSet<>(inputs),
                    new TreeSet<>(outputs),
                    new TreeSet<>(map),
                    new TreeSet<>(described),
                    new TreeSet<>(detailed),
                    gap));
  }
}
