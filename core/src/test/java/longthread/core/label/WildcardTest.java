package longthread.core.label;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.regex.Pattern;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.CharRange;
import net.jqwik.api.constraints.Chars;
import net.jqwik.api.constraints.StringLength;
import org.junit.jupiter.api.Test;

class WildcardTest {
  private static boolean fits(String word, String text) {
    return Wildcard.of(List.of(word)).fits(text);
  }

  @Test
  void a_star_stands_for_any_letters_or_none() {
    assertThat(fits("*iban*", "IBAN")).isTrue();
    assertThat(fits("*iban*", "pay_to_iban_2")).isTrue();
    assertThat(fits("iban", "iban_2")).isFalse();
    assertThat(fits("a*a", "a")).as("two letters are two").isFalse();
    assertThat(fits("a*a", "aa")).isTrue();
    assertThat(fits("a*b*c", "axxbxxc")).isTrue();
    assertThat(fits("a*b*c", "acb")).isFalse();
    assertThat(fits("*", "")).isTrue();
    assertThat(fits("ÄRZTE*", "ärzte_hash")).isTrue();
    assertThat(Wildcard.of(List.of()).fits("x")).isFalse();
  }

  @Property
  void it_fits_what_the_same_regular_expression_fits(
      @ForAll @StringLength(max = 6) @Chars({'a', 'b', '*'}) String word,
      @ForAll @StringLength(max = 8) @CharRange(from = 'a', to = 'b') String text) {
    var regex = Pattern.compile(word.replace("*", ".*"));
    assertThat(fits(word, text)).isEqualTo(regex.matcher(text).matches());
  }
}
