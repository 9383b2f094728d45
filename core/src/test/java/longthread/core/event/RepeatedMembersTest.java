package longthread.core.event;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.List;
import longthread.core.json.CanonicalJson;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** Of a member that an object has more than once, the last value counts. */
class RepeatedMembersTest {
  private static final Instant RECEIVED = Instant.parse("2026-05-01T00:00:10Z");
  private static final String HEAD =
      "{'eventTime':'2026-05-01T00:00:00Z','producer':'p','schemaURL':'s',";
  private static final String RUN = "'run':{'runId':'01910000-0000-7000-8000-000000002501'";
  private static final String JOB = "'job':{'namespace':'n','name':'j'}";

  private static byte[] bytes(String event) {
    return event.replace('\'', '"').getBytes(StandardCharsets.UTF_8);
  }

  private static EventFacts read(String event) throws UnreadableEventException {
    return EventReader.read(bytes(event), RECEIVED);
  }

  private static String facet(EventFacts facts, String key) {
    return facts.facets().stream()
        .filter(fact -> fact.key().equals(key))
        .map(fact -> CanonicalJson.text(fact.value()))
        .toList()
        .toString();
  }

  @Test
  void a_facet_that_is_there_twice_counts_once_as_it_was_last() throws Exception {
    EventFacts facts =
        read(
            HEAD
                + RUN
                + ",'facets':{'processing_engine':{'name':'old'},'x':{},"
                + "'processing_engine':{'name':'new'}}},"
                + JOB
                + "}");
    assertThat(facet(facts, "processing_engine")).isEqualTo("[{\"name\":\"new\"}]");
    assertThat(facts.facets()).hasSize(2);
    assertThat(facts.emitter().engine()).isEqualTo("new");
    assertThat(facts.warnings())
        .extracting(EventWarning::problem, EventWarning::detail)
        .containsExactly(
            org.assertj.core.groups.Tuple.tuple(
                "repeated-member",
                "an object has the member 'processing_engine' more than once; the last value"
                    + " counts"));
  }

  @Test
  void a_facet_taken_away_by_its_second_value_is_away() throws Exception {
    EventFacts facts = read(HEAD + RUN + ",'facets':{'x':{'a':1},'x':null}}," + JOB + "}");
    assertThat(facts.facets()).isEmpty();
  }

  @Test
  void members_inside_a_facet_count_as_they_were_last_at_any_depth() throws Exception {
    EventFacts facts =
        read(HEAD + RUN + ",'facets':{'x':{'a':{'b':1,'b':[{'c':1,'c':2}]}}}}," + JOB + "}");
    assertThat(facet(facts, "x")).isEqualTo("[{\"a\":{\"b\":[{\"c\":2}]}}]");
  }

  @Test
  void the_members_of_the_event_itself_count_as_they_were_last() throws Exception {
    EventFacts facts =
        read(
            HEAD
                + "'job':{'namespace':'n','name':'first','facets':{'x':{}}},"
                + "'inputs':[{'namespace':'n','name':'a'}],"
                + JOB
                + ",'inputs':[{'namespace':'n','name':'b','name':'c'}]}");
    assertThat(facts.job().reference()).isEqualTo("@n/j");
    assertThat(facts.facets()).isEmpty();
    assertThat(facts.lineage().inputs().toString()).contains("c").doesNotContain("a", "b");
  }

  @Test
  void the_check_warns_of_what_the_reading_notes() throws Exception {
    byte[] event = bytes(HEAD + JOB + "," + JOB + "}");
    assertThat(EventReader.check(event, RECEIVED))
        .isEqualTo(EventReader.read(event, RECEIVED).warnings())
        .hasSize(1);
    assertThat(EventReader.check(bytes(HEAD + JOB + "}"), RECEIVED)).isEmpty();
  }

  @Test
  void a_time_far_ahead_is_warned_of_with_the_time() throws Exception {
    String event = HEAD.replace("2026-05-01T00:00:00Z", "2031-05-01T00:00:00Z") + JOB + "}";
    assertThat(EventReader.check(bytes(event), RECEIVED))
        .singleElement()
        .satisfies(warning -> assertThat(warning.problem()).isEqualTo("far-future"))
        .satisfies(warning -> assertThat(warning.detail()).contains("2031-05-01T00:00:00Z"));
  }

  @ParameterizedTest
  @ValueSource(
      strings = {
        "{'a':1,'a':2", // never closed
        "{'a':1,'a':2} {}", // followed by more
        "{'a':1,'a':01}", // no number of JSON
        "{'a':1,'a':NaN}",
        "{'a':1,'a':'\\x'}",
        "{'a':1,'a':2,}",
      })
  void what_else_is_no_json_stays_refused(String event) {
    assertThatThrownBy(() -> read(event))
        .isInstanceOfSatisfying(
            UnreadableEventException.class, e -> assertThat(e.problem()).isEqualTo("not-json"));
  }

  @Test
  void the_required_members_are_asked_of_the_last_value() {
    for (String event :
        List.of(
            HEAD + RUN + "}," + JOB + ",'run':{'facets':{}}}",
            HEAD + JOB + ",'job':{'namespace':'n'}}")) {
      assertThatThrownBy(() -> read(event))
          .isInstanceOfSatisfying(
              UnreadableEventException.class,
              e -> assertThat(e.problem()).isEqualTo("missing-member"));
    }
  }
}
