package longthread.client;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.zip.GZIPOutputStream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

/** The commands against a server that answers as set, so that each answer can be a rare one. */
class CommandsTest extends AgainstServer {
  @Test
  void a_reference_travels_whole_in_the_query_with_the_key() {
    answer = "{\"hops\":[],\"basis\":\"assets\"}";
    run("thread", "postgres://h:1/a.b#c d", "@n/j");
    assertThat(asked.get(0).line())
        .contains("from=postgres%3A%2F%2Fh%3A1%2Fa.b%23c+d")
        .contains("to=%40n%2Fj");
    assertThat(asked.get(0).key()).isEqualTo("Bearer lt_key");
  }

  @ParameterizedTest
  @CsvSource({"404, 3", "409, 4", "400, 4", "401, 4", "403, 4", "410, 4", "500, 4", "503, 4"})
  void a_refusal_prints_its_detail_on_standard_error_and_has_its_exit_code(int given, int code) {
    status = given;
    answer = "{\"type\":\"/problems/x\",\"detail\":\"do this instead\"}";
    Said said = run("find", "x");
    assertThat(said.code()).isEqualTo(code);
    assertThat(said.err()).isEqualTo("longthread: do this instead" + System.lineSeparator());
    assertThat(said.out()).isEmpty();
  }

  @Test
  void a_name_in_doubt_has_the_exit_code_of_an_unknown_one() {
    status = 409;
    answer = "{\"type\":\"/problems/x\",\"detail\":\"which?\",\"candidates\":[\"a\",\"b\"]}";
    assertThat(run("find", "x").code()).isEqualTo(3);
  }

  @Test
  void an_answer_that_is_not_the_services_is_reported_as_such() {
    answer = "<html>proxy</html>";
    assertThat(run("find", "x").err()).contains("is not this service");
    status = 502;
    assertThat(run("find", "x").err()).contains("502");
  }

  @Test
  void json_is_passed_on_whole() {
    answer = "{\"hits\":[],\"total\":0,\"novelty\":{\"deep\":1}}";
    assertThat(run("find", "x", "--json").out()).contains("\"novelty\"").contains("\"deep\"");
  }

  @Test
  void nothing_found_says_so_and_is_no_failure() {
    answer = "{\"hits\":[],\"total\":0}";
    Said said = run("find", "x");
    assertThat(said.code()).isZero();
    assertThat(said.err()).contains("nothing matches");
  }

  @Test
  void impact_fails_only_on_the_verdict_asked_for() {
    answer =
        "{\"of\":\"n/a\",\"change\":\"drop\",\"summary\":{\"verdicts\":{\"breaks\":0,\"goes-stale\":2}},"
            + "\"items\":[],\"untouched\":{\"count\":0,\"certain\":0,\"items\":[]}}";
    assertThat(run("impact", "a", "--fail-on", "breaks").code()).isZero();
    assertThat(run("impact", "a", "--fail-on", "goes-stale").code()).isEqualTo(1);
  }

  @Test
  void possible_verdicts_are_marked() {
    answer =
        "{\"of\":\"n/a\",\"change\":\"drop\",\"summary\":{\"verdicts\":{}},\"items\":[{\"ref\":\"n/b\",\"kind\":\"table\","
            + "\"name\":\"b\",\"verdict\":\"breaks\",\"certainty\":\"possible\",\"hops\":1,\"owners\":[],\"columns\":[],\"thread\":[]}],"
            + "\"untouched\":{\"count\":0,\"certain\":0,\"items\":[]}}";
    assertThat(run("impact", "a").out()).contains("breaks (possible)");
  }

  @Test
  void a_thread_is_indented_step_by_step() {
    answer =
        "{\"basis\":\"decides\",\"reversed\":true,\"to\":\"n/c\",\"hops\":["
            + "{\"from\":\"n/a#k\",\"to\":\"n/b\",\"flow\":\"GROUP_BY\",\"how\":\"decides (group by)\",\"job\":\"@n/j\"},"
            + "{\"from\":\"n/b\",\"to\":\"n/c\",\"flow\":\"TRANSFORMATION\",\"how\":\"computed\",\"masking\":true}]}";
    Said said = run("thread", "c", "a");
    assertThat(said.out())
        .startsWith(
            "n/a#k\n  └ decides (group by), via @n/j\n    n/b\n    └ computed, masked\n      n/c\n");
    assertThat(said.out()).contains("No value travels all the way");
    assertThat(said.err()).contains("the data flows the other way");
  }

