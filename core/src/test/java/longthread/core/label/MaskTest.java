package longthread.core.label;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.charset.StandardCharsets;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.StringLength;
import org.junit.jupiter.api.Test;

class MaskTest {
  private final Mask mask = new Mask("a secret of this house".getBytes(StandardCharsets.UTF_8));

  @Test
  void a_part_is_the_end_of_a_long_value_and_nothing_of_a_short_one() {
    assertThat(mask.of("XX00 1234 5678 9012", MaskKind.PARTIAL)).isEqualTo("•••••9012");
    assertThat(mask.of("12345678", MaskKind.PARTIAL)).isEqualTo("•••••78");
    assertThat(mask.of("Ann", MaskKind.PARTIAL)).isEqualTo("•••••");
    assertThat(mask.of("🐄🐄🐄🐄", MaskKind.PARTIAL)).as("whole letters").isEqualTo("•••••🐄");
  }

  @Test
  void numbers_and_dates_become_steps_and_texts_their_first_letter() {
    assertThat(mask.of("3482.50", MaskKind.GENERALISED)).isEqualTo("3000 to 4000");
    assertThat(mask.of("-7", MaskKind.GENERALISED)).isEqualTo("-7 to -6");
    assertThat(mask.of("0.034", MaskKind.GENERALISED)).isEqualTo("0.03 to 0.04");
    assertThat(mask.of("0", MaskKind.GENERALISED)).isEqualTo("0");
    assertThat(mask.of("1984-03-02", MaskKind.GENERALISED)).isEqualTo("1984");
    assertThat(mask.of("1984-03-02 04:05:06", MaskKind.GENERALISED)).isEqualTo("1984");
    assertThat(mask.of(" Thwaite", MaskKind.GENERALISED)).isEqualTo("T•••••");
  }

  @Test
  void equal_values_have_equal_hashes_and_another_house_has_others() {
    String hash = mask.of("XX00 1234", MaskKind.HASHED);
    assertThat(hash).matches("#[0-9a-f]{12}").isEqualTo(mask.of("XX00 1234", MaskKind.HASHED));
    assertThat(mask.of("XX00 1235", MaskKind.HASHED)).isNotEqualTo(hash);
    assertThat(new Mask(new byte[16]).of("XX00 1234", MaskKind.HASHED)).isNotEqualTo(hash);
    assertThatThrownBy(() -> new Mask(new byte[15])).hasMessageContaining("16");
  }

  @Test
  void what_is_not_there_stays_not_there() {
    for (MaskKind kind : MaskKind.values()) {
      assertThat(mask.of(null, kind)).isNull();
    }
    assertThat(MaskKind.PARTIAL.and(MaskKind.HIDDEN)).isEqualTo(MaskKind.HIDDEN);
    assertThat(MaskKind.HASHED.and(MaskKind.SHOWN)).isEqualTo(MaskKind.HASHED);
  }

  @Property
  void nothing_but_a_quarter_of_a_value_is_ever_in_what_is_shown(
      @ForAll @StringLength(min = 1, max = 60) String value) {
    String part = String.valueOf(mask.of(value, MaskKind.PARTIAL));
    int letters = value.codePointCount(0, value.length());
    assertThat(part.codePointCount(0, part.length()) - 5).isLessThanOrEqualTo(letters / 4);
    assertThat(mask.of(value, MaskKind.HIDDEN)).isEqualTo("•••••");
  }
}
