package longthread.service.preview;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import longthread.service.testing.Api;
import longthread.service.testing.Events;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

/** Rows read live from a database and a file, masked before they leave the service. */
@ExtendWith(RunningService.Extension.class)
class PreviewTest {
  private static final String DATABASE = "stable";
  private static final String UNDER = "postgres://stable.example:5432/stable.";
  private static final String COW = UNDER + "herd.cow";

  private final RunningService service;
  private final Api api;
  private final Path shown;

  PreviewTest(RunningService service) {
    this.service = service;
    this.api = service.api();
    this.shown = service.shown();
  }

  private void inDatabase(String... statements) throws SQLException {
    try (Connection connection =
            DriverManager.getConnection(
                service.postgres().url(DATABASE), "longthread", service.postgres().password());
        Statement statement = connection.createStatement()) {
      for (String text : statements) {
        statement.execute(text);
      }
    }
  }

  @BeforeEach
  void herd() throws SQLException, IOException {
    service.forgetEverything();
    try {
      service.postgres().createDatabase(DATABASE);
    } catch (RuntimeException e) {
      // made by another test
    }
    inDatabase(
        "drop schema if exists herd cascade",
        "create schema herd",
        "create table herd.cow (\"Id\" int, owner_phone text, milk numeric(8,1), picture bytea,"
            + " hidden_note text)",
        "insert into herd.cow select i, '0600 000 ' || (1000 + i), 20.5 + i, '\\x0102',"
            + " 'not in the catalog' from generate_series(1, 200) i",
        "insert into herd.cow values (201, null, null, null, null)",
        "create view herd.slow as select pg_sleep(20)::text as milk");
    api.event(cow("owner_phone"));
    put("{'name':'stable','kind':'postgres','under':'" + UNDER + "','url':'" + url() + "'}");
  }

  private static String cow(String labelled) {
    return Events.dataset(
        "2026-11-01T00:00:00Z",
        "postgres://stable.example:5432",
        "stable.herd.cow",
        Events.schema("id", "owner_phone", "milk", "picture", "gone")
            + ",'tags':{'_producer':'p','_schemaURL':'s','tags':[{'key':'personal',"
            + "'value':'true','source':'s','field':'"
            + labelled
            + "'}]}");
  }

  private String url() {
    String jdbc = service.postgres().url(DATABASE);
    return "postgres://longthread@" + jdbc.substring("jdbc:postgresql://".length());
  }

  private Api.Answer put(String source) {
    String with = source.replace("}", ",'passwordVariable':'LONGTHREAD_PREVIEW_PASSWORD'}");
    return api.send("PUT", "/api/v1/preview/sources", with.replace('\'', '"'));
  }

  private Api as(String role) {
    Api.Answer made =
        api.send(
            "POST",
            "/api/v1/keys",
            "{\"name\":\"" + role + "-" + UUID.randomUUID() + "\",\"role\":\"" + role + "\"}");
    return new Api(service.base(), made.json().path("token").stringValue());
  }

  private static List<String> values(JsonNode preview, String column) {
    var values = new ArrayList<String>();
    for (int i = 0; i < preview.path("columns").size(); i++) {
      if (preview.path("columns").get(i).path("name").stringValue().equals(column)) {
        int at = i;
        preview.path("rows").forEach(row -> values.add(row.get(at).stringValue(null)));
      }
    }
    return values;
  }

