package longthread.core.sql;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.Map;
import java.util.TreeSet;
import java.util.stream.Collectors;
import longthread.core.asset.DatasetName;
import longthread.core.lineage.ColumnLink;
import longthread.core.lineage.Flow;
import longthread.core.lineage.ReportedLineage;
import longthread.core.lineage.ResolvedLineage;
import longthread.core.sql.Derivation.Derived;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.Test;

class DerivationTest {
  private static final SqlReader READER = new SqlReader();
  private static final String BARN = "postgres://barn:5432";
  private static final DatasetName PICKUP = new DatasetName(BARN, "barn.core.pickup");
  private static final DatasetName PAYOUT = new DatasetName(BARN, "barn.mart.payout");
  private static final DatasetName LANDED = new DatasetName("s3://lake", "landed/pickup/day=1");
  private static final Map<DatasetName, List<KnownColumn>> COLUMNS =
      Map.of(
          PICKUP, columns("farm_id", "litres", "picked_at"),
          PAYOUT, columns("farm_id", "litres", "amount"),
          LANDED, columns("farm_id", "litres", "picked_at"));

  @AfterAll
  static void close() {
    READER.close();
  }

  private static List<KnownColumn> columns(String... names) {
    return List.of(names).stream().map(name -> new KnownColumn(name, null)).toList();
  }

  private static ReportedLineage lineage(List<DatasetName> inputs, List<DatasetName> outputs) {
    return new ReportedLineage(
        new TreeSet<>(inputs),
        new TreeSet<>(outputs),
        new TreeSet<>(),
        new TreeSet<>(),
        new TreeSet<>(),
        false);
  }

  private static Derived derive(String sql, List<DatasetName> inputs, List<DatasetName> outputs) {
    return Derivation.of(
        READER, sql, null, lineage(inputs, outputs), name -> COLUMNS.getOrDefault(name, List.of()));
  }

  private static String links(ReportedLineage lineage) {
    return lineage.columns().stream().map(DerivationTest::text).collect(Collectors.joining("\n"));
  }

  private static String text(ColumnLink link) {
    return link.from().dataset().name()
        + "#"
        + link.from().path()
        + " -> "
        + link.to().dataset().name()
        + "#"
        + link.to().path()
        + " "
        + link.flow();
  }

  @Test
  void tables_are_the_datasets_that_the_run_named() {
    Derived derived =
        derive(
            "insert into mart.payout (farm_id, litres) select farm_id, sum(litres) from core.pickup"
                + " where picked_at > now() group by farm_id",
            List.of(PICKUP),
            List.of(PAYOUT));
    assertThat(derived.complete()).isTrue();
    assertThat(links(derived.lineage()))
        .isEqualTo(
            """
            barn.core.pickup#farm_id -> barn.mart.payout#* GROUP_BY
            barn.core.pickup#picked_at -> barn.mart.payout#* FILTER
            barn.core.pickup#farm_id -> barn.mart.payout#farm_id IDENTITY
            barn.core.pickup#litres -> barn.mart.payout#litres AGGREGATION""");
  }

  @Test
  void a_table_the_run_did_not_name_lies_beside_those_it_did() {
    Derived derived =
        derive(
            "insert into mart.payout (litres) select l from raw.visit", List.of(), List.of(PAYOUT));
    assertThat(derived.lineage().inputs()).containsExactly(new DatasetName(BARN, "barn.raw.visit"));
  }

  @Test
  void a_query_that_writes_nothing_feeds_the_one_output_that_nothing_else_writes() {
    Derived derived =
        derive(
            "select farm_id, litres * 2 as litres from core.pickup",
            List.of(PICKUP),
            List.of(LANDED));
    assertThat(links(derived.lineage()))
        .contains("barn.core.pickup#litres -> landed/pickup/day=1#litres TRANSFORMATION");
  }

