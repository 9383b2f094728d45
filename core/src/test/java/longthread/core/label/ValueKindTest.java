package longthread.core.label;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Random;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;

class ValueKindTest {
  private static Optional<ValueKind> kind(List<String> values) {
    return ValueKind.of(values).map(ValueKind.Looks::kind);
  }

  /** An IBAN with right check digits, by the rule read the other way round. */
  private static String iban(String country, String account) {
    String digits = "";
    for (char c : (account + country + "00").toCharArray()) {
      digits += Character.digit(c, 36);
    }
    int rest = new java.math.BigInteger(digits).mod(java.math.BigInteger.valueOf(97)).intValue();
    return country + String.format("%02d", 98 - rest) + account;
  }

  private static String card(long first) {
    for (int check = 0; check < 10; check++) {
      String number = first + "" + check;
      int sum = 0;
      for (int i = 0; i < number.length(); i++) {
        int d = number.charAt(number.length() - 1 - i) - '0';
        sum += i % 2 == 0 ? d : d < 5 ? 2 * d : 2 * d - 9;
      }
      if (sum % 10 == 0) {
        return number;
      }
    }
    throw new IllegalStateException();
  }

  private static List<String> many(java.util.function.IntFunction<String> make) {
    return IntStream.range(0, 20).mapToObj(make).toList();
  }

  @Test
  void values_are_known_by_their_form() {
    assertThat(kind(many(i -> "person" + i + "@farm-" + i + ".hollin.example")))
        .contains(ValueKind.EMAIL);
    assertThat(kind(many(i -> iban("DE", String.format("3704004405320130%02d", i)))))
        .contains(ValueKind.IBAN);
    assertThat(
            kind(many(i -> iban("GB", "NWBK601613319268" + (10 + i)).replaceAll("(.{4})", "$1 "))))
        .as("in groups of four")
        .contains(ValueKind.IBAN);
    assertThat(kind(many(i -> card(453_201_511_283_000L + i)))).contains(ValueKind.CARD);
    assertThat(kind(many(i -> "+44 (0) 1632 9600" + (10 + i)))).contains(ValueKind.PHONE);
  }

  @Test
  void numbers_that_only_look_like_it_are_none() {
    var random = new Random(7);
    assertThat(kind(many(i -> "DE00" + (370_400_440_532_013_000L + i)))).isEmpty();
    assertThat(kind(many(i -> "" + (4_000_000_000_000_000L + random.nextInt(1_000_000_000)))))
        .as("one number in ten has the right check digit")
        .isEmpty();
    assertThat(kind(many(i -> "" + (1_700_000_000_000L + 977L * i)))).as("times").isEmpty();
    assertThat(kind(many(i -> "+" + i))).isEmpty();
    assertThat(kind(many(i -> "user" + i + "@host"))).isEmpty();
    assertThat(kind(many(i -> "2026-11-" + (i + 10)))).isEmpty();
  }

  @Test
  void few_values_or_one_value_again_and_again_say_nothing() {
    assertThat(kind(List.of("a@b.example", "b@b.example", "c@b.example", "d@b.example"))).isEmpty();
    assertThat(kind(many(i -> "info@hollin.example"))).as("a constant").isEmpty();
    assertThat(kind(many(i -> ""))).isEmpty();
    assertThat(kind(List.of())).isEmpty();
  }

  @Test
  void most_of_them_must_have_it_and_empty_ones_do_not_count() {
    var values = new ArrayList<String>(many(i -> i + "@farm.example"));
    for (int i = 0; i < 30; i++) {
      values.add(i % 2 == 0 ? null : " ");
    }
    assertThat(ValueKind.of(values)).contains(new ValueKind.Looks(ValueKind.EMAIL, 20, 20));
    for (int i = 0; i < 5; i++) {
      values.add("unknown");
    }
    assertThat(ValueKind.of(values)).contains(new ValueKind.Looks(ValueKind.EMAIL, 20, 25));
    values.add("unknown");
    assertThat(ValueKind.of(values)).isEmpty();
  }

  @Test
  void a_long_text_costs_no_more_than_its_length() {
    String text = "a".repeat(200_000) + "@";
    assertThat(kind(many(i -> text + i))).isEmpty();
  }
}
