package longthread.service.apply;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.List;
import java.util.TreeSet;
import java.util.UUID;
import longthread.service.testing.Api;
import longthread.service.testing.Events;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

/** What real engines and clients send, and what must follow from it. */
@ExtendWith(RunningService.Extension.class)
class RealEmittersTest {
  private final Api api;
  private final String n = "real-" + UUID.randomUUID().toString().substring(0, 8);

  RealEmittersTest(RunningService service) {
    this.api = service.api();
  }

  private void send(String event) {
    Api.Answer answer = api.event(event);
    assertThat(answer.status()).as(answer.body()).isEqualTo(201);
  }

  private void run(String type, String at, UUID id, String job, String rest) {
    send(Events.run(type, at, id, n, job, rest));
  }

  private void completed(String at, String job, String rest) {
    run("COMPLETE", at, UUID.randomUUID(), job, rest);
  }

  private JsonNode get(String path, String... parameters) {
    Api.Answer answer = api.get("/api/v1/" + path, parameters);
    assertThat(answer.status()).as(answer.body()).isEqualTo(200);
    return answer.json();
  }

  private String set(String name, String facets) {
    return "{'namespace':'" + n + "','name':'" + name + "','facets':{" + facets + "}}";
  }

  private String inputs(String... sets) {
    return "'inputs':[" + String.join(",", sets) + "]";
  }

  private String outputs(String... sets) {
    return "'outputs':[" + String.join(",", sets) + "]";
  }

  /** Impact items as {@code name verdict certainty}, in order. */
  private List<String> impact(String ref, String change) {
    var items = new TreeSet<String>();
    get("impact", "ref", ref, "change", change)
        .path("items")
        .forEach(
            item ->
                items.add(
                    item.path("ref").stringValue().replace(n + "/", "")
                        + " "
                        + item.path("verdict").stringValue()
                        + " "
                        + item.path("certainty").stringValue()));
    return List.copyOf(items);
  }

  private List<String> columns(String name) {
    var columns = new ArrayList<String>();
    get("asset", "ref", n + "/" + name)
        .path("columns")
        .forEach(column -> columns.add(column.path("name").stringValue()));
    return columns;
  }

  @Test
  void a_member_sent_twice_is_taken_and_the_sender_is_warned() {
    UUID id = UUID.randomUUID();
    String event =
        Events.run("COMPLETE", "2026-05-01T00:00:00Z", id, n, "rdd", outputs(set("t", "")))
            .replace(
                "'run':{'runId':'" + id + "'}",
                "'run':{'runId':'"
                    + id
                    + "','facets':{'processing_engine':{'name':'e','version':'1'},"
                    + "'processing_engine':{'name':'e','version':'2'}}}");
    JsonNode answer = api.event(event).json();
    assertThat(answer.path("warnings").get(0).path("problem").stringValue())
        .isEqualTo("repeated-member");
    JsonNode detail = get("run", "ref", "run:" + id);
    assertThat(detail.path("facets").path("processing_engine").path("version").stringValue())
        .isEqualTo("2");
    JsonNode batch = api.post("/api/v1/lineage/batch", event.replace('\'', '"')).json();
    assertThat(batch.path("warnings").get(0).path("index").intValue()).isZero();
    String recent = get("intake", "limit", "20").path("recent").toString();
    assertThat(recent).contains("warning: an object has the member 'processing_engine'");
  }

  @Test
  void a_job_with_many_inputs_and_outputs_is_taken_in_and_followed_through_the_job() {
    var from = new ArrayList<String>();
    var to = new ArrayList<String>();
    for (int i = 0; i < 1_500; i++) {
      from.add(set("in" + i, ""));
      to.add(set("out" + i, ""));
    }
    completed(
        "2026-05-01T00:00:00Z",
        "copy_all",
        inputs(from.toArray(String[]::new)) + "," + outputs(to.toArray(String[]::new)));
    JsonNode thread = get("thread", "from", n + "/in3", "to", n + "/out1499");
    assertThat(thread.path("hops")).hasSize(2);
    assertThat(thread.toString()).contains("@" + n + "/copy_all");
    assertThat(get("impact", "ref", n + "/in3", "change", "delay").path("items").toString())
        .contains("copy_all", "out0");
    assertThat(get("asset", "ref", n + "/out7").path("freshness").path("written").stringValue())
        .isEqualTo("2026-05-01T00:00:00Z");
  }

