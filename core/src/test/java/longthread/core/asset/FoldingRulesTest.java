package longthread.core.asset;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.time.Duration;
import java.time.LocalDate;
import java.util.List;
import org.junit.jupiter.api.Assertions;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class FoldingRulesTest {
  private static String folded(FoldingRules rules, String name) {
    return rules
        .fold(new DatasetName("s3://lake", name))
        .map(f -> f.whole().name() + " | " + f.part() + " | " + f.rule())
        .orElse("-");
  }

  @ParameterizedTest
  @CsvSource({
    "raw/pickup/day=2031-05-01, raw/pickup | day=2031-05-01 | partition-directory",
    "raw/pickup/day=2031-05-01/hour=7/part-1.parquet, raw/pickup | day=2031-05-01/hour=7/part-1.parquet | partition-directory",
    "raw/pickup/2031/05/01/x.csv, raw/pickup | 2031/05/01/x.csv | dated-folders",
    "raw/pickup/2031/05, raw/pickup | 2031/05 | dated-folders",
    "raw/pickup/2031/13/01, -",
    "raw/pickup/2031-05-01/x.csv, raw/pickup | 2031-05-01/x.csv | dated-folder",
    "raw/pickup/20310501/x.csv, raw/pickup | 20310501/x.csv | dated-folder",
    "shop.events$20310501, shop.events | 20310501 | partition-suffix",
    "raw/pickup/part-00000-ab.snappy.parquet, raw/pickup | part-00000-ab.snappy.parquet | numbered-file",
    "drop/readings_20310501.csv, drop/readings_{date}.csv | 20310501 | dated-name",
    "drop/2031-05-01_readings.csv, drop/{date}_readings.csv | 2031-05-01 | dated-name",
    "shop.public.events_2031_05_01, shop.public.events_{date} | 2031_05_01 | dated-name",
    "shop.public.events_2031050123, shop.public.events_{date} | 2031050123 | dated-name",
    "shop.public.events_20311301, -",
    "shop.public.batch_12345678, -",
    "shop.public.t20310501, -",
    "drop/20310501, -",
    "day=2031-05-01, -",
    "collect.public.pickup, -",
  })
  void the_common_spellings_fold_and_others_do_not(String name, String expected) {
    assertThat(folded(FoldingRules.builtIn(), name)).isEqualTo(expected);
  }

  @Test
  void own_rules_come_first_and_one_that_gives_the_name_back_keeps_it_apart() {
    var rules =
        FoldingRules.of(
            List.of("(/keep/.*) => $1", "/region-[a-z]+/ => /region/"), List.of("dated-name"));
    assertThat(folded(rules, "keep/day=1")).isEqualTo("-");
    assertThat(folded(rules, "x/region-north/farms"))
        .isEqualTo("x/region/farms | /region-north/ | /region-[a-z]+/ => /region/");
    assertThat(folded(rules, "drop/readings_20310501.csv")).isEqualTo("-");
    assertThat(folded(rules, "raw/pickup/day=1")).startsWith("raw/pickup |");
  }

  @Test
  void rules_that_cannot_be_read_are_told() {
    assertThatThrownBy(() -> FoldingRules.of(List.of("x"), List.of())).hasMessageContaining("=>");
    assertThatThrownBy(() -> FoldingRules.of(List.of("( => x"), List.of()))
        .hasMessageContaining("bad pattern");
    assertThatThrownBy(() -> FoldingRules.of(List.of(), List.of("nonesuch")))
        .hasMessageContaining("nonesuch");
  }

  @Test
  void a_rule_that_would_try_endlessly_elsewhere_is_quick_and_what_needs_it_is_refused() {
    FoldingRules rules = FoldingRules.of(List.of("^(([a-z0-9]+)*/?)*!$ => $1"), List.of());
    var name = new DatasetName("s3://lake", "a".repeat(900) + "/" + "b1".repeat(500));
    Assertions.assertTimeoutPreemptively(
        Duration.ofSeconds(20), () -> assertThat(rules.fold(name)).isEmpty());
    for (String rule : List.of("(a)\\1 => b", "a(?=b) => c", "(?<!a)b => c", "a** => b")) {
      assertThatThrownBy(() -> FoldingRules.of(List.of(rule), List.of()))
          .isInstanceOf(IllegalArgumentException.class)
          .hasMessageContaining("bad pattern");
    }
  }

  @Test
  void what_a_rule_makes_of_its_own_whole_is_the_whole() {
    var rules = FoldingRules.builtIn();
    for (String name : List.of("raw/pickup", "drop/readings_{date}.csv", "shop.events")) {
      assertThat(rules.fold(new DatasetName("s3://lake", name))).isEmpty();
    }
  }

  @Test
  void a_missing_day_shows_in_a_daily_row_and_not_in_a_weekly_one() {
    var days = new java.util.ArrayList<LocalDate>();
    for (int day = 1; day <= 90; day++) {
      days.add(LocalDate.of(2031, 1, 1).plusDays(day));
    }
    LocalDate missing = days.remove(46);
    assertThat(FoldingRules.missingDays(days)).containsExactly(missing);
    days.removeIf(day -> day.toEpochDay() % 7 != 0);
    assertThat(FoldingRules.missingDays(days)).isEmpty();
    assertThat(FoldingRules.dayOf("readings 20310501")).contains(LocalDate.of(2031, 5, 1));
    assertThat(FoldingRules.dayOf("2031/05/02/x.csv")).contains(LocalDate.of(2031, 5, 2));
    assertThat(FoldingRules.dayOf("hour=7")).isEmpty();
  }
}
