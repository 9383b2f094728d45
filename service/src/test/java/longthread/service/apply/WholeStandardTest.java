package longthread.service.apply;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.UUID;
import longthread.service.testing.Api;
import longthread.service.testing.Events;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

/** What becomes of each part of the standard that an emitter may send. */
@ExtendWith(RunningService.Extension.class)
class WholeStandardTest {
  private final Api api;
  private final String n = "std-" + UUID.randomUUID().toString().substring(0, 8);

  WholeStandardTest(RunningService service) {
    this.api = service.api();
  }

  private void run(String type, String at, UUID id, String job, String rest) {
    assertThat(api.event(Events.run(type, at, id, n, job, rest)).status()).isEqualTo(201);
  }

  private void dataset(String at, String name, String facets) {
    assertThat(api.event(Events.dataset(at, n, name, facets)).status()).isEqualTo(201);
  }

  private JsonNode get(String path, String ref) {
    Api.Answer answer = api.get("/api/v1/" + path, "ref", ref);
    assertThat(answer.status()).as(answer.body()).isEqualTo(200);
    return answer.json();
  }

  private String links(String ref) {
    Api.Answer answer =
        api.get("/api/v1/graph", "ref", ref, "direction", "upstream", "detail", "columns");
    assertThat(answer.status()).as(answer.body()).isEqualTo(200);
    return answer.json().path("links").toString();
  }

  private String set(String name) {
    return "{'namespace':'" + n + "','name':'" + name + "'}";
  }

  private String asText(String name, String field) {
    return "{'type':'DATASET','namespace':'"
        + n
        + "','name':'"
        + name
        + "'"
        + (field.isEmpty() ? "" : ",'field':'" + field + "'")
        + ",'transformations':[{'type':'DIRECT','subtype':'IDENTITY'}]}";
  }

  @Test
  void a_dataset_tells_its_own_sources_without_a_job() {
    dataset(
        "2026-03-01T00:00:00Z",
        "view",
        "'lineage':{'inputs':["
            + asText("base", "")
            + "],'fields':{'a':{'inputs':["
            + asText("base", "x")
            + "]}}}");
    assertThat(links(n + "/view#a")).contains(n + "/base#x");
    JsonNode view = get("asset", n + "/view");
    assertThat(view.path("upstream").path(0).path("ref").stringValue()).isEqualTo(n + "/base");
    assertThat(view.path("evidence").path("declared").intValue()).isPositive();
  }

  @Test
  void the_lineage_of_a_job_says_which_input_feeds_which_output() {
    String entry =
        "{'type':'DATASET','namespace':'NS','name':'OUT','inputs':[FROM]}".replace("NS", n);
    api.event(
        Events.run("COMPLETE", "2026-03-01T00:00:00Z", UUID.randomUUID(), n, "two", "")
            .replace(
                "'name':'two'}",
                "'name':'two','facets':{'lineage':{'entries':["
                    + entry.replace("OUT", "o1").replace("FROM", asText("i1", ""))
                    + ","
                    + entry
                        .replace("OUT", "o2")
                        .replace(
                            "FROM",
                            asText("i2", "")
                                + ",{'type':'JOB','namespace':'"
                                + n
                                + "','name':'feeder'}")
                    + "]}}},'inputs':["
                    + set("i1")
                    + ","
                    + set("i2")
                    + "],'outputs':["
                    + set("o1")
                    + ","
                    + set("o2")
                    + "]"));
    assertThat(get("asset", n + "/o1").path("upstream").toString())
        .contains(n + "/i1")
        .doesNotContain(n + "/i2");
    JsonNode tie = get("asset", "@" + n + "/two").path("ties").path(0);
    assertThat(tie.path("ref").stringValue()).isEqualTo("@" + n + "/feeder");
    assertThat(tie.path("data").booleanValue()).isTrue();
  }