  @Test
  void a_time_far_ahead_is_named_to_the_sender() {
    JsonNode answer =
        api.event(Events.run("COMPLETE", "2999-05-01T00:00:00Z", UUID.randomUUID(), n, "j", ""))
            .json();
    assertThat(answer.path("warnings").get(0).path("problem").stringValue())
        .isEqualTo("far-future");
  }

  @Test
  void a_job_that_only_reads_is_a_consumer() {
    completed("2026-05-01T00:00:00Z", "export", inputs(set("t", Events.schema("a", "b"))));
    assertThat(impact(n + "/t#a", "drop")).containsExactly("@export breaks possible");
    assertThat(impact(n + "/t", "delay")).containsExactly("@export goes-stale certain");
  }

  @Test
  void the_query_of_a_job_that_only_reads_says_which_columns_it_uses() {
    String sql = "'facets':{'sql':{'query':'select a from t where b > 1'}}";
    send(
        Events.run(
                "COMPLETE",
                "2026-05-01T00:00:00Z",
                UUID.randomUUID(),
                n,
                "check",
                inputs(set("t", Events.schema("a", "b", "c"))))
            .replace("'name':'check'", "'name':'check'," + sql));
    assertThat(impact(n + "/t#a", "drop")).containsExactly("@check breaks certain");
    assertThat(impact(n + "/t#b", "drop")).containsExactly("@check breaks certain");
    JsonNode unused = get("impact", "ref", n + "/t#c", "change", "drop");
    assertThat(unused.path("items")).isEmpty();
    assertThat(unused.path("untouched").path("items").toString())
        .contains("check", "\"certainty\":\"certain\"");
  }

  @Test
  void a_failed_job_that_only_writes_is_a_suspect_and_gives_freshness() {
    completed("2026-05-01T00:00:00Z", "ingest", outputs(set("raw", Events.schema("a"))));
    completed("2026-05-01T01:00:00Z", "build", Events.copies(n, "raw", "mart", "a"));
    assertThat(get("asset", "ref", n + "/raw").path("freshness").path("written").stringValue())
        .isEqualTo("2026-05-01T00:00:00Z");
    run(
        "FAIL",
        "2026-05-02T00:00:00Z",
        UUID.randomUUID(),
        "ingest",
        outputs(set("raw", Events.schema("a"))));
    JsonNode causes =
        get("causes", "ref", n + "/mart", "at", "2026-05-02T03:00:00Z").path("suspects");
    assertThat(causes.get(0).path("ref").stringValue()).isEqualTo("@" + n + "/ingest");
    assertThat(get("runs", "job", "@" + n + "/ingest").path("runs")).hasSize(2);
  }

  @Test
  void dropping_a_struct_reaches_what_reads_its_fields_and_the_other_way_round() {
    String schema = "'schema':{'fields':[{'name':'pos','fields':[{'name':'lat'},{'name':'lon'}]}]}";
    String map =
        "'schema':{'fields':[{'name':'x'}]},'columnLineage':{'fields':{'x':{'inputFields':["
            + "{'namespace':'"
            + n
            + "','name':'t','field':'FIELD','transformations':[{'type':'DIRECT',"
            + "'subtype':'IDENTITY'}]}]}}}";
    completed(
        "2026-05-01T00:00:00Z",
        "fields",
        inputs(set("t", schema)) + "," + outputs(set("f", map.replace("FIELD", "pos.lat"))));
    completed(
        "2026-05-01T00:00:00Z",
        "whole",
        inputs(set("t", schema)) + "," + outputs(set("w", map.replace("FIELD", "pos"))));
    assertThat(impact(n + "/t#pos", "drop"))
        .contains("@fields breaks possible", "@whole breaks certain");
    assertThat(impact(n + "/t#pos.lat", "drop"))
        .contains("@fields breaks certain", "@whole breaks possible");
    assertThat(impact(n + "/t#pos.lon", "drop")).doesNotContain("@fields breaks possible");
    String links =
        get("graph", "ref", n + "/t#pos", "detail", "columns", "direction", "downstream")
            .path("links")
            .toString();
    assertThat(links).contains("f#x", "w#x");
  }