  @Test
  void files_are_sent_in_batches_and_refusals_named_by_file_and_line(@TempDir Path folder)
      throws IOException {
    answer =
        "{\"received\":2,\"accepted\":1,\"duplicates\":0,\"refused\":[{\"index\":1,\"reason\":\"why\",\"problem\":\"p\"}],\"receipt\":\"7\"}";
    Path file = Files.writeString(folder.resolve("e.ndjson"), "{}\n\n{}\n{}\n{}");
    Said said = run("send", "--batch", "2", file.toString());
    assertThat(asked).extracting(Asked::body).containsExactly("{}\n\n{}\n", "{}\n{}");
    assertThat(said.err()).contains("e.ndjson:3: why").contains("e.ndjson:5: why");
    assertThat(said.out()).contains("4 received, 2 accepted");
  }

  @Test
  void packed_files_and_arrays_are_sent_as_they_are(@TempDir Path folder) throws IOException {
    answer = "{\"received\":1,\"accepted\":1,\"duplicates\":1,\"refused\":[],\"receipt\":\"7\"}";
    var packed = new ByteArrayOutputStream();
    try (var gzip = new GZIPOutputStream(packed)) {
      gzip.write("{\"a\":1}\n".getBytes(StandardCharsets.UTF_8));
    }
    Path zipped = Files.write(folder.resolve("e.gz"), packed.toByteArray());
    Path array = Files.writeString(folder.resolve("e.json"), "\n [ {\"a\":1},\n{\"b\":2} ]");
    assertThat(run("send", zipped.toString(), array.toString(), "--json").code()).isZero();
    assertThat(asked)
        .extracting(Asked::body)
        .containsExactly("{\"a\":1}\n", "[ {\"a\":1},\n{\"b\":2} ]");
  }

  @Test
  void keys_are_made_listed_and_revoked() {
    answer = "{\"name\":\"k\",\"role\":\"emitter\",\"token\":\"lt_new\"}";
    assertThat(run("key", "make", "k", "--role", "emitter").out().strip()).isEqualTo("lt_new");
    assertThat(asked.get(0).body()).contains("\"role\":\"emitter\"");
    answer = "";
    assertThat(run("key", "revoke", "a b").code()).isZero();
    assertThat(asked.get(1).line()).isEqualTo("DELETE /api/v1/keys/a%20b");
    assertThat(run("key", "revoke", "--id", "7").code()).isZero();
    assertThat(asked.get(2).line()).isEqualTo("DELETE /api/v1/keys?id=7");
    assertThat(run("key", "revoke").code()).isEqualTo(2);
    assertThat(run("key", "revoke", "a", "--id", "7").code()).isEqualTo(2);
    assertThat(run("key").out()).contains("make").contains("revoke");
  }

  @Test
  void missing_words_are_wrong_usage() {
    assertThat(run("thread", "only-one").code()).isEqualTo(2);
    assertThat(run("find", "--nonsense").code()).isEqualTo(2);
    assertThat(run("runs", "--limit", "many").code()).isEqualTo(2);
    assertThat(asked).isEmpty();
  }

  @Test
  void what_is_busy_is_tried_again_and_a_resumed_file_goes_on_where_it_stood(@TempDir Path folder)
      throws IOException {
    Path file = Files.writeString(folder.resolve("large.ndjson"), "{}\n{}\n{}\n");
    answer = "{\"received\":2,\"accepted\":2,\"duplicates\":0,\"refused\":[],\"receipt\":\"1\"}";
    String state = System.getProperty("user.home");
    System.setProperty("user.home", folder.toString());
    try {
      failAfter = 1; // the second batch meets a service that refuses for good
      assertThat(run("send", "--resume", "--batch", "2", file.toString()).code()).isEqualTo(4);
      failAfter = Integer.MAX_VALUE;
      asked.clear();
      Said again = run("send", "--resume", "--batch", "2", file.toString());
      assertThat(again.err()).contains("resuming at line 3");
      assertThat(asked).hasSize(1);
      asked.clear();
      run("send", "--resume", "--batch", "2", file.toString());
      assertThat(asked).as("through, so it starts anew").hasSize(2);
    } finally {
      System.setProperty("user.home", state);
    }
  }