  @Test
  void a_labelled_column_is_masked_for_the_role_of_the_caller() {
    JsonNode read = as("reader").get("/api/v1/preview", "ref", COW, "limit", "3").json();
    assertThat(values(read, "owner_phone")).containsOnly("•••••").hasSize(3);
    assertThat(values(read, "milk")).doesNotContainNull().allMatch(milk -> milk.endsWith(".5"));
    assertThat(values(read, "picture")).containsOnly("2 bytes");
    assertThat(values(read, "Id")).as("as the source spells it").hasSize(3);
    assertThat(read.path("isCut").booleanValue()).isTrue();
    assertThat(read.path("missing").toString()).isEqualTo("[\"gone\"]");
    assertThat(read.toString()).doesNotContain("hidden_note", "0600", "not in the catalog");

    JsonNode steward = as("steward").get("/api/v1/preview", "ref", COW, "limit", "3").json();
    assertThat(values(steward, "owner_phone")).allMatch(phone -> phone.matches("•••••\\d{3}"));
    JsonNode column = steward.path("columns").get(1);
    assertThat(column.path("shown").stringValue()).isEqualTo("partial");
    assertThat(column.path("labels").get(0).stringValue()).isEqualTo("personal");
    assertThat(as("auditor").get("/api/v1/preview", "ref", COW).body()).doesNotContain("0600");
    assertThat(as("emitter").get("/api/v1/preview", "ref", COW).status()).isEqualTo(403);
  }

  @Test
  void the_policy_is_set_and_holds_for_the_next_call_and_for_the_sheet() {
    Api reader = as("reader");
    Api.Answer set =
        api.send(
            "POST",
            "/api/v1/statements",
            ("{'changes':[{'set':'label-mask','value':{'label':'personal','role':'reader',"
                    + "'shown':'hashed'}}]}")
                .replace('\'', '"'));
    api.see(set.json().path("receipt").stringValue());
    JsonNode once = reader.get("/api/v1/preview", "ref", COW + "#owner_phone").json();
    assertThat(once.path("columns")).hasSize(1);
    assertThat(values(once, "owner_phone")).allMatch(hash -> hash.matches("#[0-9a-f]{12}"));
    JsonNode again = reader.get("/api/v1/preview", "ref", COW + "#owner_phone").json();
    assertThat(again.path("rows")).isEqualTo(once.path("rows"));
    String sheet = reader.csv("/api/v1/preview", "ref", COW).body();
    assertThat(sheet).contains("#").doesNotContain("0600");
  }

  @Test
  void a_copy_that_inherits_the_label_is_masked_too() throws SQLException {
    inDatabase("create table herd.list as select owner_phone as call, milk from herd.cow");
    api.event(
        Events.dataset(
            "2026-11-01T00:00:00Z",
            "postgres://stable.example:5432",
            "stable.herd.list",
            Events.schema("call", "milk")));
    api.event(
        Events.run(
            "COMPLETE",
            "2026-11-02T00:00:00Z",
            UUID.randomUUID(),
            "n",
            "list",
            "'outputs':[{'namespace':'postgres://stable.example:5432','name':'stable.herd.list',"
                + "'facets':{'columnLineage':{'_producer':'p','_schemaURL':'s','fields':{'call':"
                + "{'inputFields':[{'namespace':'postgres://stable.example:5432',"
                + "'name':'stable.herd.cow','field':'owner_phone','transformations':[{'type':"
                + "'DIRECT','subtype':'IDENTITY','masking':false}]}]}}}}}]"));
    JsonNode read = as("reader").get("/api/v1/preview", "ref", UNDER + "herd.list").json();
    assertThat(values(read, "call")).hasSize(20).allMatch(v -> v == null || v.equals("•••••"));
    assertThat(read.toString()).doesNotContain("0600");
  }

  @org.junit.jupiter.params.ParameterizedTest
  @org.junit.jupiter.params.provider.ValueSource(
      strings = {
        "stable..herd.cow",
        "stable.zzz.herd.cow",
        "stable.herd..cow",
        "stable.HERD.COW",
        "STABLE.herd.cow",
        "stable.herd.Cow",
        "stable.pg_catalog.pg_roles",
        "stable.information_schema.tables"
      })
  void another_name_of_a_table_takes_no_mask_off(String name) {
    api.event(
        Events.dataset(
            "2026-11-03T00:00:00Z",
            "postgres://stable.example:5432",
            name,
            Events.schema("OWNER_PHONE", "milk", "rolname", "table_name")));
    Api.Answer read =
        as("reader").get("/api/v1/preview", "ref", "postgres://stable.example:5432/" + name);
    assertThat(read.body()).doesNotContain("0600", "longthread\"", "pg_class");
    api.event(cow("owner_phone"));
  }