  @Test
  void a_readers_projection_never_takes_a_column_of_the_writer_away() {
    completed("2026-05-01T00:00:00Z", "write", outputs(set("t", Events.schema("a", "b", "c"))));
    completed(
        "2026-05-02T00:00:00Z",
        "read",
        inputs(set("t", Events.schema("b", "_metadata"))) + "," + outputs(set("o", "")));
    assertThat(columns("t")).containsExactly("a", "b", "c");
    // Where only readers report any, what they report adds up.
    completed(
        "2026-05-01T00:00:00Z",
        "one",
        inputs(set("r", Events.schema("a", "b"))) + "," + outputs(set("p", "")));
    completed(
        "2026-05-02T00:00:00Z",
        "two",
        inputs(set("r", Events.schema("c"))) + "," + outputs(set("q", "")));
    assertThat(columns("r")).containsExactlyInAnyOrder("a", "b", "c");
  }

  @Test
  void a_dropped_dataset_with_an_alias_is_retired_until_it_is_written_again() {
    String alias =
        "'symlinks':{'identifiers':[{'namespace':'" + n + "','name':'db.t','type':'TABLE'}]}";
    completed(
        "2026-05-01T00:00:00Z", "write", outputs(set("wh/t", Events.schema("a") + "," + alias)));
    assertThat(get("asset", "ref", n + "/db.t").path("retired").booleanValue()).isFalse();
    completed(
        "2026-05-02T00:00:00Z",
        "drop",
        outputs(set("wh/t", alias + ",'lifecycleStateChange':{'lifecycleStateChange':'DROP'}")));
    assertThat(get("asset", "ref", n + "/db.t").path("retired").booleanValue()).isTrue();
    completed("2026-05-03T00:00:00Z", "write", outputs(set("wh/t", alias)));
    assertThat(get("asset", "ref", n + "/db.t").path("retired").booleanValue()).isFalse();
  }

  @Test
  void after_a_rename_the_new_name_leads_and_its_schema_counts() {
    completed(
        "2026-05-01T00:00:00Z",
        "write",
        outputs(
            set(
                "wh/a",
                Events.schema("x", "old")
                    + ",'symlinks':{'identifiers':[{'namespace':'"
                    + n
                    + "','name':'db.a','type':'TABLE'}]}")));
    completed(
        "2026-05-02T00:00:00Z",
        "alter",
        outputs(
            set(
                "wh/b",
                Events.schema("x", "new")
                    + ",'symlinks':{'identifiers':[{'namespace':'"
                    + n
                    + "','name':'db.b','type':'TABLE'}]}"
                    + ",'lifecycleStateChange':{'lifecycleStateChange':'RENAME',"
                    + "'previousIdentifier':{'namespace':'"
                    + n
                    + "','name':'wh/a'}}")));
    JsonNode asset = get("asset", "ref", n + "/wh/a");
    assertThat(asset.path("ref").stringValue()).isEqualTo(n + "/db.b");
    assertThat(columns("db.b")).containsExactly("x", "new");
  }