  @Test
  void the_intake_is_watched_for_as_long_as_asked() {
    answer =
        "{\"recent\":[{\"id\":\"2.0\",\"type\":\"FAIL\",\"about\":\"@n/j\",\"changed\":[\"version 2\"]},"
            + "{\"id\":\"1.0\",\"type\":\"START\",\"about\":\"@n/j\",\"changed\":[]}],\"waiting\":0}";
    Said said = run("intake", "--watch", "--for", "1");
    assertThat(said.out().indexOf("START")).isLessThan(said.out().indexOf("FAIL"));
    assertThat(said.out()).containsOnlyOnce("version 2");
  }

  @Test
  void retrying_takes_numbers_or_all_and_tells_what_is_refused_still() {
    assertThat(run("intake", "retry").code()).isEqualTo(2);
    answer =
        "{\"tried\":2,\"accepted\":1,\"refused\":[{\"id\":7,\"problem\":\"bad-time\",\"reason\":\"write an offset\"}]}";
    Said said = run("intake", "retry", "--all");
    assertThat(said.code()).isEqualTo(1);
    assertThat(said.out()).contains("1 of 2 accepted now");
    assertThat(said.err()).contains("7: write an offset");
  }

  @Test
  void folding_history_and_emitters_are_printed_as_tables() {
    answer =
        "{\"name\":\"n/a/day=1\",\"folds\":true,\"whole\":\"n/a\",\"part\":\"day=1\",\"rule\":\"partition-directory\"}";
    assertThat(run("fold", "n/a/day=1").out()).contains("n/a").contains("partition-directory");
    answer =
        "{\"changes\":[{\"at\":\"2031-05-01T00:00:00Z\",\"kind\":\"schema\",\"words\":[\"column d is new\"]}]}";
    assertThat(run("history", "a").out()).contains("column d is new");
    answer =
        "{\"overdue\":1,\"emitters\":[{\"namespace\":\"night\",\"producer\":\"p\",\"overdueSince\":\"2031-05-01T00:00:00Z\"}]}";
    Said emitters = run("intake", "emitters", "--fail-on", "overdue");
    assertThat(emitters.code()).isEqualTo(1);
    assertThat(emitters.out()).contains("overdue since");
  }

  @Test
  void a_rebuild_that_differs_lists_the_differences_as_a_finding() {
    answer =
        "{\"state\":\"differs\",\"events\":3,\"carried\":0,\"differences\":[\"- (card,n/a)\"],\"unreadable\":[]}";
    Said said = run("rebuild");
    assertThat(said.code()).isEqualTo(1);
    assertThat(said.err()).contains("- (card,n/a)");
    answer = answer.replace("differs", "switched");
    assertThat(run("rebuild", "--accept").code()).isZero();
    assertThat(asked.get(asked.size() - 2).line()).isEqualTo("POST /api/v1/rebuild?accept=true");
  }

  @ParameterizedTest
  @CsvSource({
    "impact a --fail-on break, breaks",
    "impact a --change dorp, drop",
    "impact a --kind tabel, table",
    "causes a --fail-on suspects, suspect",
    "runs --state failing, failed",
    "upstream a --detail column, columns",
    "sql x.sql --dialect mine, ansi",
    "key make k --role owner, reader",
    "intake emitters --fail-on silent, overdue"
  })
  void a_wrong_word_of_a_closed_list_is_wrong_usage_with_the_right_ones(String line, String near) {
    Said said = run(line.split(" "));
    assertThat(said.code()).isEqualTo(2);
    assertThat(said.err()).contains("Unknown word").contains(near);
    assertThat(asked).as("the service is not called").isEmpty();
  }

