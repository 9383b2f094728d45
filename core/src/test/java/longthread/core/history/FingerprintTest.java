package longthread.core.history;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import net.jqwik.api.Arbitraries;
import net.jqwik.api.Arbitrary;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.Provide;
import net.jqwik.api.constraints.IntRange;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class FingerprintTest {
  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      value = {
        "select a from t|SELECT  a\tFROM t",
        "select a from t|select a /* the column */ from t -- the table",
        "where d = date '2026-11-21'|where d = date '2026-11-22'",
        "where d >= '2026-11-21T00:00:00Z'|where d >= '2026-12-01T02:30:00+01:00'",
        "where day = '20261121'|where day = '20261122'",
        "run '01910000-0000-7000-8000-000000002501'|run '01910000-0000-7000-8000-00000000ffff'",
      })
  void runs_of_the_same_code_have_one_fingerprint(String one, String other) {
    assertThat(Fingerprint.of(one)).isEqualTo(Fingerprint.of(other));
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      value = {
        "select a from t|select b from t",
        "where class = 'A'|where class = 'B'",
        "where n = 20261121|where n = 20261122",
        "select \"2026-11-21\" from t|select \"2026-11-22\" from t",
        "where a = '-- x'|where a = '-- y'",
      })
  void other_code_has_another(String one, String other) {
    assertThat(Fingerprint.of(one)).isNotEqualTo(Fingerprint.of(other));
  }

  @Property
  void spaces_and_comments_between_words_do_not_count(
      @ForAll("words") List<String> words, @ForAll @IntRange(min = 0, max = 4) int choice) {
    String gap =
        List.of("\n", "  \t", " /* a ' quote */ ", " -- to the end\n", " /**/ ").get(choice);
    assertThat(Fingerprint.of(String.join(gap, words)))
        .isEqualTo(Fingerprint.of(String.join(" ", words)));
  }

  @Property
  void any_text_has_a_fingerprint(@ForAll("code") String text) {
    assertThat(Fingerprint.of(text)).hasSize(64).isEqualTo(Fingerprint.of(text));
    assertThat(Fingerprint.withoutVolatile(Fingerprint.withoutVolatile(text)))
        .isEqualTo(Fingerprint.withoutVolatile(text));
  }

  @Test
  void only_literals_lose_their_dates() {
    assertThat(Fingerprint.withoutVolatile("case when d < date '2026-11-21' then 'old' end"))
        .isEqualTo("case when d < date " + Fingerprint.BLANK + " then 'old' end");
    assertThat(Fingerprint.withoutVolatile("2026-11-21")).isEqualTo("2026-11-21");
    assertThat(Fingerprint.withoutVolatile("'$1 a\\b'")).isEqualTo("'$1 a\\b'");
  }

  @Provide
  Arbitrary<List<String>> words() {
    return Arbitraries.of(
            "select", "a", "'B c'", ",", "from", "t", "(", ")", "'2026-11-21'", "\"X\"")
        .list()
        .ofMinSize(1)
        .ofMaxSize(12);
  }

  @Provide
  Arbitrary<String> code() {
    return Arbitraries.strings().withChars("ab'\"-/* \n20261121-T:").ofMaxLength(60);
  }
}