  @Test
  void names_that_look_like_paths_are_columns_like_any_other() {
    String schema =
        "'schema':{'fields':[{'name':'.'},{'name':'..'},{'name':'../x'},{'name':'.id'}]}";
    String map = "";
    for (String name : List.of(".", "..", "../x", ".id")) {
      map +=
          (map.isEmpty() ? "" : ",")
              + "'"
              + name
              + "':{'inputFields':[{'namespace':'"
              + n
              + "','name':'src','field':'"
              + name
              + "','transformations':[{'type':'DIRECT','subtype':'IDENTITY'}]}]}";
    }
    completed(
        "2026-05-01T00:00:00Z",
        "copy",
        inputs(set("src", ""))
            + ","
            + outputs(set("dst", schema + ",'columnLineage':{'fields':{" + map + "}}")));
    JsonNode columns = get("asset", "ref", n + "/dst").path("columns");
    assertThat(columns).hasSize(4);
    for (JsonNode column : columns) {
      assertThat(column.path("listed").booleanValue()).isTrue();
      assertThat(column.path("sources")).as(column.toString()).hasSize(1);
    }
    for (String typed : List.of(".id", "../x", "..", ".")) {
      assertThat(get("graph", "ref", n + "/dst#" + typed, "detail", "columns").path("links"))
          .as(typed)
          .isNotEmpty();
    }
  }

  @Test
  void names_with_spaces_at_their_end_open_with_all_that_is_theirs() {
    completed("2026-05-01T00:00:00Z", "spaced ", outputs(set("t ", Events.schema("a"))));
    assertThat(get("asset", "ref", n + "/t ").path("ref").stringValue()).isEqualTo(n + "/t ");
    assertThat(get("runs", "job", "@" + n + "/spaced ").path("runs")).hasSize(1);
    assertThat(get("job", "ref", "@" + n + "/spaced ").path("targets")).hasSize(1);
  }

  @Test
  void runs_of_a_namespace_that_references_encode_are_found_by_it() {
    String namespace = n + "/sub:";
    send(Events.run("COMPLETE", "2026-05-01T00:00:00Z", UUID.randomUUID(), namespace, "j", ""));
    assertThat(get("runs", "system", namespace).path("runs")).hasSize(1);
    assertThat(get("asset", "ref", "@" + namespace + "/j").path("name").stringValue())
        .isEqualTo("j");
  }

  @Test
  void a_run_takes_as_long_as_its_events_say_to_the_nanosecond() {
    UUID id = UUID.randomUUID();
    run("START", "2026-05-01T00:00:00.000000001Z", id, "quick", "");
    run("COMPLETE", "2026-05-01T00:00:00.000000002Z", id, "quick", "");
    JsonNode run = get("run", "ref", "run:" + id).path("run");
    assertThat(run.path("seconds").doubleValue()).isEqualTo(1e-9);
    assertThat(run.path("start").stringValue()).isEqualTo("2026-05-01T00:00:00.000000001Z");
  }

  @Test
  void events_that_say_nothing_of_the_state_leave_it_unknown() {
    UUID id = UUID.randomUUID();
    run("OTHER", "2026-05-01T00:00:00Z", id, "odd", "");
    assertThat(get("run", "ref", "run:" + id).path("run").path("state").stringValue())
        .isEqualTo("unknown");
    assertThat(get("runs", "state", "unknown", "job", "@" + n + "/odd").path("runs")).hasSize(1);
    run("START", "2026-04-30T23:00:00Z", id, "odd", "");
    assertThat(get("run", "ref", "run:" + id).path("run").path("state").stringValue())
        .isEqualTo("running");
  }

  @Test
  void jobs_that_lineage_or_dependencies_name_have_pages() {
    send(
        Events.run(
                "COMPLETE",
                "2026-05-01T00:00:00Z",
                UUID.randomUUID(),
                n,
                "main",
                outputs(set("t", "")))
            .replace(
                "'name':'main'",
                "'name':'main','facets':{'lineage':{'entries':[{'type':'JOB','namespace':'"
                    + n
                    + "','name':'target','inputs':[{'type':'JOB','namespace':'"
                    + n
                    + "','name':'source'}]}]}}"));
    assertThat(get("asset", "ref", "@" + n + "/target").path("kind").stringValue())
        .isEqualTo("job");
    assertThat(get("asset", "ref", "@" + n + "/source").path("kind").stringValue())
        .isEqualTo("job");
  }

