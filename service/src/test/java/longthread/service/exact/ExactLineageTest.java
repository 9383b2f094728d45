package longthread.service.exact;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.Collections;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.UUID;
import java.util.stream.Collectors;
import java.util.stream.StreamSupport;
import longthread.service.testing.Api;
import longthread.service.testing.Events;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

/** Events go in over HTTP, late, doubled and mixed; which run's data is where is asked of it. */
@ExtendWith(RunningService.Extension.class)
class ExactLineageTest {
  private final String ns = "exact" + UUID.randomUUID().toString().substring(0, 8);
  private final Map<String, UUID> runs = new HashMap<>();
  private final List<String> events = new ArrayList<>();
  private Api api;

  @BeforeEach
  void useService(RunningService running) {
    api = running.api();
  }

  private static String minute(int minute) {
    return String.format("2026-05-04T%02d:%02d:00Z", minute / 60, minute % 60);
  }

  /** A run of a job with SQL, or without where that is empty. */
  private void run(
      String name, String job, int start, int end, String sql, String inputs, String outputs) {
    UUID id = runs.computeIfAbsent(name, k -> UUID.randomUUID());
    String code =
        sql.isEmpty()
            ? ""
            : ",\"facets\":{\"sql\":{\"_producer\":\"p:x\",\"_schemaURL\":\"s:x\",\"query\":\""
                + sql
                + "\",\"dialect\":\"postgres\"}}";
    String rest = "\"inputs\":[" + inputs + "],\"outputs\":[" + outputs + "]";
    for (String type : new String[] {"START", "COMPLETE"}) {
      events.add(
          "{\"eventTime\":\""
              + minute(type.equals("START") ? start : end)
              + "\",\"producer\":\"p:x\",\"schemaURL\":\"s:x\",\"eventType\":\""
              + type
              + "\",\"run\":{\"runId\":\""
              + id
              + "\"},\"job\":{\"namespace\":\""
              + ns
              + "\",\"name\":\""
              + job
              + "\""
              + code
              + "},"
              + rest
              + "}");
    }
  }

  private String table(String name, String more) {
    return "{\"namespace\":\"" + ns + "\",\"name\":\"" + name + "\"" + more + "}";
  }

  private static String facet(String kind, String key, String members) {
    return ",\""
        + kind
        + "\":{\""
        + key
        + "\":{\"_producer\":\"p:x\",\"_schemaURL\":\"s:x\","
        + members
        + "}}";
  }

  private static String day(String kind, String key, String condition, int day) {
    return facet(
        kind,
        key,
        "\""
            + condition
            + "\":{\"type\":\"compare\",\"comparison\":\"EQUAL\",\"left\":{\"type\":\"field\","
            + "\"field\":\"day\"},\"right\":{\"type\":\"literal\",\"value\":\""
            + day
            + "\"}}");
  }

  private static String read(int day) {
    return day("inputFacets", "subset", "inputCondition", day);
  }

  private static String wrote(int day) {
    return day("outputFacets", "outputSubset", "outputCondition", day);
  }

  /** The events arrive late, doubled and in any order. */
  private void send(long seed) {
    var random = new Random(seed);
    var sent = new ArrayList<>(events);
    sent.addAll(events.subList(0, events.size() / 2));
    Collections.shuffle(sent, random);
    sent.forEach(api::event);
  }

  private String name(String ref) {
    return runs.entrySet().stream()
        .filter(e -> ref.equals("run:" + e.getValue()))
        .map(Map.Entry::getKey)
        .findFirst()
        .orElse(ref.replace(ns + "/", ""));
  }

  private JsonNode behind(String ref, String... more) {
    var query = new ArrayList<>(List.of("ref", ref, "exact", "run"));
    query.addAll(List.of(more));
    Api.Answer answer = api.get("/api/v1/graph", query.toArray(String[]::new));
    assertThat(answer.status()).as(answer.toString()).isEqualTo(200);
    return answer.json();
  }

  private String members(JsonNode view) {
    return StreamSupport.stream(view.path("exact").path("runs").spliterator(), false)
        .map(
            run ->
                name(run.path("ref").stringValue(""))
                    + "@"
                    + run.path("hops").intValue()
                    + (run.path("certain").booleanValue() ? "" : "?"))
        .sorted()
        .collect(Collectors.joining(" "));
  }

  private static final String OLD = "truncate core; insert into core select a from raw";
  private static final String NEW = "truncate core; insert into core select b from raw";
  private static final String REFRESH = "create or replace table report as select * from core";

  private void changedJob(int refreshStart, int refreshEnd) {
    run("load", "load", 0, 5, "truncate raw; copy raw from stdin", "", table("raw", ""));
    run("monday", "build", 10, 20, OLD, table("raw", ""), table("core", ""));
    run(
        "refresh",
        "refresh",
        refreshStart,
        refreshEnd,
        REFRESH,
        table("core", ""),
        table("report", ""));
    run("tuesday", "build", 40, 50, NEW, table("raw", ""), table("core", ""));
  }

