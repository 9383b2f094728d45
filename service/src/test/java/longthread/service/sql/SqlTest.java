package longthread.service.sql;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
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

/** Lineage from SQL, asked for and applied to the catalog. */
@ExtendWith(RunningService.Extension.class)
class SqlTest {
  private static final String AT = "2026-05-01T02:00:00Z";
  private final String key = UUID.randomUUID().toString().substring(0, 8);
  private final String namespace = "postgres://sql-" + key;
  private Api api;

  @BeforeEach
  void useService(RunningService running) {
    api = running.api();
  }

  private Api.Answer ask(String body) {
    return api.post(
        "/api/v1/sql/lineage",
        body.replace('\'', '"').getBytes(StandardCharsets.UTF_8),
        "Content-Type",
        "application/json");
  }

  private static String dataset(String namespace, String name, String facets) {
    return "{'namespace':'"
        + namespace
        + "','name':'"
        + name
        + "'"
        + (facets.isEmpty() ? "" : ",'facets':{" + facets + "}")
        + "}";
  }

  /** A completed run that reports its SQL, one input and one output. */
  private void run(String at, String job, String sql, String inputFacets, String outputFacets) {
    String lists =
        "'inputs':["
            + dataset(namespace, "db.core.visit", inputFacets)
            + "],'outputs':["
            + dataset(namespace, "db.mart.total", outputFacets)
            + "]";
    String event =
        Events.run("COMPLETE", at, UUID.randomUUID(), "jobs-" + key, job, lists)
            .replace(
                "'name':'" + job + "'}",
                "'name':'"
                    + job
                    + "','facets':{'sql':{'_producer':'p','_schemaURL':'s','query':'"
                    + sql
                    + "'}}}");
    api.event(event);
  }

  /** The links into a column, as {@code source FLOW evidence}. */
  private List<String> into(String column) {
    JsonNode view =
        api.get(
                "/api/v1/graph",
                "ref",
                namespace + "/db.mart.total#" + column,
                "direction",
                "upstream",
                "detail",
                "columns")
            .json();
    var links = new ArrayList<String>();
    for (JsonNode link : view.path("links")) {
      String from = link.path("from").stringValue("");
      links.add(
          from.substring(from.lastIndexOf('#') + 1)
              + " "
              + link.path("flow").stringValue("")
              + " "
              + link.path("evidence").stringValue("")
              + (link.path("confirmed").booleanValue() ? " confirmed" : ""));
    }
    return links;
  }

  @Test
  void a_text_without_data_is_told_from_one_that_was_not_understood() {
    for (String sql : List.of("grant select on a to b", "explain select 1", "-- nothing")) {
      JsonNode only = ask("{'sql':'" + sql + "'}").json();
      assertThat(only).hasSize(1);
      assertThat(only.get(0).path("kind").stringValue("")).as(sql).isEqualTo("no-data");
      assertThat(only.get(0).path("complete").booleanValue()).isTrue();
      assertThat(only.get(0).path("problems").toString()).contains("reads or writes data");
    }
    JsonNode both = ask("{'sql':'grant select on a to b; select 1 as one'}").json();
    assertThat(both).hasSize(1);
    assertThat(both.get(0).path("kind").stringValue("")).isEqualTo("select");
  }

  @Test
  void a_text_is_answered_statement_by_statement() {
    Api.Answer answer =
        ask(
            "{'sql':'select farm_id, sum(litres) as l from core.pickup where litres > 3 group by 1; delete from core.pickup where day < 5',"
                + "'dialect':'postgres','defaultNamespace':'postgres://x','schemas':{'core.pickup':[{'name':'farm_id','type':'int'},{'name':'litres'},{'name':'day'}]}}");
    assertThat(answer.status()).as(answer.body()).isEqualTo(200);
    JsonNode first = answer.json().get(0);
    assertThat(first.path("kind").stringValue("")).isEqualTo("select");
    JsonNode sum = first.path("outputs").get(1);
    assertThat(sum.path("direct").toString())
        .contains("\"table\":\"core.pickup\"", "\"column\":\"litres\"", "AGGREGATION")
        .contains("postgres://x/core.pickup#litres");
    JsonNode span = sum.path("spans").get(0);
    assertThat(span.path("start").intValue()).isEqualTo(16);
    assertThat(span.path("end").intValue()).isEqualTo(27);
    assertThat(first.path("rows").toString()).contains("FILTER", "GROUP_BY");
    assertThat(first.path("reads").toString()).isEqualTo("[\"core.pickup\"]");
    assertThat(first.path("complete").booleanValue()).isTrue();
    assertThat(answer.json().get(1).path("target").stringValue("")).isEqualTo("core.pickup");
  }

  @Test
  void what_is_not_sql_is_a_problem_of_its_statement_and_not_an_error() {
    Api.Answer answer = ask("{'sql':'selec x frm y; select a from b'}");
    assertThat(answer.status()).isEqualTo(200);
    assertThat(answer.json().get(0).path("complete").booleanValue()).isFalse();
    assertThat(answer.json().get(0).path("problems").get(0).path("detail").stringValue(""))
        .contains("could not be parsed");
    assertThat(answer.json().get(1).path("complete").booleanValue()).isTrue();
  }