  @Test
  void what_a_run_reports_of_its_reading_and_writing_stands_beside_it() {
    UUID id = UUID.randomUUID();
    run(
        "COMPLETE",
        "2026-05-01T00:00:00Z",
        id,
        "scan",
        "'inputs':[{'namespace':'"
            + n
            + "','name':'t','inputFacets':{'icebergScanReport':{'snapshotId':7}}}]");
    JsonNode part = get("run", "ref", "run:" + id).path("parts").get(0);
    assertThat(part.path("facets").path("icebergScanReport").path("snapshotId").intValue())
        .isEqualTo(7);
  }

  @Test
  void a_run_whose_parent_never_reported_is_among_the_outermost() {
    UUID id = UUID.randomUUID();
    send(
        Events.run("COMPLETE", "2026-05-01T00:00:00Z", id, n, "child", "")
            .replace(
                "'run':{'runId':'" + id + "'}",
                "'run':{'runId':'"
                    + id
                    + "','facets':{'parent':{'run':{'runId':'"
                    + UUID.randomUUID()
                    + "'},'job':{'namespace':'"
                    + n
                    + "','name':'flow'}}}}"));
    assertThat(get("runs", "system", n, "outermost", "true").path("runs")).hasSize(1);
  }

  @Test
  void a_source_that_two_jobs_report_is_listed_once_with_both() {
    completed("2026-05-01T00:00:00Z", "one", Events.copies(n, "src", "dst", "a"));
    completed("2026-05-01T00:00:00Z", "two", Events.copies(n, "src", "dst", "a"));
    JsonNode sources = get("asset", "ref", n + "/dst").path("columns").get(0).path("sources");
    assertThat(sources).hasSize(1);
    assertThat(sources.get(0).path("jobs")).hasSize(2);
  }

  @Test
  void a_dataset_that_sql_named_first_gets_its_page_when_an_event_names_it() {
    String sql = "'facets':{'sql':{'query':'insert into x.dst select a from x.src'}}";
    send(
        Events.run(
                "COMPLETE",
                "2026-05-01T00:00:00Z",
                UUID.randomUUID(),
                n,
                "load",
                outputs(set("db.x.dst", Events.schema("a"))))
            .replace("'name':'load'", "'name':'load'," + sql));
    completed(
        "2026-05-02T00:00:00Z",
        "other",
        inputs(set("db.x.src", "")) + "," + outputs(set("db.x.out", "")));
    assertThat(get("asset", "ref", n + "/db.x.src").path("ref").stringValue())
        .isEqualTo(n + "/db.x.src");
    assertThat(get("search", "q", "x.src").path("hits").toString()).contains(n);
  }

  @Test
  void statements_of_one_night_keep_each_others_links() {
    String[] statements = {
      "merge into t using m on t.id = m.id when matched then update set a = m.a",
      "update t set b = u.b from u where t.id = u.id",
      "delete from t where id in (select id from d)",
    };
    for (int i = 0; i < statements.length; i++) {
      send(
          Events.run(
                  "COMPLETE",
                  "2026-05-01T00:0" + i + ":00Z",
                  UUID.randomUUID(),
                  n,
                  "night",
                  outputs(set("s.t", Events.schema("id", "a", "b"))))
              .replace(
                  "'name':'night'",
                  "'name':'night','facets':{'sql':{'query':'" + statements[i] + "'}}"));
    }
    String links =
        get("graph", "ref", n + "/s.t", "direction", "upstream", "detail", "columns")
            .path("links")
            .toString();
    assertThat(links).contains("m#a", "u#b");
  }
}