  @Test
  void what_the_client_sends_is_the_one_input() {
    Derived derived =
        derive(
            "copy core.pickup (farm_id, litres) from stdin with (format csv, header)",
            List.of(LANDED),
            List.of(PICKUP));
    assertThat(derived.complete()).isTrue();
    assertThat(links(derived.lineage()))
        .contains("landed/pickup/day=1#litres -> barn.core.pickup#litres IDENTITY");
  }

  @Test
  void a_constant_has_an_entry_and_no_source() {
    Derived derived =
        derive(
            "insert into mart.payout (litres) select 0 from core.pickup",
            List.of(PICKUP),
            List.of(PAYOUT));
    assertThat(derived.lineage().described()).hasSize(1);
    assertThat(links(derived.lineage())).isEqualTo("barn.core.pickup#* -> barn.mart.payout#* ROWS");
  }

  @Test
  void a_date_that_passes_from_run_to_run_is_left_out_of_a_constant() {
    Derived derived =
        derive(
            "insert into mart.payout (litres, amount) select case when litres > 1 then litres else 0 end, date '2026-10-31' from core.pickup",
            List.of(PICKUP),
            List.of(PAYOUT));
    assertThat(derived.constants())
        .extracting(constant -> constant.column().path() + " = " + constant.text())
        .containsExactly("amount = date '…'", "litres = 0");
  }

  @Test
  void what_chooses_a_value_in_a_subquery_decides_that_value() {
    Derived derived =
        derive(
            "insert into mart.payout (amount) select (select max(litres) from core.pickup where picked_at > now())",
            List.of(PICKUP),
            List.of(PAYOUT));
    assertThat(links(derived.lineage()))
        .contains("barn.core.pickup#picked_at -> barn.mart.payout#amount CONDITIONAL");
  }

  @Test
  void a_delete_of_old_rows_makes_no_circle() {
    Derived derived =
        derive(
            "delete from mart.payout where farm_id = 3; insert into mart.payout (litres) select litres from core.pickup",
            List.of(PICKUP),
            List.of(PAYOUT));
    assertThat(derived.lineage().inputs()).containsExactly(PICKUP);
    assertThat(links(derived.lineage())).doesNotContain("payout#farm_id ->");
  }

  @Test
  void a_text_that_is_not_understood_leaves_a_gap_and_no_certainty() {
    Derived derived =
        derive(
            "insert into mart.payout selec x from core.pickup", List.of(PICKUP), List.of(PAYOUT));
    assertThat(derived.complete()).isFalse();
    assertThat(derived.lineage().gap()).isTrue();
    assertThat(derived.lineage().columns()).extracting(ColumnLink::flow).containsOnly(Flow.COARSE);
  }

  @Test
  void what_a_run_told_of_an_output_stands_and_its_sql_only_confirms_it() {
    Derived derived =
        derive(
            "insert into mart.payout (litres) select litres from core.pickup",
            List.of(PICKUP),
            List.of(PAYOUT));
    ResolvedLineage silent =
        ResolvedLineage.of(lineage(List.of(PICKUP), List.of(PAYOUT)))
            .with(derived.lineage(), derived.constants());
    assertThat(silent.lineage().columns()).hasSize(1);
    assertThat(silent.derived()).hasSize(2);
    assertThat(silent.confirmed()).isEmpty();

    ResolvedLineage telling =
        ResolvedLineage.of(derived.lineage()).with(derived.lineage(), derived.constants());
    assertThat(telling.derived()).isEmpty();
    assertThat(telling.confirmed()).hasSize(1);
  }

  @Test
  void the_dialect_is_the_one_named_else_that_of_the_database() {
    assertThat(Derivation.dialect("spark", ReportedLineage.EMPTY)).isEqualTo(Dialect.BACKTICK);
    assertThat(Derivation.dialect(null, lineage(List.of(PICKUP), List.of())))
        .isEqualTo(Dialect.POSTGRES);
    assertThat(Derivation.dialect("unheard of", ReportedLineage.EMPTY)).isEqualTo(Dialect.ANSI);
  }
}
