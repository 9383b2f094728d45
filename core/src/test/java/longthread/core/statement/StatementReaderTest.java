package longthread.core.statement;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.catchThrowableOfType;

import java.time.Instant;
import longthread.core.event.EventFacts;
import longthread.core.event.UnreadableEventException;
import longthread.core.json.CanonicalJson;
import longthread.core.workspace.LogEntry;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class StatementReaderTest {
  private static final Instant NOW = Instant.parse("2031-05-01T02:00:00Z");

  private static String text(String changes) {
    return ("{'format':'longthread-statement/1','id':'s1','at':'2031-05-01T01:00:00Z','by':'ada',"
            + "'reason':'why','changes':["
            + changes
            + "]}")
        .replace('\'', '"');
  }

  private static Statement read(String changes) throws BadStatementException {
    return StatementReader.read(CanonicalJson.MAPPER.readTree(text(changes)));
  }

  @Test
  void a_change_of_a_column_is_a_facet_of_its_dataset() throws BadStatementException {
    Statement.Change change =
        read("{'set':'tags','of':'n/t#a.b','value':['personal']}").changes().get(0);
    assertThat(change.of()).isEqualTo("n/t");
    assertThat(change.key()).isEqualTo("hand:tags#a.b");
  }

  @Test
  void a_notice_and_a_followed_thread_are_registered_under_their_ids()
      throws BadStatementException {
    Statement.Change notice =
        read("{'set':'notice','id':'n1','value':{'on':'n/t#a','level':'stop','text':'odd'}}")
            .changes()
            .get(0);
    assertThat(notice.of()).isEqualTo("longthread.catalog/notice/n1");
    assertThat(notice.key()).isEqualTo("hand:notice");
    Statement.Change followed =
        read("{'set':'followed','id':'f1','value':{'from':'n/a','to':'n/b','hops':['copied']}}")
            .changes()
            .get(0);
    assertThat(followed.of()).isEqualTo("longthread.catalog/followed/f1");
  }

  @ParameterizedTest
  @CsvSource(
      quoteCharacter = '"',
      value = {
        "level, \"{'on':'n/t','level':'loud','text':'x'}\"",
        "text, \"{'on':'n/t','level':'info','text':' '}\"",
        "on, \"{'on':'nothing','level':'info','text':'x'}\"",
        "until, \"{'on':'n/t','level':'info','text':'x','until':'soon'}\"",
        "ticket, \"{'on':'n/t','level':'info','text':'x','ticket':'javascript:x'}\"",
        "other, \"{'on':'n/t','level':'info','text':'x','other':1}\""
      })
  void a_notice_that_cannot_be_read_says_which_member_is_wrong(String member, String value) {
    var refused =
        catchThrowableOfType(
            BadStatementException.class,
            () -> read("{'set':'notice','id':'n1','value':" + value + "}"));
    assertThat(refused.faults())
        .extracting(BadStatementException.Fault::pointer)
        .contains("/changes/0/value/" + member);
  }

  @Test
  void a_statement_in_the_log_reads_as_facts_with_who_and_why() throws UnreadableEventException {
    byte[] bytes = text("{'set':'owners','of':'@n/j','value':null}").getBytes();
    EventFacts facts = LogEntry.read(bytes, NOW).get(0);
    assertThat(facts.type()).isEqualTo("STATEMENT");
    assertThat(facts.by()).isEqualTo("ada");
    assertThat(facts.facets().get(0).value().has("value")).isFalse();
    assertThat(facts.facets().get(0).value().path("reason").stringValue()).isEqualTo("why");
  }

  @Test
  void a_program_that_sends_one_is_told_where_it_goes() {
    var refused =
        catchThrowableOfType(
            UnreadableEventException.class,
            () -> LogEntry.check(text("{'set':'lead','of':'n/t','value':true}").getBytes(), NOW));
    assertThat(refused.problem()).isEqualTo("statement");
  }

  @ParameterizedTest
  @CsvSource(
      delimiter = '|',
      quoteCharacter = '~',
      value = {
        "{'set':'x','of':'n/t'}|/changes/0/set",
        "{'set':'owners','of':'n/t#c','value':['a']}|/changes/0/of",
        "{'set':'owners','of':'t','value':['a']}|/changes/0/of",
        "{'set':'tags','of':'n/t','value':'a'}|/changes/0/value",
        "{'set':'tags','of':'longthread.catalog/term/x','value':['a']}|/changes/0/of",
        "{'set':'description','of':'n/t','value':' '}|/changes/0/value",
        "{'set':'join','of':'n/t','with':'n/t','value':'one'}|/changes/0/with",
        "{'set':'join','of':'n/t','with':'n/u','value':'same'}|/changes/0/value",
        "{'set':'recorded','id':'r','of':'n/t','value':{'since':'2031-05-01T00:00:00Z'}}|/changes/0/value",
        "{'set':'recorded','id':'r','of':'n/t','value':{'since':'x','reads':['n/a']}}|/changes/0/value/since",
        "{'set':'recorded','id':'r','of':'n/t','value':{'since':'2031-05-01T00:00:00Z','columns':[{'from':'n/a#x','to':'n/t#y','flow':'filter'}]}}|/changes/0/value/columns/0/flow",
        "{'set':'rule','id':'r','value':{'rule':'(a => b'}}|/changes/0/value/rule",
        "{'set':'term','id':'t','value':{'name':'x','colour':'red'}}|/changes/0/value/colour",
      })
  void a_fault_is_named_with_its_place(String change, String pointer) {
    var bad = catchThrowableOfType(BadStatementException.class, () -> read(change));
    assertThat(bad.faults()).extracting(BadStatementException.Fault::pointer).contains(pointer);
  }
}