  @Test
  void a_question_without_sql_or_in_an_unknown_dialect_says_what_to_send() {
    assertThat(ask("{}").status()).isEqualTo(400);
    assertThat(ask("{}").type()).isEqualTo("/problems/no-sql");
    Api.Answer answer = ask("{'sql':'select 1','dialect':'klingon'}");
    assertThat(answer.status()).isEqualTo(400);
    assertThat(answer.detail()).contains("ansi, postgres, backtick or bracket");
  }

  @Test
  void a_run_that_tells_only_its_sql_has_derived_column_links() {
    run(
        AT,
        "sum-visits",
        "insert into mart.total (site, litres) select v.site, sum(v.litres) from core.visit v where v.day > 3 group by v.site",
        "",
        "");
    assertThat(into("litres")).contains("litres AGGREGATION derived");
    assertThat(into("site")).contains("site IDENTITY derived");
    JsonNode asset = api.get("/api/v1/asset", "ref", namespace + "/db.mart.total").json();
    assertThat(asset.path("evidence").path("derived").intValue()).isPositive();
    assertThat(asset.path("evidence").path("observed").intValue()).isZero();
  }

  @Test
  void a_star_is_told_apart_once_the_schema_is_known_even_if_it_comes_later() {
    run(AT, "copy-all", "insert into mart.total select * from core.visit", "", "");
    assertThat(into("litres")).isEmpty();
    api.event(
        Events.dataset(
            "2026-05-02T02:00:00Z", namespace, "db.core.visit", Events.schema("site", "litres")));
    api.event(
        Events.dataset(
            "2026-05-02T02:00:00Z", namespace, "db.mart.total", Events.schema("site", "litres")));
    assertThat(into("litres")).contains("litres IDENTITY derived");
  }

  @Test
  void what_the_run_and_its_sql_both_tell_is_confirmed_and_differences_are_listed() {
    String map =
        "'columnLineage':{'_producer':'p','_schemaURL':'s','fields':{'litres':{'inputFields':["
            + "{'namespace':'"
            + namespace
            + "','name':'db.core.visit','field':'litres','transformations':[{'type':'DIRECT','subtype':'IDENTITY'}]},"
            + "{'namespace':'"
            + namespace
            + "','name':'db.core.visit','field':'ghost','transformations':[{'type':'DIRECT','subtype':'IDENTITY'}]}]}}}";
    run(
        AT,
        "both",
        "insert into mart.total (litres) select litres from core.visit where open",
        Events.schema("litres", "open"),
        map);
    assertThat(into("litres"))
        .contains("litres IDENTITY observed confirmed", "ghost IDENTITY observed");
    JsonNode steps = api.get("/api/v1/job/steps", "ref", "@jobs-" + key + "/both").json();
    assertThat(steps.path("from").stringValue("")).isEqualTo("sql");
    assertThat(steps.path("confirmed").intValue()).isEqualTo(1);
    assertThat(steps.path("differences").toString())
        .contains("#ghost", "\"only\":\"run\"")
        .contains("#open", "\"only\":\"sql\"");
    assertThat(steps.path("tables").path("db.core.visit").stringValue(""))
        .isEqualTo(namespace + "/db.core.visit");
  }

  @Test
  void a_view_tells_its_query_and_is_read_again_when_a_schema_comes() {
    String view =
        "'longthread_view':{'_producer':'p','_schemaURL':'s','query':'select * from core.visit where open'}";
    api.event(Events.dataset(AT, namespace, "db.mart.total", view));
    assertThat(into("litres")).isEmpty();
    api.event(
        Events.dataset(
            "2026-05-02T02:00:00Z",
            namespace,
            "db.core.visit",
            Events.schema("site", "litres", "open")));
    assertThat(into("litres")).contains("litres IDENTITY derived");
  }

  @Test
  void a_job_reports_its_inner_steps_by_a_facet_and_else_its_inside_is_unknown() {
    String job = "prep-" + key;
    String facet =
        "'longthread_steps':{'_producer':'p','_schemaURL':'s','steps':[{'name':'clean','columns':[{'name':'fat','expression':'fat / 10','from':[{'namespace':'"
            + namespace
            + "','name':'db.core.visit','field':'fat','subtype':'TRANSFORMATION'}]}],'rows':[]},"
            + "{'name':'result','columns':[{'name':'fat','from':[{'step':'clean','field':'fat','subtype':'IDENTITY'}]}]}]}";
    String event =
        Events.run("COMPLETE", AT, UUID.randomUUID(), "jobs-" + key, job, "")
            .replace("'name':'" + job + "'}", "'name':'" + job + "','facets':{" + facet + "}}");
    api.event(event);
    JsonNode steps = api.get("/api/v1/job/steps", "ref", "@jobs-" + key + "/" + job).json();
    assertThat(steps.path("from").stringValue("")).isEqualTo("facet");
    JsonNode clean = steps.path("statements").get(0).path("steps").get(0);
    assertThat(clean.path("columns").get(0).path("expression").stringValue(""))
        .isEqualTo("fat / 10");
    assertThat(clean.path("columns").get(0).path("inPlace").booleanValue()).isTrue();

    assertThat(api.get("/api/v1/schemas/steps.json").json().path("title").stringValue(""))
        .contains("longthread_steps");

    api.event(Events.run("COMPLETE", AT, UUID.randomUUID(), "jobs-" + key, "dark", ""));
    assertThat(
            api.get("/api/v1/job/steps", "ref", "@jobs-" + key + "/dark")
                .json()
                .path("from")
                .stringValue(""))
        .isEqualTo("unknown");
  }
}
