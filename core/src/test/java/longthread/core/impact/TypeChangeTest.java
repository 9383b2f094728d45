package longthread.core.impact;

import static org.assertj.core.api.Assertions.assertThat;

import net.jqwik.api.Arbitraries;
import net.jqwik.api.Arbitrary;
import net.jqwik.api.Combinators;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.Provide;
import net.jqwik.api.constraints.IntRange;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class TypeChangeTest {
  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      value = {
        "smallint|integer",
        "int4|BIGINT",
        "real|double precision",
        "date|timestamp",
        "numeric(6,2)|numeric(8,2)",
        "numeric(6,2)|numeric",
        "varchar(20)|varchar(40)",
        "varchar(20)|text",
        "integer|text",
        "character varying(10)|varchar(10)",
      })
  void a_wider_type_fits_every_value_and_the_way_back_may_not(String narrow, String wide) {
    assertThat(TypeChange.mayNarrow(narrow, wide)).isFalse();
    boolean same = narrow.equals("character varying(10)");
    assertThat(TypeChange.mayNarrow(wide, narrow)).isEqualTo(!same);
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      value = {
        "numeric(6,2)|numeric(6,3)", // one digit less before the point
        "numeric(6,2)|integer",
        "integer|boolean",
        "point|polygon",
        "array<int>|array<bigint>",
      })
  void what_is_not_known_to_fit_may_narrow(String from, String to) {
    assertThat(TypeChange.mayNarrow(from, to)).isTrue();
  }

  @Test
  void types_that_were_not_reported_may_narrow() {
    assertThat(TypeChange.mayNarrow(null, "integer")).isTrue();
    assertThat(TypeChange.mayNarrow("integer", null)).isTrue();
  }

  @Property
  void a_type_fits_itself_however_it_is_written(@ForAll("types") String type) {
    assertThat(TypeChange.mayNarrow(type, " " + type.toUpperCase(java.util.Locale.ROOT) + " "))
        .isFalse();
  }

  @Property
  void fitting_is_transitive(
      @ForAll("types") String a, @ForAll("types") String b, @ForAll("types") String c) {
    if (!TypeChange.mayNarrow(a, b) && !TypeChange.mayNarrow(b, c)) {
      assertThat(TypeChange.mayNarrow(a, c)).as(a + " into " + b + " into " + c).isFalse();
    }
  }

  @Property
  void more_digits_on_both_sides_of_the_point_fit(
      @ForAll @IntRange(min = 1, max = 20) int digits,
      @ForAll @IntRange(min = 0, max = 6) int scale,
      @ForAll @IntRange(min = 0, max = 5) int before,
      @ForAll @IntRange(min = 0, max = 5) int behind) {
    String from = "numeric(" + (digits + scale) + "," + scale + ")";
    String to = "numeric(" + (digits + before + scale + behind) + "," + (scale + behind) + ")";
    assertThat(TypeChange.mayNarrow(from, to)).isFalse();
    assertThat(TypeChange.mayNarrow(to, from)).isEqualTo(before + behind > 0);
  }

  @Provide
  Arbitrary<String> types() {
    Arbitrary<String> plain =
        Arbitraries.of("smallint", "int", "bigint", "real", "double precision", "date", "text");
    Arbitrary<String> sized =
        Combinators.combine(
                Arbitraries.of("varchar", "char", "numeric"), Arbitraries.integers().between(1, 9))
            .as((name, size) -> name + "(" + size + ")");
    return Arbitraries.oneOf(plain, sized);
  }
}
