package longthread.core.event;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import java.util.stream.Collectors;
import longthread.core.lineage.ReportedLineage;
import org.junit.jupiter.api.Test;

/** The check before an event is accepted, the reading after it, and the memory in between. */
class CheckAndReadTest {
  private static final Instant RECEIVED = Instant.parse("2031-05-01T00:00:10Z");
  private static final String HEAD =
      "{'eventTime':'2031-05-01T00:00:00Z','producer':'p','schemaURL':'s',";

  private static byte[] bytes(String event) {
    return event.replace('\'', '"').getBytes(StandardCharsets.UTF_8);
  }

  private static String problem(byte[] event, boolean check) {
    try {
      if (check) {
        EventReader.check(event, RECEIVED);
      } else {
        EventReader.read(event, RECEIVED);
      }
      return "fine";
    } catch (UnreadableEventException e) {
      return e.problem();
    }
  }

  private static final List<String> EVENTS =
      List.of(
          HEAD
              + "'job':{'namespace':'n','name':'j','facets':{'a':{'x':[1,2.50,{}]},'b':7,'c':'t'}}}",
          HEAD
              + "'run':{'runId':'01910000-0000-7000-8000-000000002501','facets':{'parent':{'run':{'runId':'x'},'job':{'namespace':'','name':''}}}},"
              + "'job':{'namespace':'n','name':'j'},'inputs':[{'namespace':'n','name':'a','inputFacets':{'s':{}}}],"
              + "'outputs':[{'namespace':'n','name':'b','facets':{'columnLineage':{'fields':{'x':{'inputFields':[{'namespace':'','name':'','field':'v'}]}}}}}]}",
          HEAD
              + "'dataset':{'namespace':'n','name':'ü \\u0000 name','facets':{'symlinks':{'identifiers':[{'namespace':'q','name':'\\ud800'}]}}}}");

  /** An event is cut, doubled and changed at random: both must come to the same end. */
  @Test
  void whatever_is_accepted_can_be_read_and_whatever_is_refused_cannot() {
    var random = new Random(3);
    int fine = 0;
    for (int round = 0; round < 6_000; round++) {
      byte[] event = bytes(EVENTS.get(round % EVENTS.size())).clone();
      for (int changes = random.nextInt(3); changes > 0; changes--) {
        event[random.nextInt(event.length)] = bytes("{}[],:'x01\\n")[random.nextInt(11)];
      }
      String checked = problem(event, true);
      assertThat(problem(event, false))
          .as(new String(event, StandardCharsets.UTF_8))
          .isEqualTo(checked);
      fine += checked.equals("fine") ? 1 : 0;
    }
    assertThat(fine).isBetween(500, 5_500);
  }

  @Test
  void what_is_remembered_reads_as_what_is_read_for_the_first_time()
      throws UnreadableEventException {
    var tiny = new FacetMemory(40); // it forgets nearly all at once
    var large = new FacetMemory(1 << 20);
    var random = new Random(4);
    for (int round = 0; round < 300; round++) {
      byte[] event = bytes(EVENTS.get(random.nextInt(EVENTS.size())));
      EventFacts fresh = EventReader.read(event, RECEIVED);
      assertThat(EventReader.read(event, RECEIVED, tiny)).isEqualTo(fresh);
      assertThat(EventReader.read(event, RECEIVED, large)).isEqualTo(fresh);
    }
  }

  @Test
  void a_name_in_a_lineage_facet_that_cannot_be_kept_costs_its_entry_alone()
      throws UnreadableEventException {
    String entry = "{'namespace':'n','name':'NAME','field':'v'}";
    EventFacts facts =
        EventReader.read(
            bytes(
                HEAD
                    + "'job':{'namespace':'n','name':'j'},'outputs':[{'namespace':'n','name':'b','facets':"
                    + "{'columnLineage':{'fields':{'x':{'inputFields':["
                    + entry.replace("NAME", "good")
                    + ","
                    + entry.replace("NAME", "x".repeat(3_000))
                    + "]}}}}}]}"),
            RECEIVED);
    assertThat(facts.lineage().inputs()).hasSize(1);
    assertThat(facts.lineage().gap()).as("the map is known to be incomplete").isTrue();
  }

  @Test
  void more_columns_than_can_be_kept_are_refused_with_a_word_of_their_own() {
    var fields = new ArrayList<String>();
    for (int i = 0; i <= EventReader.MAX_COLUMNS; i++) {
      fields.add("{'name':'c" + i + "'}");
    }
    String event =
        HEAD
            + "'dataset':{'namespace':'n','name':'wide','facets':{'schema':{'fields':["
            + String.join(",", fields)
            + "]}}}}";
    assertThat(problem(bytes(event), true)).isEqualTo("too-many-columns");
  }