  @Test
  void control_flow_is_shown_apart_from_data_and_from_both_ends() {
    String facet =
        "'run':{'runId':'ID','facets':{'jobDependencies':{'upstream':[{'job':{'namespace':'NS','name':'before'}}],'trigger_rule':'ALL_DONE'}}}"
            .replace("NS", n);
    UUID id = UUID.randomUUID();
    api.event(
        Events.run("COMPLETE", "2026-03-01T00:00:00Z", id, n, "next", "")
            .replace("'run':{'runId':'" + id + "'}", facet.replace("ID", id.toString())));
    run("COMPLETE", "2026-03-01T00:00:00Z", UUID.randomUUID(), "before", "");
    JsonNode tie = get("asset", "@" + n + "/next").path("ties").path(0);
    assertThat(tie.path("before").booleanValue()).isTrue();
    assertThat(tie.path("data").booleanValue()).isFalse();
    assertThat(tie.path("rule").stringValue()).isEqualTo("ALL_DONE");
    JsonNode back = get("asset", "@" + n + "/before").path("ties").path(0);
    assertThat(back.path("ref").stringValue()).isEqualTo("@" + n + "/next");
    assertThat(back.path("before").booleanValue()).isFalse();
    assertThat(get("asset", "@" + n + "/next").path("upstream")).isEmpty();
  }

  @Test
  void checks_have_a_timeline_with_their_text_and_are_no_datasets() {
    for (int day = 1; day <= 3; day++) {
      UUID id = UUID.randomUUID();
      api.event(
          Events.run(
                  "COMPLETE",
                  "2026-03-0" + day + "T00:00:00Z",
                  id,
                  n,
                  "tests",
                  "'inputs':[" + set("checked") + "]")
              .replace(
                  "'run':{'runId':'" + id + "'}",
                  "'run':{'runId':'"
                      + id
                      + "','facets':{'test':{'tests':[{'name':'no nulls','status':'"
                      + (day == 2 ? "fail" : "pass")
                      + "','expected':'0','actual':'"
                      + day
                      + "','content':'select count(*)','contentType':'SQL'}]}}}"));
    }
    JsonNode check = get("checks", n + "/checked").path("checks").path(0);
    assertThat(check.path("name").stringValue()).isEqualTo("no nulls");
    assertThat(check.path("content").stringValue()).isEqualTo("select count(*)");
    assertThat(check.path("results").toString())
        .containsSubsequence("\"pass\"", "\"fail\"", "\"pass\"");
    assertThat(api.get("/api/v1/search", "q", "no nulls").json().path("hits").toString())
        .doesNotContain("nulls");
    assertThat(get("checks", "@" + n + "/tests").path("checks")).hasSize(1);
  }

  @Test
  void a_rename_carries_the_past_on_and_a_new_life_of_the_old_name_starts_empty() {
    UUID id = UUID.randomUUID();
    run("COMPLETE", "2026-03-01T00:00:00Z", id, "load", Events.copies(n, "src", "old", "a"));
    dataset("2026-03-01T00:00:00Z", "old", "'documentation':{'description':'the words'}");
    dataset(
        "2026-03-05T00:00:00Z",
        "new",
        "'lifecycleStateChange':{'lifecycleStateChange':'RENAME','previousIdentifier':"
            + set("old")
            + "}");
    JsonNode renamed = get("asset", n + "/old");
    assertThat(renamed.path("ref").stringValue()).isEqualTo(n + "/new");
    assertThat(renamed.path("description").stringValue()).isEqualTo("the words");
    assertThat(renamed.path("runs").path(0).path("ref").stringValue()).isEqualTo("run:" + id);
    assertThat(links(n + "/new#a")).contains(n + "/src#a");
    assertThat(get("history", n + "/new").toString()).contains("was called " + n + "/old");

    run(
        "COMPLETE",
        "2026-03-09T00:00:00Z",
        UUID.randomUUID(),
        "other",
        Events.copies(n, "src2", "old", "b"));
    JsonNode again = get("asset", n + "/old");
    assertThat(again.path("ref").stringValue()).isEqualTo(n + "/old");
    assertThat(again.path("description").isMissingNode()).isTrue();
    assertThat(links(n + "/new#a")).contains(n + "/src#a");
    assertThat(links(n + "/old#b")).contains(n + "/src2#b").doesNotContain(n + "/src#a");
  }

