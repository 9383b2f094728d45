package longthread.core.change;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import java.time.Instant;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class ChangeDocumentTest {
  private static final String GOOD =
      """
      format: longthread-change/1
      title: Litres become volume_l
      reason: |
        One name for volume everywhere.
      planned: 2031-05-03T06:00:00+02:00
      steps:
        - change: rename
          of: collect.public.pickup#litres
          to: volume_l
        - change: delay
          of: "@nightshift/collect_nightly.land_pickup"
      """;

  @Test
  void yaml_is_read() throws BadDocumentException {
    ChangeDocument read = ChangeDocument.read(GOOD);
    assertThat(read.title()).isEqualTo("Litres become volume_l");
    assertThat(read.planned()).isEqualTo(Instant.parse("2031-05-03T04:00:00Z"));
    assertThat(read.steps())
        .containsExactly(
            new ChangeDocument.Step("rename", "collect.public.pickup#litres", "volume_l"),
            new ChangeDocument.Step("delay", "@nightshift/collect_nightly.land_pickup", null));
  }

  @Test
  void json_is_read_too() throws BadDocumentException {
    assertThat(
            ChangeDocument.read(
                    "{\"format\":\"longthread-change/1\",\"title\":\"t\",\"steps\":[{\"change\":"
                        + "\"drop\",\"of\":\"a/b\"}]}")
                .steps())
        .hasSize(1);
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      value = {
        "change: rename|change: renam|/steps/0/change",
        "to: volume_l|tu: volume_l|/steps/0",
        "format: longthread-change/1|format: longthread-change/2|/format",
        "title: Litres become volume_l|titel: x|title",
        "planned: 2031-05-03T06:00:00+02:00|planned: tomorrow|/planned",
        "planned: 2031-05-03T06:00:00+02:00|planned: 2031-05-03|/planned",
        "- change: rename|- [|no YAML",
      })
  void each_fault_says_where_it_is(String good, String bad, String place) {
    BadDocumentException fault =
        catchThrowableOfType(
            BadDocumentException.class, () -> ChangeDocument.read(GOOD.replace(good, bad)));
    assertThat(fault.getMessage()).contains(place);
  }

  @Test
  void words_that_some_take_for_yes_and_no_are_words() throws BadDocumentException {
    assertThat(
            ChangeDocument.read(GOOD.replace("title: Litres become volume_l", "title: on")).title())
        .isEqualTo("on");
  }

  @Test
  void a_key_that_stands_twice_is_refused() {
    assertThat(
            catchThrowableOfType(
                BadDocumentException.class, () -> ChangeDocument.read(GOOD + "title: other\n")))
        .hasMessageContaining("duplicate key");
  }
}