  @Test
  void a_report_rests_on_the_version_that_ran_before_it_was_refreshed() {
    changedJob(25, 30);
    send(1);
    JsonNode view = behind(ns + "/report");
    assertThat(members(view)).isEqualTo("load@3 monday@2 refresh@1");
    JsonNode build =
        StreamSupport.stream(view.path("exact").path("runs").spliterator(), false)
            .filter(run -> name(run.path("ref").stringValue("")).equals("monday"))
            .findFirst()
            .orElseThrow();
    assertThat(build.path("version").intValue()).isEqualTo(1);
    assertThat(build.path("newest").path("number").intValue()).isEqualTo(2);
    assertThat(build.path("newest").path("since").stringValue("")).isEqualTo(minute(40));
    assertThat(view.path("exact").path("outdated").toString())
        .contains("as version 1; version 2 has run since " + minute(40));
    assertThat(view.path("exact").path("summary").stringValue(""))
        .isEqualTo(
            "3 runs for certain, back to 0 sources; 1 job has a newer version than the one behind it.");
    assertThat(members(behind(ns + "/report", "asOf", minute(22))))
        .as("before the refresh nothing was in it")
        .isEmpty();
  }

  @Test
  void a_version_that_returns_is_newer_than_the_one_it_replaces() {
    changedJob(55, 58);
    run("wednesday", "build", 70, 80, OLD, table("raw", ""), table("core", ""));
    send(2);
    JsonNode exact = behind(ns + "/report").path("exact");
    assertThat(exact.path("outdated").toString())
        .contains("as version 2; version 1 has run since " + minute(70));
    assertThat(behind(ns + "/report", "asOf", minute(60)).path("exact").path("outdated"))
        .as("it had not returned then")
        .isEmpty();
    assertThat(behind(ns + "/core").path("exact").path("outdated"))
        .as("what the returned version wrote is not outdated")
        .isEmpty();
  }

  @Test
  void a_refresh_that_overlaps_the_change_is_ambiguous_and_says_why() {
    changedJob(45, 55);
    send(2);
    JsonNode view = behind(ns + "/report");
    assertThat(members(view)).isEqualTo("load@3? monday@2? refresh@1 tuesday@2?");
    assertThat(view.path("exact").path("ambiguous").intValue()).isEqualTo(1);
    assertThat(view.path("exact").path("uses").toString())
        .contains("it wrote while this was read", "a later run replaced it while this was read");
    assertThat(view.path("links").toString()).contains("it wrote while this was read");
  }

  @Test
  void parts_and_appends_are_told_apart() {
    for (int day = 1; day <= 3; day++) {
      run("day" + day, "add", 10 * day, 10 * day + 5, "", "", table("t", wrote(day)));
    }
    run("again", "add", 50, 55, "", "", table("t", wrote(2)));
    run(
        "one",
        "one",
        60,
        65,
        "create table out1 as select 1",
        table("t", read(2)),
        table("out1", ""));
    run(
        "two",
        "two",
        42,
        45,
        "create table out2 as select 1",
        table("t", read(2)),
        table("out2", ""));
    send(3);
    assertThat(members(behind(ns + "/out1")))
        .as("of a write that says nothing, what was before may be left")
        .isEqualTo("again@2 day2@2? one@1");
    assertThat(members(behind(ns + "/out2"))).isEqualTo("day2@2 two@1");
    assertThat(members(behind("run:" + runs.get("two")))).isEqualTo("day2@1 two@0");
  }

  @Test
  void a_version_of_the_data_that_was_read_decides() {
    String overwrite =
        "{\"lifecycleStateChange\":{\"_producer\":\"p:x\",\"_schemaURL\":\"s:x\","
            + "\"lifecycleStateChange\":\"OVERWRITE\"},\"version\":{\"_producer\":\"p:x\","
            + "\"_schemaURL\":\"s:x\",\"datasetVersion\":\"%s\"}}";
    run("first", "w", 0, 5, "", "", table("t", ",\"facets\":" + overwrite.formatted("v1")));
    run("second", "w", 10, 15, "", "", table("t", ",\"facets\":" + overwrite.formatted("v2")));
    run(
        "pinned",
        "r",
        20,
        25,
        "create table out as select 1",
        table(
            "t",
            ",\"facets\":{\"version\":{\"_producer\":\"p:x\",\"_schemaURL\":\"s:x\","
                + "\"datasetVersion\":\"v1\"}}"),
        table("out", ""));
    send(4);
    JsonNode view = behind(ns + "/out");
    assertThat(members(view)).isEqualTo("first@2 pinned@1");
    assertThat(view.path("exact").path("uses").toString()).contains("\"by\":\"version\"");
  }