  @Test
  void several_words_fail_on_any_of_them() {
    answer =
        "{\"of\":\"n/a\",\"change\":\"drop\",\"summary\":{\"verdicts\":{\"goes-stale\":1}},"
            + "\"items\":[],\"untouched\":{\"count\":0,\"certain\":0,\"items\":[]}}";
    assertThat(run("impact", "a", "--fail-on", "breaks,goes-stale").code()).isEqualTo(1);
    assertThat(run("impact", "a", "--fail-on", "breaks,rows-shift").code()).isZero();
  }

  @Test
  void verdicts_are_printed_as_words_and_passed_on_as_they_are() {
    answer =
        "{\"of\":\"n/a\",\"change\":\"delay\",\"summary\":{\"verdicts\":{\"goes-stale\":1}},\"items\":[{\"ref\":\"n/b\","
            + "\"kind\":\"table\",\"name\":\"b\",\"verdict\":\"goes-stale\",\"certainty\":\"certain\",\"hops\":1}],"
            + "\"untouched\":{\"count\":0,\"certain\":0,\"items\":[]}}";
    assertThat(run("impact", "a").out()).contains("goes stale").doesNotContain("goes-stale");
    assertThat(run("impact", "a", "--json").out()).contains("goes-stale");
  }

  @Test
  void an_asset_is_shown_with_what_is_known_and_a_dash_for_what_is_not() {
    answer =
        "{\"ref\":\"n/d\",\"kind\":\"table\",\"name\":\"d\",\"system\":\"n\",\"described\":false,\"folded\":true,"
            + "\"partCount\":90,\"owners\":[{\"name\":\"Mira\",\"address\":\"m@x.example\"}],\"labels\":[\"personal\"],"
            + "\"columns\":[{\"name\":\"c\",\"listed\":false,\"sources\":[{\"ref\":\"s/db.a.b#x\",\"how\":\"copied\"}],"
            + "\"constants\":[{\"text\":\"0\"}]}],\"checks\":[{\"name\":\"k\",\"passed\":false,\"at\":\"2031-05-01T00:00:00Z\"}],"
            + "\"gap\":\"lineage is incomplete\",\"ties\":[{\"ref\":\"@n/t\",\"before\":true,\"data\":true}],"
            + "\"formerly\":[{\"ref\":\"n/old\",\"until\":\"2031-05-01T00:00:00Z\"}],"
            + "\"runs\":[{\"ref\":\"run:1\",\"job\":\"@n/j\",\"state\":\"failed\",\"error\":\"no space\",\"seconds\":90.5}]}";
    assertThat(run("show", "d").out())
        .contains("only mentioned", "Mira <m@x.example>", "personal", "90 parts", "n/old")
        .contains("c (unlisted)", "copied a.b#x, constant 0", "failed", "@n/t, whose data it reads")
        .contains("lineage is incomplete", "no space", "1 min 30 s");
  }

  @Test
  void suspects_come_with_evidence_owners_effects_and_their_thread() {
    answer =
        "{\"symptom\":{\"ref\":\"n/r\",\"name\":\"R\",\"kind\":\"report\"},\"at\":\"2031-05-01T08:00:00Z\",\"suspects\":[{\"ref\":\"@n/j\","
            + "\"what\":\"failed\",\"at\":\"2031-05-01T02:00:00Z\",\"score\":0.75,\"parts\":{\"kind\":1,\"time\":1,\"thread\":0.8,\"explains\":0.9,\"rarity\":1},\"evidence\":\"it failed at 02:00\",\"error\":\"disk full\","
            + "\"owners\":[],\"explains\":[{\"ref\":\"@n/k\",\"what\":\"missing\",\"at\":\"2031-05-01T03:00:00Z\"}],"
            + "\"thread\":[{\"from\":\"n/a\",\"to\":\"n/r\",\"flow\":\"COARSE\",\"how\":\"feeds (columns unknown)\"}]}],"
            + "\"expectedRecovery\":\"2031-05-01T09:00:00Z\"}";
    Said said = run("causes", "R", "--fail-on", "suspect");
    assertThat(said.code()).isEqualTo(1);
    assertThat(said.out())
        .contains("it failed at 02:00", "error: disk full", "effect: @n/k missing")
        .contains("└ feeds (columns unknown)", "Expected to be right again")
        .doesNotContain("score");
    assertThat(run("causes", "R", "--parts").out()).contains("score 0.75", "thread 0.80");
    answer =
        "{\"symptom\":{\"name\":\"R\",\"kind\":\"report\"},\"at\":\"2031-05-01T08:00:00Z\",\"suspects\":[]}";
    assertThat(run("causes", "R", "--fail-on", "suspect").code()).isZero();
  }

