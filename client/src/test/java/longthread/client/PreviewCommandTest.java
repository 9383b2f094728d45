package longthread.client;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Map;
import org.junit.jupiter.api.Test;

class PreviewCommandTest extends AgainstServer {
  private static final String ROWS =
      "{\"ref\":\"w/farm\",\"part\":\"w/farm\",\"role\":\"reader\",\"isCut\":true,\"missing\":[\"old\"],"
          + "\"columns\":[{\"name\":\"id\",\"shown\":\"shown\",\"labels\":[]},{\"name\":\"iban\","
          + "\"shown\":\"partial\",\"labels\":[\"personal\"]}],"
          + "\"rows\":[[\"1\",\"•••••7919\"],[\"2\",null]]}";

  @Test
  void rows_are_shown_with_how_each_column_is_masked() {
    answers = Map.of("/api/v1/preview", ROWS);
    Said said = run("preview", "farm", "--limit", "2");
    assertThat(asked.get(0).line()).contains("ref=farm").contains("limit=2");
    assertThat(said.out().lines().map(String::strip))
        .containsExactly("id  iban", "[personal: partial]", "1   •••••7919", "2   -");
    assertThat(said.err()).contains("as role reader; there are more", "not at the source: old");
    assertThat(run("preview", "farm", "--csv").out().lines())
        .containsExactly("\"id\",\"iban\"", "\"1\",\"•••••7919\"", "\"2\",\"\"");
    assertThat(run("preview").code()).isEqualTo(2);
  }

  @Test
  void a_source_is_either_a_database_or_a_folder() {
    Said none = run("preview", "source", "barn", "--under", "postgres://barn:5432/barn.");
    assertThat(none.code()).isEqualTo(2);
    run("preview", "source", "barn", "--under", "x://barn.", "--database", "postgres://a@b/c");
    assertThat(asked.get(0).line()).startsWith("PUT /api/v1/preview/sources");
    assertThat(asked.get(0).body()).contains("\"kind\":\"postgres\"", "postgres://a@b/c");
    run("preview", "source", "drop", "--under", "file://x/", "--folder", "/srv/drop");
    assertThat(asked.get(1).body()).contains("\"kind\":\"files\"");
    run("preview", "remove", "a b");
    assertThat(asked.get(2).line()).isEqualTo("DELETE /api/v1/preview/sources?name=a+b");
    answers =
        Map.of(
            "/api/v1/preview/sources",
            "{\"items\":[{\"name\":\"barn\",\"kind\":\"postgres\",\"under\":\"x\",\"url\":\"u\"}]}");
    assertThat(run("preview", "sources").out()).containsPattern("barn +postgres +x +u +no");
  }

  @Test
  void values_are_sampled_where_a_source_allows_it() {
    run(
        "preview",
        "source",
        "b",
        "--under",
        "x://barn.",
        "--database",
        "postgres://a@b/c",
        "--sample");
    assertThat(asked.get(0).body()).contains("\"sampled\":true");
    answers =
        Map.of(
            "/api/v1/preview/sample",
            "{\"columns\":4,\"found\":[{\"ref\":\"w/farm#c7\",\"looksLike\":\"e-mail addresses\","
                + "\"label\":\"personal\",\"matched\":38,\"looked\":40}]}");
    Said said = run("preview", "sample", "farm");
    assertThat(said.out()).containsPattern("w/farm#c7 +e-mail addresses +38 of 40 +personal");
    assertThat(said.err()).contains("looked at 4 columns without labels, 1 look sensitive");
    assertThat(asked.get(1).line()).isEqualTo("POST /api/v1/preview/sample?ref=farm");
  }

  @Test
  void the_audit_log_is_listed_and_printed_line_by_line() {
    answers =
        Map.of(
            "/api/v1/audit",
            "{\"items\":[{\"at\":\"2031-01-01T00:00:00Z\",\"who\":\"ida\",\"role\":\"reader\","
                + "\"byKey\":false,\"address\":\"10.0.0.1\",\"action\":\"preview\",\"about\":"
                + "\"w/farm\",\"outcome\":\"done\",\"detail\":\"2 rows\",\"times\":1},"
                + "{\"at\":\"2031-01-01T00:00:00Z\",\"who\":\"\",\"role\":\"\",\"action\":"
                + "\"signIn\",\"outcome\":\"refused\",\"times\":7}],\"cursor\":\"b5\"}");
    Said said = run("audit", "--who", "ida", "--outcome", "done");
    assertThat(asked.get(0).line()).contains("who=ida").contains("outcome=done");
    assertThat(said.out())
        .containsPattern("ida \\(reader\\) +preview +done +10.0.0.1 +w/farm +2 rows")
        .containsPattern("nobody known +signIn +refused × 7");
    assertThat(said.err()).contains("there are more");
    assertThat(run("audit", "--outcome", "lost").code()).isEqualTo(2);
    assertThat(run("audit", "--lines").out()).startsWith("{\"items\"");
  }

  @Test
  void a_key_may_end_by_itself() {
    answer = "{\"name\":\"k\",\"role\":\"auditor\",\"token\":\"lt_x\"}";
    run("key", "make", "k", "--role", "auditor", "--until", "2031-05-31");
    assertThat(asked.get(0).body()).contains("\"expiresAt\":\"2031-05-31T23:59:59Z\"");
  }
}