  @Test
  void a_column_spelled_another_way_stays_masked() {
    api.event(
        Events.dataset(
            "2026-11-04T00:00:00Z",
            "postgres://stable.example:5432",
            "stable.herd.cow",
            Events.schema("id", "OWNER_PHONE", "owner_phone", "milk")));
    Api.Answer read = as("reader").get("/api/v1/preview", "ref", COW);
    assertThat(read.status()).isEqualTo(200);
    assertThat(read.body()).doesNotContain("0600");
  }

  @Test
  void a_second_source_of_the_same_database_knows_the_same_labels() {
    put(
        "{'name':'barn','kind':'postgres','under':'postgres://other.example:5432/x.','url':'"
            + url()
            + "'}");
    api.event(
        Events.dataset(
            "2026-11-03T00:00:00Z",
            "postgres://other.example:5432",
            "x.herd.cow",
            Events.schema("owner_phone", "milk")));
    JsonNode read =
        as("reader")
            .get("/api/v1/preview", "ref", "postgres://other.example:5432/x.herd.cow")
            .json();
    assertThat(values(read, "milk")).isNotEmpty();
    assertThat(values(read, "owner_phone")).allMatch(v -> v == null || v.equals("•••••"));
  }

  @Test
  void who_saw_what_is_in_the_audit_log_and_no_value_is() {
    as("reader").get("/api/v1/preview", "ref", COW, "limit", "2");
    JsonNode entry = api.get("/api/v1/audit", "action", "preview").json().path("items").get(0);
    assertThat(entry.path("who").stringValue()).startsWith("reader-");
    assertThat(entry.path("about").stringValue()).isEqualTo(COW);
    assertThat(entry.path("detail").stringValue())
        .contains("2 rows", "owner_phone hidden", "milk shown");
    assertThat(entry.toString()).doesNotContain("0600");
  }

  @Test
  void a_source_that_does_not_answer_ends_in_time_and_says_why() {
    api.event(
        Events.dataset(
            "2026-11-01T00:00:00Z",
            "postgres://stable.example:5432",
            "stable.herd.slow",
            Events.schema("milk")));
    long began = System.nanoTime();
    Api.Answer slow = api.get("/api/v1/preview", "ref", UNDER + "herd.slow");
    assertThat(slow.status()).isEqualTo(502);
    assertThat(slow.detail()).contains("'stable'", "timeout");
    assertThat((System.nanoTime() - began) / 1e9).isLessThan(15);
    assertThat(slow.body()).doesNotContain(service.postgres().password());
    api.event(
        Events.dataset(
            "2026-11-01T00:00:00Z",
            "postgres://stable.example:5432",
            "stable.herd.cow\"; drop table herd.cow; --",
            Events.schema("milk")));
    api.get("/api/v1/preview", "ref", UNDER + "herd.cow\"; drop table herd.cow; --");
    assertThat(api.get("/api/v1/preview", "ref", COW).status()).isEqualTo(200);
    Api.Answer none = api.get("/api/v1/preview", "ref", "nowhere/here");
    assertThat(none.status()).isEqualTo(404);
    assertThat(api.get("/api/v1/preview", "ref", COW, "limit", "101").status()).isEqualTo(400);
  }

