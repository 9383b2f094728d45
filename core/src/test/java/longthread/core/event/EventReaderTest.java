package longthread.core.event;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.stream.Collectors;
import longthread.core.lineage.LineageText;
import longthread.core.lineage.ReportedLineage;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class EventReaderTest {
  private static final Instant RECEIVED = Instant.parse("2031-05-01T00:00:10Z");
  private static final String HEAD =
      "'eventTime':'2031-05-01T00:00:00.123456789+02:00','producer':'https://x.example','schemaURL':'https://x.example/s'";
  private static final String RUN =
      HEAD
          + ",'run':{'runId':'01910000-0000-7000-8000-000000002501'},'job':{'namespace':'n','name':'j'}";

  private static EventFacts read(String event) throws UnreadableEventException {
    return EventReader.read(event.replace('\'', '"').getBytes(StandardCharsets.UTF_8), RECEIVED);
  }

  private static String links(EventFacts facts) {
    return links(facts.lineage());
  }

  private static String links(ReportedLineage lineage) {
    return lineage.links().stream()
        .map(
            l ->
                l.from().reference()
                    + " "
                    + l.flow()
                    + (l.masking() ? "!" : "")
                    + " "
                    + l.to().reference())
        .collect(Collectors.joining("\n"));
  }

  @Test
  void the_smallest_events_of_each_type_are_read() throws UnreadableEventException {
    assertThat(read("{" + RUN + "}").run()).isPresent();
    EventFacts job =
        read(
            "{"
                + HEAD
                + ",'job':{'namespace':'n','name':'j'},'outputs':[{'namespace':'n','name':'d'}]}");
    assertThat(job.run()).isEmpty();
    assertThat(job.lineage().outputs()).hasSize(1);
    assertThat(read("{" + HEAD + ",'dataset':{'namespace':'n','name':'d'}}").dataset()).isNotNull();
  }

  @Test
  void times_are_kept_to_the_nanosecond_whatever_their_offset() throws UnreadableEventException {
    assertThat(read("{" + RUN + "}").at().at())
        .isEqualTo(Instant.parse("2031-04-30T22:00:00.123456789Z"));
  }

  @Test
  void a_time_more_than_a_day_ahead_is_marked() throws UnreadableEventException {
    String event = ("{" + RUN + "}").replace("2031-05-01", "2031-05-03");
    assertThat(read(event).at().farFuture()).isTrue();
    assertThat(read("{" + RUN + "}").at().farFuture()).isFalse();
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      quoteCharacter = '^',
      value = {
        "not json at all|not-json",
        "[1]|not-an-object",
        "{'producer':'p','schemaURL':'s','job':{'namespace':'n','name':'j'}}|missing-member",
        "{'eventTime':'yesterday','producer':'p','schemaURL':'s'}|bad-time",
        "{'eventTime':'2031-05-01T00:00:00','producer':'p','schemaURL':'s'}|bad-time",
        "{'eventTime':7,'producer':'p','schemaURL':'s'}|wrong-type",
        "{HEAD}|missing-member",
        "{HEAD,'run':{'runId':'7'},'job':{'namespace':'n','name':'j'}}|bad-uuid",
        "{HEAD,'run':{'runId':'01910000-0000-7000-8000-000000002501'}}|missing-member",
        "{HEAD,'job':{'namespace':'n'}}|missing-member",
        "{HEAD,'job':{'namespace':'','name':'j'}}|bad-name",
        "{HEAD,'job':{'namespace':'n','name':'j'},'inputs':{}}|wrong-type",
        "{HEAD,'job':{'namespace':'n','name':'j'},'inputs':[7]}|wrong-type",
        "{HEAD,'job':{'namespace':'n','name':'j','facets':[]}}|wrong-type",
      })
  void what_cannot_be_read_is_refused_with_its_reason(String event, String problem) {
    var refusal =
        catchThrowableOfType(
            UnreadableEventException.class, () -> read(event.replace("HEAD", HEAD)));
    assertThat(refusal.problem()).isEqualTo(problem);
    assertThat(refusal.reason()).isNotBlank();
  }

  @Test
  void bytes_that_are_not_utf8_and_nesting_without_end_are_refused() {
    var notUtf8 =
        catchThrowableOfType(
            UnreadableEventException.class,
            () -> EventReader.read(new byte[] {'{', (byte) 0xff, '}'}, RECEIVED));
    assertThat(notUtf8.problem()).isEqualTo("not-utf-8");
    var deep =
        catchThrowableOfType(
            UnreadableEventException.class,
            () -> read("{" + RUN + ",'x':" + "[".repeat(5_000) + "]".repeat(5_000) + "}"));
    assertThat(deep.problem()).isEqualTo("too-deep");
  }

  @Test
  void names_and_facet_keys_too_long_to_be_kept_are_refused() {
    String name = "x".repeat(1_990);
    var longName =
        catchThrowableOfType(
            UnreadableEventException.class,
            () -> read("{" + HEAD + ",'job':{'namespace':'" + name + "','name':'" + name + "'}}"));
    assertThat(longName.problem()).isEqualTo("bad-name");
    var longKey =
        catchThrowableOfType(
            UnreadableEventException.class,
            () ->
                read(
                    "{"
                        + HEAD
                        + ",'job':{'namespace':'n','name':'j','facets':{'"
                        + name
                        + "':{}}}}"));
    assertThat(longKey.reason()).contains("job.facets");
  }

  @Test
  void a_column_map_becomes_links_with_its_indirect_inputs_folded_to_the_rows()
      throws UnreadableEventException {
    String indirect =
        "{'namespace':'n','name':'a','field':'k','transformations':[{'type':'INDIRECT','subtype':'JOIN'}]}";
    EventFacts facts =
        read(
            "{"
                + RUN
                + ",'outputs':[{'namespace':'n','name':'b','facets':{'columnLineage':{'fields':{"
                + "'x':{'inputFields':[{'namespace':'n','name':'a','field':'v','transformations':"
                + "[{'type':'DIRECT','subtype':'AGGREGATION','masking':true}]},"
                + indirect
                + "]},'y':{'inputFields':["
                + indirect
                + "]}}}}}]}");
    assertThat(links(facts))
        .isEqualTo(
            "n/a#* ROWS n/b#*\nn/a#k JOIN n/b#*\nn/a#* ROWS_TO_VALUE n/b#x\nn/a#v AGGREGATION! n/b#x");
    assertThat(facts.lineage().described()).hasSize(2);
    assertThat(facts.lineage().inputs()).as("an input though the event lists none").hasSize(1);
  }

  @Test
  void the_older_style_without_transformations_is_read_too() throws UnreadableEventException {
    String old =
        "{"
            + RUN
            + ",'outputs':[{'namespace':'n','name':'b','facets':{'columnLineage':{'fields':{"
            + "'x':{'inputFields':[{'namespace':'n','name':'a','field':'v'}],'transformationType':'KIND'}}}}}]}";
    assertThat(links(read(old.replace("KIND", "IDENTITY")))).contains("n/a#v IDENTITY n/b#x");
    assertThat(links(read(old.replace("KIND", "MASKED")))).contains("n/a#v TRANSFORMATION! n/b#x");
    assertThat(links(read(old.replace("KIND", "")))).contains("n/a#v DIRECT n/b#x");
  }

  @Test
  void without_a_column_map_the_link_is_coarse_and_with_one_an_unused_input_is_only_read()
      throws UnreadableEventException {
    String lists =
        ",'inputs':[{'namespace':'n','name':'a'},{'namespace':'n','name':'c'}],'outputs':[{'namespace':'n','name':'b'FACETS}]}";
    assertThat(links(read("{" + RUN + lists.replace("FACETS", ""))))
        .isEqualTo("n/a#* COARSE n/b#*\nn/c#* COARSE n/b#*");
    String map =
        ",'facets':{'columnLineage':{'fields':{'x':{'inputFields':[{'namespace':'n','name':'a','field':'v'}]}}}}";
    assertThat(links(read("{" + RUN + lists.replace("FACETS", map))))
        .contains("n/c#* READS n/b#*")
        .doesNotContain("COARSE");
  }

  @Test
  void what_a_report_holds_becomes_containment() throws UnreadableEventException {
    EventFacts facts =
        read(
            "{"
                + HEAD
                + ",'dataset':{'namespace':'n','name':'w/report/r','facets':{'longthread_holds':{'items':"
                + "[{'namespace':'n','name':'w/chart/c','fields':['f']}]}}}}");
    assertThat(facts.lineage().isEmpty()).as("no job states it").isTrue();
    assertThat(links(facts.declared().get(facts.dataset()).lineage()))
        .isEqualTo("n/w/chart/c#* HOLDS n/w/report/r#*\nn/w/chart/c#f HOLDS n/w/report/r#c.f");
  }

  @Test
  void equal_values_have_equal_digests_whatever_the_order_of_members()
      throws UnreadableEventException {
    String event = "{" + RUN.replace("'name':'j'", "'name':'j','facets':{'f':FACET}") + "}";
    String one = read(event.replace("FACET", "{'a':1.50,'b':[1,2]}")).facets().get(0).digest();
    String same = read(event.replace("FACET", "{'b':[1,2],'a':1.50}")).facets().get(0).digest();
    String other = read(event.replace("FACET", "{'b':[1,2],'a':1.5}")).facets().get(0).digest();
    assertThat(one).isEqualTo(same).isNotEqualTo(other);
  }

  @Test
  void a_shape_reads_back_from_its_text() throws UnreadableEventException {
    EventFacts facts =
        read(
            "{"
                + RUN
                + ",'inputs':[{'namespace':'n','name':'a'}],'outputs':[{'namespace':'n','name':'b','facets':"
                + "{'columnLineage':{'fields':{'s.x':{'inputFields':[{'namespace':'n','name':'a','field':'v'}]}}}}}]}");
    assertThat(LineageText.read(facts.reported().text())).isEqualTo(facts.lineage());
  }
}
