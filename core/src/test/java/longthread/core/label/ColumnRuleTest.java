package longthread.core.label;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.List;
import org.junit.jupiter.api.Test;

class ColumnRuleTest {
  private static final List<String> NONE = List.of();

  @Test
  void a_name_fits_whole_or_with_stars_in_any_case() {
    ColumnRule rule =
        ColumnRule.of(List.of("*iban*", "phone"), List.of("*_hash"), NONE, NONE, NONE);
    assertThat(rule.fitsName("IBAN")).isTrue();
    assertThat(rule.fitsName("pay_to_iban_2")).isTrue();
    assertThat(rule.fitsName("contact.phone")).as("the last part of a nested one").isTrue();
    assertThat(rule.fitsName("telephone")).as("a whole word without stars").isFalse();
    assertThat(rule.fitsName("iban_hash")).as("excepted").isFalse();
    assertThat(rule.fitsName("a.b[c")).as("signs mean themselves").isFalse();
    assertThat(ColumnRule.of(List.of("a.b[c"), NONE, NONE, NONE, NONE).fitsName("a.b[c")).isTrue();
  }

  @Test
  void every_condition_that_is_given_has_to_hold() {
    ColumnRule rule =
        ColumnRule.of(NONE, NONE, List.of("varchar*", "text"), List.of("account"), List.of("barn"));
    assertThat(rule.fitsName("anything")).isTrue();
    assertThat(rule.fitsElse("VARCHAR(34)", List.of("x", "account"), "Barn")).isTrue();
    assertThat(rule.fitsElse("int", List.of("account"), "barn")).isFalse();
    assertThat(rule.fitsElse(null, List.of("account"), "barn")).as("no type known").isFalse();
    assertThat(rule.fitsElse("text", List.of(), "barn")).isFalse();
    assertThat(rule.fitsElse("text", List.of("account"), "lake")).isFalse();
  }

  @Test
  void a_rule_of_everything_is_none() {
    assertThatThrownBy(() -> ColumnRule.of(NONE, List.of("x"), NONE, NONE, List.of("barn")))
        .hasMessageContaining("names, types nor terms");
  }
}