  @Test
  void the_newest_of_dated_files_is_shown_and_nothing_outside_the_folder() throws IOException {
    Files.writeString(shown.resolve("r_20261101.csv"), "sample;fat\nS1;4,1\n");
    Files.writeString(shown.resolve("r_20261102.csv"), "\uFEFFsample;fat\nS2;4,2\nS3;\n");
    Files.writeString(service.secrets().resolve("secret.csv"), "sample;fat\nX;1\n");
    for (String day : List.of("20261101", "20261102")) {
      api.event(
          Events.dataset(
              "2026-11-02T00:00:00Z",
              "file://share.example",
              "/drop/r_" + day + ".csv",
              Events.schema("sample", "fat")));
    }
    Api.Answer outside =
        put("{'name':'drop','kind':'files','under':'file://share.example//drop/','folder':'/etc'}");
    assertThat(outside.status()).isEqualTo(400);
    assertThat(outside.detail()).contains("none of the folders");
    Files.deleteIfExists(shown.resolve("way"));
    Files.createSymbolicLink(shown.resolve("way"), service.secrets());
    assertThat(
            put("{'name':'drop','kind':'files','under':'file://share.example//drop/','folder':'"
                    + shown.resolve("way")
                    + "'}")
                .status())
        .as("a link out of it")
        .isEqualTo(400);
    put(
        "{'name':'drop','kind':'files','under':'file://share.example//drop/','folder':'"
            + shown
            + "'}");
    api.event(
        Events.dataset(
            "2026-11-02T00:00:00Z",
            "file://share.example",
            "/drop/r_{date}.csv",
            Events.schema("sample", "fat")));
    JsonNode read = api.get("/api/v1/preview", "ref", "drop/r#sample").json();
    assertThat(values(read, "sample")).as(read.toString()).containsExactly("S2", "S3");
    JsonNode fat = api.get("/api/v1/preview", "ref", "drop/r").json();
    assertThat(values(fat, "fat")).containsExactly("4,2", null);
    api.event(
        Events.dataset(
            "2026-11-02T00:00:00Z",
            "file://share.example",
            "/drop/../secret.csv",
            Events.schema("sample")));
    assertThat(api.get("/api/v1/preview", "ref", "file://share.example//drop/../secret.csv").body())
        .doesNotContain("\"X\"");
  }

  @Test
  void a_source_is_checked_before_it_is_set() {
    assertThat(put("{'name':'a b','kind':'postgres','under':'" + UNDER + "'}").status())
        .isEqualTo(400);
    assertThat(put("{'name':'x','kind':'oracle','under':'" + UNDER + "'}").detail())
        .contains("postgres or files");
    assertThat(put("{'name':'x','kind':'postgres','under':''}").detail()).contains("beginning");
    Api.Answer other =
        api.send(
            "PUT",
            "/api/v1/preview/sources",
            ("{'name':'x','kind':'postgres','under':'"
                    + UNDER
                    + "','url':'"
                    + url()
                    + "','passwordVariable':'LONGTHREAD_ADMIN_PASSWORD'}")
                .replace('\'', '"'));
    assertThat(other.detail()).contains("only variables that begin with LONGTHREAD_PREVIEW_");
    String elsewhere =
        ("{'name':'x','kind':'postgres','under':'"
                + UNDER
                + "','url':'postgres://a@elsewhere.example/b'}")
            .replace('\'', '"');
    Api.Answer steward = as("steward").send("PUT", "/api/v1/preview/sources", elsewhere);
    assertThat(steward.status()).as("it would be sent the service's password").isEqualTo(403);
    assertThat(steward.detail()).contains("'elsewhere.example'", "LONGTHREAD_PREVIEW_HOSTS");
    assertThat(api.send("PUT", "/api/v1/preview/sources", elsewhere).status()).isEqualTo(200);
    String near = elsewhere.replace("elsewhere.example", "127.0.0.1:1");
    assertThat(as("steward").send("PUT", "/api/v1/preview/sources", near).status()).isEqualTo(200);
    api.delete("/api/v1/preview/sources?name=x");
    Api.Answer reader = as("reader").send("PUT", "/api/v1/preview/sources", "{\"name\":\"x\"}");
    assertThat(reader.status()).isEqualTo(403);
    assertThat(api.delete("/api/v1/preview/sources?name=stable").status()).isEqualTo(200);
    assertThat(api.get("/api/v1/preview", "ref", COW).type()).contains("no-preview-source");
    assertThat(api.delete("/api/v1/preview/sources?name=stable").status()).isEqualTo(404);
  }

  // ------------------------------------------------------------------ sampled values