  @Test
  void partitions_fold_into_one_asset_and_stay_openable() {
    for (int day = 1; day <= 9; day++) {
      if (day != 4) {
        String part = "lake/milk/day=2026-03-0" + day;
        run(
            "COMPLETE",
            "2026-03-0" + day + "T00:00:00Z",
            UUID.randomUUID(),
            "land",
            "'inputs':["
                + set("drop/milk_2026030" + day + ".csv")
                + "],'outputs':["
                + set(part)
                + "]");
      }
    }
    JsonNode whole = get("asset", n + "/lake/milk");
    assertThat(whole.path("ref").stringValue()).isEqualTo(n + "/lake/milk");
    assertThat(whole.path("partCount").intValue()).isEqualTo(8);
    assertThat(whole.path("upstream")).hasSize(1);
    assertThat(whole.path("upstream").path(0).path("ref").stringValue())
        .isEqualTo(n + "/drop/milk_{date}.csv");
    JsonNode parts = get("parts", n + "/lake/milk");
    assertThat(parts.path("total").intValue()).isEqualTo(8);
    assertThat(parts.path("missingDays").path(0).stringValue()).isEqualTo("2026-03-04");
    assertThat(parts.path("parts").path(0).path("writtenBy").path(0).stringValue())
        .isEqualTo("@" + n + "/land");
    JsonNode fold = api.get("/api/v1/fold", "name", n + "/lake/milk/day=2026-03-07").json();
    assertThat(fold.path("whole").stringValue()).isEqualTo(n + "/lake/milk");
    assertThat(fold.path("rule").stringValue()).isEqualTo("partition-directory");
    assertThat(api.get("/api/v1/fold", "name", "no slash").status()).isEqualTo(400);
  }

  @Test
  void a_stream_is_alive_while_it_reports_and_its_newest_numbers_count() {
    UUID id = UUID.randomUUID();
    String stream = "'facets':{'jobType':{'processingType':'STREAMING','integration':'X'}}";
    for (int hour = 1; hour <= 3; hour++) {
      api.event(
          Events.run(
                  "RUNNING",
                  "2026-03-01T0" + hour + ":00:00Z",
                  id,
                  n,
                  "stream",
                  "'inputs':["
                      + set("topic")
                      + "],'outputs':[{'namespace':'"
                      + n
                      + "','name':'hourly','outputFacets':{'outputStatistics':{'rowCount':"
                      + hour * 10
                      + "}}}]")
              .replace("'name':'stream'}", "'name':'stream'," + stream + "}"));
    }
    JsonNode run = get("run", "run:" + id).path("run");
    assertThat(run.path("state").stringValue()).isEqualTo("running");
    assertThat(run.path("rowsWritten").intValue()).isEqualTo(30);
    assertThat(run.path("lastReportedAt").stringValue()).startsWith("2026-03-01T03:00");
    assertThat(run.path("stalled").booleanValue()).as("silent for months").isTrue();
    assertThat(get("asset", n + "/hourly").path("upstream")).hasSize(1);
    assertThat(get("asset", "@" + n + "/stream").path("details").toString()).contains("STREAMING");
  }

  @Test
  void an_extraction_error_is_a_gap_in_the_lineage_and_no_failure() {
    UUID id = UUID.randomUUID();
    api.event(
        Events.run(
                "COMPLETE",
                "2026-03-01T00:00:00Z",
                id,
                n,
                "half",
                Events.copies(n, "in", "out", "a"))
            .replace(
                "'run':{'runId':'" + id + "'}",
                "'run':{'runId':'"
                    + id
                    + "','facets':{'extractionError':{'totalTasks':5,'failedTasks':2,'errors':[{'errorMessage':'odd syntax'}]}}}"));
    assertThat(get("run", "run:" + id).path("run").path("state").stringValue())
        .isEqualTo("completed");
    assertThat(get("asset", "@" + n + "/half").path("gap").stringValue())
        .contains("2 of 5")
        .contains("odd syntax");
  }

  @Test
  void the_part_that_a_run_touched_is_told() {
    UUID id = UUID.randomUUID();
    run(
        "COMPLETE",
        "2026-03-01T00:00:00Z",
        id,
        "part",
        "'inputs':[{'namespace':'"
            + n
            + "','name':'p','inputFacets':{'subset':{'inputCondition':{'type':'binary','operator':'AND','left':{'type':'compare','left':{'type':'field','field':'day'},'right':{'type':'literal','value':'2026-03-01'},'comparison':'EQUAL'},'right':{'type':'location','locations':['x','y']}}}}}],"
            + "'outputs':[{'namespace':'"
            + n
            + "','name':'q','outputFacets':{'outputSubset':{'outputCondition':{'type':'partition','partitions':[{'identifier':'i','dimensions':{'day':'7'}}]}}}}]");
    String parts = get("run", "run:" + id).path("parts").toString();
    assertThat(parts).contains("(day = '2026-03-01' and locations x, y)");
    assertThat(parts).contains("partitions day=7");
  }

