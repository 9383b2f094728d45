package longthread.service.sources;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import longthread.service.testing.Api;
import longthread.service.testing.Events;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

/** A foreign database that the service reads, and connections from their first event on. */
@ExtendWith(RunningService.Extension.class)
class SourcesTest {
  private static final String DATABASE = "orchard";

  private final RunningService service;
  private final Api api;

  SourcesTest(RunningService service) {
    this.service = service;
    this.api = service.api();
  }

  @BeforeEach
  void empty() throws IOException {
    service.forgetEverything();
    Files.writeString(service.secrets().resolve("orchard"), service.postgres().password() + "\n");
  }

  private void inOrchard(String... statements) throws SQLException {
    try (Connection connection =
            DriverManager.getConnection(
                service.postgres().url(DATABASE), "longthread", service.postgres().password());
        Statement statement = connection.createStatement()) {
      for (String text : statements) {
        statement.execute(text);
      }
    }
  }

  private void makeOrchard() throws SQLException {
    try {
      service.postgres().createDatabase(DATABASE);
    } catch (RuntimeException e) {
      // made by another test
    }
    inOrchard(
        "drop schema if exists crop cascade",
        "create schema crop",
        "create table crop.grower (id int primary key, name text not null, iban text)",
        "comment on table crop.grower is 'Who delivers [labels: internal]'",
        "comment on column crop.grower.iban is 'Account of the grower [labels: personal, bank]'",
        "create table crop.delivery (id int primary key, grower_id int references crop.grower,"
            + " kilos numeric(8,2), day date)",
        "create view crop.paid as select g.name as grower, sum(d.kilos) * 2 as cents"
            + " from crop.delivery d join crop.grower g on g.id = d.grower_id group by g.name",
        "create materialized view crop.paid_copy as select grower, cents from crop.paid",
        "create table crop.total (cents numeric)",
        "create function crop.refresh_total() returns void language plpgsql as $$ begin"
            + " delete from crop.total; insert into crop.total select sum(p.cents)"
            + " from crop.paid p; end $$",
        "insert into crop.grower select i, 'g' || i, 'x' from generate_series(1, 50) i",
        "analyze crop.grower");
  }

  private String url() {
    String jdbc = service.postgres().url(DATABASE);
    return "postgres://longthread@" + jdbc.substring("jdbc:postgresql://".length());
  }

  private JsonNode put(String more) {
    Api.Answer answer =
        api.send(
            "PUT",
            "/api/v1/readers",
            ("{'name':'orchard','url':'"
                    + url()
                    + "','passwordFile':'orchard','enabled':false,"
                    + "'schemas':['crop']"
                    + more
                    + "}")
                .replace('\'', '"'));
    assertThat(answer.status()).as(answer.body()).isEqualTo(200);
    return answer.json();
  }

  private JsonNode read() throws InterruptedException {
    Api.Answer answer = api.post("/api/v1/readers/run?name=orchard", "");
    assertThat(answer.status()).as(answer.body()).isEqualTo(200);
    for (int i = 0; i < 200; i++) {
      JsonNode intake = api.get("/api/v1/intake").json();
      if (intake.path("waiting").longValue() == 0) {
        break;
      }
      Thread.sleep(50);
    }
    Thread.sleep(300);
    return answer.json();
  }

  private JsonNode asset(String ref) {
    return api.get("/api/v1/asset", "ref", ref).json();
  }

  private List<String> thread(String from, String to) {
    var names = new ArrayList<String>();
    JsonNode thread = api.get("/api/v1/thread", "from", from, "to", to).json();
    thread
        .path("hops")
        .forEach(hop -> names.add(hop.path("to").stringValue("").replaceFirst(".*orchard\\.", "")));
    return names;
  }

  @Test
  void a_foreign_schema_is_read_with_column_lineage_comments_keys_labels_and_sizes()
      throws SQLException, InterruptedException {
    makeOrchard();
    put("");
    JsonNode outcome = read();
    assertThat(outcome.path("outcome").stringValue()).startsWith("3 tables, 2 views, 1 functions");
    assertThat(thread("crop.delivery#kilos", "crop.paid_copy#cents"))
        .containsExactly("crop.paid#cents", "crop.paid_copy#cents");
    assertThat(thread("crop.delivery#kilos", "crop.total#cents"))
        .containsExactly("crop.paid#cents", "crop.total#cents");
    JsonNode grower = asset("crop.grower");
    assertThat(grower.path("description").stringValue()).isEqualTo("Who delivers");
    assertThat(grower.path("labels").toString()).contains("internal", "personal", "bank");
    assertThat(grower.path("columns").get(2).path("description").stringValue())
        .isEqualTo("Account of the grower");
    assertThat(grower.path("columns").get(1).path("type").stringValue()).isEqualTo("text not null");
    assertThat(asset("crop.delivery").path("details").toString())
        .contains("foreign key", "crop.grower");
    assertThat(api.get("/api/v1/statistics", "ref", "crop.grower").body()).contains("50");
    assertThat(asset("crop.paid").path("kind").stringValue()).isEqualTo("view");
    assertThat(asset("crop.paid").path("code").path("text").stringValue())
        .contains("crop.delivery");
    JsonNode links =
        api.get("/api/v1/graph", "ref", "crop.paid", "direction", "upstream", "detail", "columns")
            .json()
            .path("links");
    assertThat(links.get(0).path("evidence").stringValue()).isEqualTo("derived");
  }

  @Test
  void only_what_changed_is_reported_again_and_what_was_dropped_is_retired()
      throws SQLException, InterruptedException {
    makeOrchard();
    put("");
    read();
    assertThat(read().path("outcome").stringValue()).endsWith("0 changes reported");
    inOrchard(
        "alter table crop.delivery add column note int", "drop materialized view crop.paid_copy");
    assertThat(read().path("outcome").stringValue()).endsWith("2 changes reported");
    assertThat(asset("crop.paid_copy").path("retired").booleanValue()).isTrue();
    assertThat(asset("crop.delivery").path("columns").toString()).contains("note");
  }