  private void withContacts(boolean sampled) throws SQLException {
    inDatabase(
        "create table herd.contact (reached_by text, note text, owner_phone text)",
        "insert into herd.contact select 'keeper' || i || '@farm.example', 'call ' || i,"
            + " '+44 1632 9600' || (10 + i) from generate_series(1, 40) i");
    api.event(
        Events.dataset(
            "2026-11-01T00:00:00Z",
            "postgres://stable.example:5432",
            "stable.herd.contact",
            Events.schema("reached_by", "note", "owner_phone")));
    withSampling(sampled);
  }

  private List<String> proposed() {
    var proposed = new ArrayList<String>();
    for (JsonNode one : api.get("/api/v1/labels/suggestions").json().path("items")) {
      proposed.add(one.path("ref").stringValue() + " " + one.path("evidence"));
    }
    return proposed;
  }

  @Test
  void values_propose_a_label_where_a_steward_lets_them_be_sampled() throws SQLException {
    withContacts(true);
    JsonNode found = api.send("POST", "/api/v1/preview/sample?ref=herd.contact", "{}").json();
    assertThat(found.path("columns").intValue()).isEqualTo(3);
    assertThat(found.path("found")).hasSize(2);
    assertThat(found.path("found").get(0).path("ref").stringValue())
        .isEqualTo(UNDER + "herd.contact#reached_by");
    assertThat(found.path("found").get(0).path("looksLike").stringValue())
        .isEqualTo("e-mail addresses");
    assertThat(found.toString()).doesNotContain("keeper", "1632");
    assertThat(proposed())
        .anyMatch(
            one ->
                one.startsWith(UNDER + "herd.contact#reached_by")
                    && one.contains("40 of 40 values look like e-mail addresses"))
        .anyMatch(
            one ->
                one.startsWith(UNDER + "herd.contact#owner_phone")
                    && one.contains("look like phone numbers")
                    && one.contains("its name mostly stands for personal data"))
        .noneMatch(one -> one.contains("#note"));
    JsonNode noted = api.get("/api/v1/audit", "action", "sampleValues").json().path("items");
    assertThat(noted.get(0).path("about").stringValue()).endsWith("herd.contact");
    assertThat(service.jdbc().queryForList("select looks from value_sample", String.class))
        .as("a kind and counts, and no value")
        .noneMatch(looks -> looks.contains("@") || looks.contains("1632"));

    api.event(
        Events.dataset(
            "2026-11-02T00:00:00Z",
            "postgres://stable.example:5432",
            "stable.herd.contact",
            "'tags':{'_producer':'p','_schemaURL':'s','tags':[{'key':'personal','value':'true',"
                + "'source':'s','field':'reached_by'}]}"));
    assertThat(proposed()).noneMatch(one -> one.contains("#reached_by"));
    JsonNode again = api.send("POST", "/api/v1/preview/sample?ref=herd.contact", "{}").json();
    assertThat(again.path("columns").intValue()).as("labelled ones are not read").isEqualTo(2);
  }

  @Test
  void without_leave_nothing_is_sampled_and_what_was_is_forgotten() throws SQLException {
    withContacts(false);
    Api.Answer refused = api.send("POST", "/api/v1/preview/sample?ref=herd.contact", "{}");
    assertThat(refused.status()).isEqualTo(409);
    assertThat(refused.detail()).contains("without sampling");
    withSampling(true);
    service.bean(Sampler.class).next();
    assertThat(proposed()).anyMatch(one -> one.contains("e-mail addresses"));
    withSampling(false);
    service.bean(Sampler.class).next();
    assertThat(proposed()).noneMatch(one -> one.contains("e-mail addresses"));
    assertThat(as("reader").send("POST", "/api/v1/preview/sample?ref=herd.contact", "{}").status())
        .isEqualTo(403);
  }

  private void withSampling(boolean sampled) {
    put(
        "{'name':'stable','kind':'postgres','under':'"
            + UNDER
            + "','url':'"
            + url()
            + "','sampled':"
            + sampled
            + "}");
  }
}