  @Test
  void schemas_have_a_history_and_dots_in_names_meet_paths_with_dots() {
    dataset("2026-03-01T00:00:00Z", "hist", Events.schema("a", "b.c"));
    dataset("2026-03-02T00:00:00Z", "hist", Events.schema("a", "b.c", "d"));
    dataset("2026-03-03T00:00:00Z", "hist", "'schema':{'fields':[]}");
    dataset("2026-03-04T00:00:00Z", "hist", Events.schema("a", "b.c").replace("text", "int"));
    String history = get("history", n + "/hist").toString();
    assertThat(history)
        .contains("column d is new")
        .contains("column d is gone")
        .contains("column a is int now, was text");
    run(
        "COMPLETE",
        "2026-03-05T00:00:00Z",
        UUID.randomUUID(),
        "dots",
        Events.copies(n, "flat", "hist", "b.c"));
    assertThat(get("asset", n + "/hist").path("columns").findValuesAsString("name"))
        .contains("b%2Ec")
        .doesNotContain("b.c");
    assertThat(links(n + "/hist#b%2Ec")).contains(n + "/flat#b");
  }

  @Test
  void versions_say_what_changed() {
    run(
        "COMPLETE",
        "2026-03-01T00:00:00Z",
        UUID.randomUUID(),
        "grows",
        Events.copies(n, "in", "out", "a"));
    run(
        "COMPLETE",
        "2026-03-02T00:00:00Z",
        UUID.randomUUID(),
        "grows",
        Events.copies(n, "in2", "out", "a", "b"));
    JsonNode versions = get("asset", "@" + n + "/grows").path("versions");
    assertThat(versions).hasSize(2);
    assertThat(versions.path(0).path("changes").toString())
        .contains("reads " + n + "/in2")
        .contains("no longer reads " + n + "/in")
        .contains("column map");
    assertThat(get("history", "@" + n + "/grows").toString()).contains("version 2");
  }

  @Test
  void far_future_times_are_kept_and_marked_and_never_the_newest() {
    dataset("2026-03-01T00:00:00Z", "far", "'documentation':{'description':'now'}");
    dataset("2999-03-01T00:00:00Z", "far", "'documentation':{'description':'later'}");
    assertThat(get("asset", n + "/far").path("description").stringValue()).isEqualTo("now");
    JsonNode newest =
        api.get("/api/v1/intake", "about", n + "/far", "limit", "1").json().path("recent").path(0);
    assertThat(newest.path("type").stringValue()).contains("far future");
    JsonNode event = api.get("/api/v1/intake/event", "id", newest.path("id").stringValue()).json();
    assertThat(event.path("farFuture").booleanValue()).isTrue();
    assertThat(event.path("body").stringValue()).contains("later");
    assertThat(event.path("facets").path(0).path("current").booleanValue()).isFalse();
    assertThat(event.path("touched").toString()).contains(n + "/far");
  }

  @Test
  void statistics_of_runs_and_of_the_dataset_stand_in_one_row() {
    run(
        "COMPLETE",
        "2026-03-01T00:00:00Z",
        UUID.randomUUID(),
        "m",
        "'inputs':[{'namespace':'"
            + n
            + "','name':'fig','inputFacets':{'dataQualityMetrics':{'rowCount':1.2e3,'columnMetrics':{'a':{'nullCount':3}}}}}]");
    dataset("2026-03-02T00:00:00Z", "fig", "'dataQualityMetrics':{'rowCount':7,'bytes':9}");
    JsonNode statistics = get("statistics", n + "/fig").path("statistics");
    assertThat(statistics.path(0).path("reportedBy").stringValue()).isEqualTo("dataset");
    assertThat(statistics.path(1).path("rows").intValue()).isEqualTo(1200);
    assertThat(statistics.path(1).path("columns").toString()).contains("nullCount");
  }
}