  @Test
  void lists_come_as_csv_with_every_cell_quoted() {
    answer =
        "{\"runs\":[{\"ref\":\"run:1\",\"job\":\"@n/\\\"j\\\"\",\"state\":\"completed\",\"start\":\"2031-05-01T02:00:00.5Z\","
            + "\"seconds\":0.000000001,\"rowsRead\":3}]}";
    assertThat(run("runs", "--csv").out())
        .startsWith("\"START\",\"STATE\",\"JOB\"")
        .contains(
            "\"2031-05-01T02:00:00.500Z\",\"completed\",\"'@n/\"\"j\"\"\","
                + "\"0.0000000010\",\"3\",\"\",\"run:1\",\"\"");
  }

  @ParameterizedTest
  @ValueSource(strings = {"=1+1", "+1", "-1+1", "@x", "\\t=1", "\\r=1", "\\n=1"})
  void a_cell_that_a_spreadsheet_would_run_is_text(String error) {
    answer = "{\"runs\":[{\"ref\":\"run:1\",\"error\":\"" + error + "\"}]}";
    String shown = error.replace("\\t", "\t").replace("\\r", "\r").replace("\\n", "\n");
    assertThat(run("runs", "--csv").out()).contains("\"'" + shown + "\"");
  }

  @Test
  void an_opened_event_says_which_of_its_facets_are_superseded() {
    answer =
        "{\"type\":\"COMPLETE\",\"job\":\"@n/j\",\"bytes\":7,\"body\":\"{\\\"a\\\":1}\",\"inputs\":[\"n/a\"],\"outputs\":[\"n/b\"],"
            + "\"facets\":[{\"about\":\"n/b\",\"role\":\"dataset\",\"key\":\"schema\",\"current\":false}],\"links\":[],\"changed\":[\"run completed\"]}";
    assertThat(run("intake", "event", "1.0").out()).contains("superseded", "run completed", "n/b");
    assertThat(run("intake", "event", "1.0", "--bytes").out().strip()).isEqualTo("{\"a\":1}");
  }

  @Test
  void a_column_of_sql_is_pointed_at_in_its_text(@TempDir Path folder) throws IOException {
    Path file = Files.writeString(folder.resolve("q.sql"), "select a + b as c\nfrom t");
    answer =
        "[{\"start\":0,\"end\":24,\"kind\":\"query\",\"complete\":false,\"reads\":[\"t\"],\"outputs\":[{\"name\":\"c\",\"direct\":["
            + "{\"table\":\"t\",\"column\":\"a\",\"subtype\":\"TRANSFORMATION\",\"how\":\"computed\"}],\"spans\":[{\"start\":7,\"end\":12}]}],"
            + "\"rows\":[{\"table\":\"t\",\"column\":\"k\",\"subtype\":\"GROUP_BY\"}],\"problems\":[{\"detail\":\"not read: x\"}]}]";
    Said said = run("sql", file.toString(), "--column", "C", "--fail-on", "incomplete");
    assertThat(said.code()).isEqualTo(1);
    assertThat(said.out())
        .contains("computed", "t#a", "group by t#k", "note: not read: x")
        .contains("select a + b as c\n       ^^^^^\n");
    assertThat(run("sql", file.toString(), "--column", "z").code()).isEqualTo(3);
  }