  @Test
  void text_in_another_encoding_is_refused_and_never_misread() {
    String event = HEAD.replace('\'', '"') + "\"job\":{\"namespace\":\"n\",\"name\":\"j\"}}";
    assertThat(problem(event.getBytes(StandardCharsets.UTF_16LE), true)).isEqualTo("not-utf-8");
    assertThat(problem(event.getBytes(StandardCharsets.UTF_16), true)).isEqualTo("not-utf-8");
    assertThat(problem((event + "{}").getBytes(StandardCharsets.UTF_8), true))
        .isEqualTo("not-json");
  }

  private static String links(ReportedLineage lineage) {
    return lineage.links().stream()
        .map(l -> l.from().reference() + " " + l.flow() + " " + l.to().reference())
        .collect(Collectors.joining("\n"));
  }

  @Test
  void the_newer_lineage_facet_of_an_output_names_the_inputs_that_feed_it()
      throws UnreadableEventException {
    EventFacts facts =
        EventReader.read(
            bytes(
                HEAD
                    + "'job':{'namespace':'n','name':'j'},"
                    + "'inputs':[{'namespace':'n','name':'a'},{'namespace':'n','name':'c'}],"
                    + "'outputs':[{'namespace':'n','name':'b','facets':{'lineage':{'inputs':["
                    + "{'namespace':'n','name':'a','type':'DATASET'}],'fields':{'x':{'inputs':["
                    + "{'namespace':'n','name':'a','type':'DATASET','field':'v','transformations':[{'type':'DIRECT','subtype':'IDENTITY'}]},"
                    + "{'namespace':'n','name':'a','type':'DATASET'}]}}}}}]}"),
            RECEIVED);
    assertThat(links(facts.lineage()))
        .isEqualTo(
            "n/a#* ROWS n/b#*\nn/a#* COARSE n/b#*\nn/a#* ROWS_TO_VALUE n/b#x\nn/a#v IDENTITY n/b#x");
  }

  @Test
  void an_input_that_tells_its_own_sources_does_not_become_an_output()
      throws UnreadableEventException {
    EventFacts facts =
        EventReader.read(
            bytes(
                HEAD
                    + "'job':{'namespace':'n','name':'j'},'inputs':[{'namespace':'n','name':'view','facets':"
                    + "{'lineage':{'inputs':[{'namespace':'n','name':'base','type':'DATASET'}]}}}],"
                    + "'outputs':[{'namespace':'n','name':'out'}]}"),
            RECEIVED);
    assertThat(facts.lineage().outputs()).hasSize(1);
    assertThat(links(facts.declared().values().iterator().next().lineage()))
        .isEqualTo("n/base#* COARSE n/view#*");
  }

  @Test
  void a_rename_is_a_fact_of_its_own_unless_it_lies_in_the_far_future()
      throws UnreadableEventException {
    String event =
        HEAD
            + "'dataset':{'namespace':'n','name':'new','facets':{'lifecycleStateChange':{'lifecycleStateChange':'RENAME','previousIdentifier':{'namespace':'n','name':'old'}}}}}";
    EventFacts facts = EventReader.read(bytes(event), RECEIVED);
    assertThat(facts.renames()).hasSize(1);
    assertThat(facts.datasets()).hasSize(2);
    String far = event.replace("2031-05-01", "2999-05-01");
    assertThat(EventReader.read(bytes(far), RECEIVED).renames()).isEmpty();
  }

  @Test
  void a_time_read_the_short_way_is_what_the_general_reader_says() {
    var random = new Random(5);
    for (int round = 0; round < 4_000; round++) {
      Instant at =
          Instant.ofEpochSecond(
              random.nextInt(), random.nextInt(3) == 0 ? 0 : random.nextInt(1_000_000_000));
      String text = at.toString();
      if (random.nextInt(3) == 0) { // damaged, or spelled another way
        var spoiled = new StringBuilder(text);
        spoiled.setCharAt(random.nextInt(text.length()), "0189-:TZ.+ x".charAt(random.nextInt(12)));
        text = spoiled.toString();
      }
      Instant general = null;
      try {
        general = java.time.OffsetDateTime.parse(text).toInstant();
      } catch (java.time.DateTimeException e) {
        // refused
      }
      Instant plain = null;
      try {
        plain = TimeReader.plainTime(text);
      } catch (java.time.DateTimeException e) {
        assertThat(general).as(text).isNull();
      }
      if (plain != null) {
        assertThat(plain).as(text).isEqualTo(general);
      }
    }
    assertThat(TimeReader.plainTime("2031-05-01T00:00:00Z")).isNotNull();
    assertThat(TimeReader.plainTime("2031-05-01T00:00:00.120000001Z")).isNotNull();
    assertThat(TimeReader.plainTime("2031-05-01T00:00:00+00:00")).isNull();
  }
}