  @Test
  void a_query_log_gives_readers_and_the_lineage_of_statements_seen()
      throws SQLException, IOException, InterruptedException {
    makeOrchard();
    String line =
        "2026-11-20 06:00:0%d.000 UTC,\"%s\",\"orchard\",1,\"[local]\",x,1,\"SELECT\","
            + "2026-11-20 05:00:00 UTC,1/1,0,LOG,00000,\"%s\",,,,,,,,,\"psql\",\"client backend\",,0\n";
    Files.writeString(
        service.secrets().resolve("log.csv"),
        line.formatted(1, "ada", "statement: select name from crop.grower where id = 1")
            + line.formatted(2, "ada", "statement: select name from crop.grower where id = 2")
            + line.formatted(3, "ben", "execute <unnamed>: select iban from crop.grower")
            + line.formatted(
                4,
                "etl",
                "statement: insert into crop.total (cents) select d.kilos from crop.delivery d")
            + line.formatted(5, "etl", "connection authorized: user=etl"));
    put(",'queryLog':'log.csv'");
    read();
    assertThat(thread("crop.delivery#kilos", "crop.total#cents"))
        .containsExactly("crop.total#cents");
    JsonNode facets = asset("crop.grower").path("facets");
    assertThat(facets.toString()).contains("\"reads\":3", "\"ada\"", "\"ben\"");
    assertThat(read().path("outcome").stringValue()).endsWith("0 changes reported");
  }

  @Test
  void what_the_server_counted_gives_readers_since_the_last_reading()
      throws SQLException, InterruptedException {
    makeOrchard();
    inOrchard(
        "create extension if not exists pg_stat_statements", "select pg_stat_statements_reset()");
    inOrchard("select name from crop.grower", "select iban from crop.grower where id = 7");
    put("");
    assertThat(read().path("outcome").stringValue()).doesNotContain("cannot be read");
    assertThat(asset("crop.grower").path("facets").toString())
        .contains("\"reads\":2", "\"longthread\"");
    inOrchard(
        "select name from crop.grower",
        "select name from crop.grower",
        "select name from crop.grower",
        "insert into crop.total select kilos from crop.delivery");
    read();
    assertThat(asset("crop.grower").path("facets").toString()).contains("\"reads\":3");
    assertThat(thread("crop.delivery#kilos", "crop.total#cents"))
        .containsExactly("crop.total#cents");
    inOrchard("drop extension pg_stat_statements");
  }

  @Test
  void what_cannot_be_reached_says_so_and_no_secret_leaves() throws IOException {
    put("");
    Api.Answer listed = api.get("/api/v1/readers");
    assertThat(listed.body()).doesNotContain(service.postgres().password());
    Files.writeString(service.secrets().resolve("orchard"), "wrong");
    JsonNode outcome = api.post("/api/v1/readers/run?name=orchard", "").json();
    assertThat(outcome.path("outcome").stringValue()).isEqualTo("failed");
    assertThat(outcome.path("problem").stringValue()).contains("password authentication failed");
    JsonNode connection = api.get("/api/v1/connections").json().path("items").get(0);
    assertThat(connection.path("state").stringValue()).isEqualTo("failing");
    for (String bad :
        List.of(
            "'url':'postgres://a:secret@h/d'",
            "'url':'mysql://a@h/d'",
            "'url':'postgres://a@h/d','passwordFile':'../../etc/passwd'",
            "'url':'postgres://a@h/d','passwordVariable':'PATH'",
            "'url':'postgres://a@h/d','everyMinutes':0")) {
      Api.Answer answer =
          api.send("PUT", "/api/v1/readers", ("{'name':'x'," + bad + "}").replace('\'', '"'));
      assertThat(answer.status()).as(bad).isEqualTo(400);
      assertThat(answer.body()).doesNotContain("secret@");
    }
  }

  @Test
  void a_new_connection_is_watched_until_its_first_event() {
    JsonNode made =
        api.send(
                "POST",
                "/api/v1/connections",
                "{\"kind\":\"http\",\"name\":\"night-" + System.nanoTime() + "\"}")
            .json();
    String name = made.path("name").stringValue();
    String token = made.path("token").stringValue();
    assertThat(made.path("settings").get(0).path("text").stringValue())
        .contains(service.base(), token);
    var emitter = new Api(service.base(), token);
    assertThat(api.get("/api/v1/connections/key", "name", name).json().path("events")).isEmpty();
    emitter.post("/api/v1/lineage", "{\"nonsense\":1}");
    String event = Events.dataset("2026-11-20T06:00:00Z", "orchard", "tree", Events.schema("x"));
    api.see(
        emitter
            .post("/api/v1/lineage", event.replace('\'', '"'))
            .json()
            .path("receipt")
            .stringValue());
    JsonNode progress = api.get("/api/v1/connections/key", "name", name).json();
    assertThat(progress.path("accepted").longValue()).isEqualTo(1);
    assertThat(progress.path("refused").longValue()).isEqualTo(1);
    assertThat(progress.path("refusal").stringValue()).contains("eventTime");
    assertThat(progress.path("events").get(0).path("changed").toString())
        .contains("new dataset tree");
    assertThat(emitter.get("/api/v1/search", "q", "x").status()).isEqualTo(403);
    assertThat(api.get("/api/v1/connections").body()).contains(name, "orchard");
    assertThat(api.send("POST", "/api/v1/connections", "{\"kind\":\"carrier pigeon\"}").status())
        .isEqualTo(400);
  }
}