  @Test
  void today_lists_causes_reports_and_the_state_of_the_intake() {
    answer =
        "{\"causeCount\":1,\"causes\":[{\"ref\":\"@n/j\",\"name\":\"j\",\"state\":\"check-failed\",\"since\":\"2031-05-01T02:00:00Z\","
            + "\"evidence\":\"check k fails\",\"error\":\"found 0\",\"owners\":[],\"affects\":3,\"pages\":[{\"name\":\"Payout\"}],\"effects\":[{\"name\":\"k\"}]}],"
            + "\"pageCount\":1,\"pages\":[{\"name\":\"Payout\",\"health\":{\"state\":\"unknown\",\"inherited\":{\"state\":\"check-failed\"}},\"causeName\":\"j\",\"owners\":[]}],"
            + "\"notices\":[{\"level\":\"stop\",\"name\":\"t\",\"text\":\"wrong unit\"}],"
            + "\"blindSpots\":{\"total\":4,\"fresh\":1},\"intake\":{\"applying\":true,\"waiting\":0,\"refused\":2,\"silent\":[\"lake\"]}}";
    Said said = run("today", "--fail-on", "late-report");
    assertThat(said.code()).isEqualTo(1);
    assertThat(said.out())
        .contains("1. j: check k fails", "error: found 0", "check failed since", "followed by k")
        .contains("source check failed", "not known", "notice stop on t: wrong unit")
        .contains("4 blind spots, 1 of them new", "2 refused, silent: lake");
    answer = "{\"causeCount\":0,\"causes\":[],\"pageCount\":0,\"pages\":[]}";
    assertThat(run("today", "--fail-on", "cause,late-report").out()).contains("Nothing fails");
  }

  @Test
  void notices_watches_links_tickets_and_trails_are_listed_and_wrong_words_refused() {
    answer =
        "{\"items\":[{\"id\":\"i-1\",\"level\":\"stop\",\"name\":\"t\",\"text\":\"wrong unit\",\"by\":\"ada\",\"affects\":4,\"state\":\"active\","
            + "\"title\":\"T\",\"targetKind\":\"asset\",\"about\":[\"check\"],\"channel\":\"email\",\"address\":\"a@b\",\"digest\":\"daily\",\"owner\":\"ada\","
            + "\"subject\":\"j failed\",\"tries\":8,\"problem\":\"no route\",\"url\":\"http://t/1\",\"outcome\":\"done\",\"closedAt\":\"2031-05-01T02:00:00Z\","
            + "\"from\":\"n/a\",\"to\":\"n/b\",\"lapsed\":\"was so\",\"later\":true,\"note\":\"odd\",\"kind\":\"table\"}]}";
    assertThat(run("notice", "list").out()).contains("wrong unit", "ada", "i-1");
    assertThat(run("watch", "list").out()).contains("email a@b", "daily", "check");
    assertThat(run("watch", "messages", "--state", "dead").out()).contains("j failed", "no route");
    assertThat(run("share", "list").out()).contains("active", "i-1");
    assertThat(run("ticket", "list").out()).contains("done", "http://t/1");
    assertThat(run("trail").out()).contains("look at later", "odd");
    assertThat(run("trail", "followed").out()).contains("n/a", "n/b", "was so");
    assertThat(run("notice", "put", "t", "--text", "x", "--level", "loud").code()).isEqualTo(2);
    assertThat(run("watch", "make", "--asset", "t").code()).isEqualTo(2);
    assertThat(run("watch", "make", "--asset", "t", "--mail", "a@b", "--about", "x").code())
        .isEqualTo(2);
    assertThat(run("watch", "messages", "--state", "lost").code()).isEqualTo(2);
    answer =
        "{\"id\":\"w-1\",\"secret\":\"c2VjcmV0\",\"page\":\"http://s/p\",\"badge\":\"http://s/p/badge.svg\",\"url\":\"http://t/2\"}";
    assertThat(run("watch", "make", "--owner", "ada", "--webhook", "http://h").out())
        .contains("w-1", "secret c2VjcmV0");
    assertThat(run("share", "make", "t").out()).contains("badge  http://s/p/badge.svg");
    assertThat(run("ticket", "open", "t").out()).contains("http://t/2");
    assertThat(run("notice", "put", "t", "--text", "x").out()).contains("w-1");
    assertThat(run("notice", "lift", "w-1").out()).contains("lifted w-1");
  }
}