  @Test
  void a_column_is_followed_to_the_inputs_it_is_made_from() {
    run("a", "la", 0, 5, "create table a as select 1 as x", "", table("a", ""));
    run("b", "lb", 0, 5, "create table b as select 1 as y", "", table("b", ""));
    String map =
        ",\"facets\":{\"columnLineage\":{\"_producer\":\"p:x\",\"_schemaURL\":\"s:x\",\"fields\":{"
            + "\"x\":{\"inputFields\":[{\"namespace\":\""
            + ns
            + "\",\"name\":\"a\",\"field\":\"x\"}]},"
            + "\"y\":{\"inputFields\":[{\"namespace\":\""
            + ns
            + "\",\"name\":\"b\",\"field\":\"y\"}]}"
            + "}},\"lifecycleStateChange\":{\"_producer\":\"p:x\",\"_schemaURL\":\"s:x\","
            + "\"lifecycleStateChange\":\"OVERWRITE\"},"
            + Events.schema("x", "y")
            + "}";
    run("join", "join", 10, 15, "", table("a", "") + "," + table("b", ""), table("both", map));
    send(5);
    assertThat(members(behind(ns + "/both"))).isEqualTo("a@2 b@2 join@1");
    assertThat(members(behind(ns + "/both#x"))).isEqualTo("a@2 join@1");
    assertThat(members(behind(ns + "/both#y"))).isEqualTo("b@2 join@1");
  }

  private String recalled(JsonNode list) {
    return StreamSupport.stream(list.path("items").spliterator(), false)
        .map(
            item ->
                item.path("ref").stringValue("").replace(ns + "/", "")
                    + ":"
                    + item.path("state").stringValue(""))
        .collect(Collectors.joining(" "));
  }

  @Test
  void a_recall_lists_what_holds_a_bad_load_and_what_was_refreshed_since() {
    run("bad", "load", 0, 5, "truncate raw; copy raw from stdin", "", table("raw", ""));
    run(
        "copy",
        "copy",
        10,
        15,
        "create table copy as select * from raw",
        table("raw", ""),
        table("copy", ""));
    run(
        "refresh",
        "refresh",
        10,
        15,
        "create or replace table report as select * from raw",
        table("raw", ""),
        table("report", ""));
    run("good", "load", 20, 25, "truncate raw; copy raw from stdin", "", table("raw", ""));
    run(
        "refresh2",
        "refresh",
        30,
        35,
        "create or replace table report as select * from raw",
        table("raw", ""),
        table("report", ""));
    send(6);
    JsonNode list = api.get("/api/v1/recall", "ref", "run:" + runs.get("bad")).json();
    assertThat(recalled(list)).isEqualTo("raw:replaced copy:holds report:replaced");
    assertThat(list.path("holds").intValue()).isEqualTo(1);
    assertThat(name(list.path("items").get(2).path("replacedBy").stringValue("")))
        .isEqualTo("refresh2");
    JsonNode then =
        api.get("/api/v1/recall", "ref", "run:" + runs.get("bad"), "asOf", minute(18)).json();
    assertThat(recalled(then)).isEqualTo("raw:holds copy:holds report:holds");
    assertThat(recalled(api.get("/api/v1/recall", "ref", "@" + ns + "/load").json()))
        .as("a job stands for its newest completed run")
        .isEqualTo("raw:holds report:holds");
    assertThat(
            recalled(
                api.get("/api/v1/recall", "ref", "run:" + runs.get("bad"), "state", "holds")
                    .json()))
        .isEqualTo("copy:holds");
  }

  @Test
  void wrong_questions_are_refused_with_what_to_do() {
    run("load", "load", 0, 5, "truncate raw; copy raw from stdin", "", table("raw", ""));
    send(7);
    String ref = ns + "/raw";
    assertThat(api.get("/api/v1/graph", "ref", ref, "exact", "yes").type())
        .isEqualTo("/problems/bad-exact");
    assertThat(
            api.get("/api/v1/graph", "ref", ref, "exact", "run", "direction", "downstream").type())
        .isEqualTo("/problems/bad-direction");
    assertThat(api.get("/api/v1/graph", "ref", "@" + ns + "/load", "exact", "run").type())
        .isEqualTo("/problems/bad-reference");
    assertThat(api.get("/api/v1/graph", "ref", "run:" + new UUID(0, 7), "exact", "run").type())
        .isEqualTo("/problems/unknown-run");
    assertThat(api.get("/api/v1/recall", "ref", ref).type()).isEqualTo("/problems/bad-reference");
    assertThat(api.get("/api/v1/recall", "ref", "@" + ns + "/load", "state", "bad").type())
        .isEqualTo("/problems/unknown-state");
  }
}
