package longthread.service.answers;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.UUID;
import longthread.service.testing.Api;
import longthread.service.testing.Events;
import longthread.service.testing.RunningService;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

/** Graph, thread, impact and causes over HTTP. */
@ExtendWith(RunningService.Extension.class)
class AnswersTest {
  private final String namespace = "ans-" + UUID.randomUUID();
  private RunningService service;
  private Api api;

  @BeforeEach
  void useService(RunningService running) {
    service = running;
    api = running.api();
  }

  private void chain(String at) {
    api.event(run("COMPLETE", at, "one", Events.copies(namespace, "a", "b", "x", "y")));
    api.event(run("COMPLETE", at, "two", Events.copies(namespace, "b", "c", "x")));
  }

  private String run(String type, String at, String job, String rest) {
    return Events.run(type, at, UUID.randomUUID(), namespace, job, rest);
  }

  @Test
  void the_graph_follows_committed_events_without_restart() {
    chain("2026-05-01T02:00:00Z");
    JsonNode view = api.get("/api/v1/graph", "ref", namespace + "/b").json();
    assertThat(view.path("nodes")).hasSize(3);
    assertThat(view.path("links").get(0).path("evidence").stringValue("")).isEqualTo("observed");
    assertThat(view.path("links").get(0).path("jobVersion").intValue()).isEqualTo(1);
    api.event(
        run("COMPLETE", "2026-05-01T03:00:00Z", "three", Events.copies(namespace, "b", "d", "y")));
    assertThat(api.get("/api/v1/graph", "ref", namespace + "/b").json().path("nodes")).hasSize(4);
    JsonNode steps = api.get("/api/v1/graph", "ref", namespace + "/b", "detail", "steps").json();
    assertThat(steps.path("nodes")).hasSize(7);
    JsonNode near =
        api.get("/api/v1/graph", "ref", namespace + "/a", "direction", "downstream", "hops", "1")
            .json();
    assertThat(near.path("nodes")).hasSize(2);
    assertThat(near.path("nodes").get(1).path("moreDownstream").intValue()).isEqualTo(2);
  }

  @Test
  void a_column_is_followed_and_a_job_is_a_focus_too() {
    chain("2026-05-01T02:00:00Z");
    JsonNode up =
        api.get("/api/v1/graph", "ref", namespace + "/c#x", "direction", "upstream").json();
    assertThat(up.path("nodes"))
        .extracting(n -> n.path("ref").stringValue(""))
        .containsExactly(namespace + "/c#x", namespace + "/b#x", namespace + "/a#x");
    JsonNode job = api.get("/api/v1/graph", "ref", "@" + namespace + "/two", "hops", "1").json();
    assertThat(job.path("nodes")).hasSize(3);
    assertThat(api.get("/api/v1/graph", "ref", namespace + "/c", "detail", "fine").type())
        .isEqualTo("/problems/bad-detail");
    assertThat(api.get("/api/v1/graph", "ref", namespace + "/c", "direction", "left").type())
        .isEqualTo("/problems/bad-direction");
    assertThat(api.get("/api/v1/graph", "ref", namespace + "/c", "hops", "many").type())
        .isEqualTo("/problems/bad-parameter");
  }

  @Test
  void the_past_shows_as_it_stood() {
    String sql =
        "'job':{'namespace':'" + namespace + "','name':'v','facets':{'sql':{'query':'QUERY'}}}";
    String event =
        run("COMPLETE", "2026-05-01T02:00:00Z", "v", Events.copies(namespace, "old", "t", "x"));
    String plain = "'job':{'namespace':'" + namespace + "','name':'v'}";
    api.event(event.replace(plain, sql.replace("QUERY", "select 1")));
    String later =
        run("COMPLETE", "2026-05-05T02:00:00Z", "v", Events.copies(namespace, "new", "t", "x"));
    api.event(later.replace(plain, sql.replace("QUERY", "select 2")));
    JsonNode now = api.get("/api/v1/graph", "ref", namespace + "/t").json();
    assertThat(now.path("nodes").toString()).contains("/new\"").doesNotContain("/old\"");
    JsonNode then =
        api.get("/api/v1/graph", "ref", namespace + "/t", "asOf", "2026-05-03T00:00:00Z").json();
    assertThat(then.path("nodes").toString()).contains("/old\"").doesNotContain("/new\"");

    String between = "2026-05-03T00:00:00Z";
    String before = "2026-04-01T00:00:00Z";
    assertThat(thread("old", null).type()).isEqualTo("/problems/no-thread");
    assertThat(thread("old", between).json().path("hops")).hasSize(1);
    assertThat(thread("new", between).json().path("detail").stringValue(""))
        .contains("/new had no lineage at " + between, "take a later moment");
    assertThat(judged("old#x", between).json().path("items").toString()).contains("/t\"");
    for (Api.Answer none : List.of(judged("new#x", between), judged("t", before))) {
      assertThat(none.type()).isEqualTo("/problems/no-lineage");
      assertThat(none.json().path("detail").stringValue("")).contains("take a later moment");
    }
    String ref = namespace + "/t";
    assertThat(api.get("/api/v1/export", "ref", ref, "as", "dot", "asOf", before).type())
        .isEqualTo("/problems/no-lineage");
    assertThat(api.get("/api/v1/export", "ref", ref, "as", "dot", "asOf", between).body())
        .contains(namespace + "/old")
        .doesNotContain(namespace + "/new");
  }

  private Api.Answer thread(String from, @Nullable String asOf) {
    String target = namespace + "/t";
    return asOf == null
        ? api.get("/api/v1/thread", "from", namespace + "/" + from, "to", target)
        : api.get("/api/v1/thread", "from", namespace + "/" + from, "to", target, "asOf", asOf);
  }

  private Api.Answer judged(String of, String asOf) {
    String ref = of.startsWith("system:") ? of : namespace + "/" + of;
    return api.get("/api/v1/impact", "ref", ref, "change", "drop", "asOf", asOf);
  }

  @Test
  void a_thread_is_told_hop_by_hop_and_against_the_flow_marked() {
    chain("2026-05-01T02:00:00Z");
    JsonNode thread =
        api.get("/api/v1/thread", "from", namespace + "/a#x", "to", namespace + "/c").json();
    assertThat(thread.path("basis").stringValue("")).isEqualTo("values");
    assertThat(thread.path("hops")).hasSize(2);
    JsonNode back =
        api.get("/api/v1/thread", "from", namespace + "/c", "to", namespace + "/a").json();
    assertThat(back.path("reversed").booleanValue()).isTrue();
    api.event(Events.dataset("2026-05-01T02:00:00Z", namespace, "island", ""));
    assertThat(
            api.get("/api/v1/thread", "from", namespace + "/island", "to", namespace + "/a").type())
        .isEqualTo("/problems/no-thread");
  }

  @Test
  void impact_gives_verdicts_a_sheet_and_what_is_untouched() {
    chain("2026-05-01T02:00:00Z");
    JsonNode impact = api.get("/api/v1/impact", "ref", namespace + "/b#x", "change", "drop").json();
    assertThat(impact.path("items").get(0).path("verdict").stringValue("")).isEqualTo("breaks");
    assertThat(impact.path("items").get(0).path("ref").stringValue(""))
        .isEqualTo("@" + namespace + "/two");
    assertThat(impact.path("items").get(1).path("verdict").stringValue("")).isEqualTo("goes-stale");
    JsonNode other = api.get("/api/v1/impact", "ref", namespace + "/b#y").json();
    assertThat(other.path("items")).isEmpty();
    assertThat(other.path("untouched").path("certain").intValue()).isEqualTo(2);
    Api.Answer sheet = api.csv("/api/v1/impact", "ref", namespace + "/b#x");
    assertThat(sheet.headers().firstValue("Content-Type").orElse("")).startsWith("text/csv");
    assertThat(sheet.body())
        .startsWith("\uFEFF\"name\",\"kind\",\"verdict\"")
        .contains("http://127.0.0.1");
    assertThat(sheet.body().lines()).hasSize(3);
    assertThat(sheet.body()).doesNotContainPattern("[,\\n]\"[=+@-]");
    Api.Answer noSheet = api.csv("/api/v1/impact", "ref", namespace + "/nothing");
    assertThat(noSheet.status()).isEqualTo(404);
    assertThat(noSheet.type()).isEqualTo("/problems/unknown-reference");
  }

  @Test
  void several_changes_are_judged_together_and_bad_ones_refused() {
    chain("2026-05-01T02:00:00Z");
    String plan =
        ("{'changes':[{'ref':'"
                + namespace
                + "/b#x','change':'values'},{'ref':'"
                + namespace
                + "/a','change':'delay'}]}")
            .replace('\'', '"');
    JsonNode both = api.post("/api/v1/impact", plan, "Content-Type", "application/json").json();
    assertThat(both.path("changes")).hasSize(2);
    assertThat(both.path("items").toString()).contains("goes-stale").contains("values-shift");
    assertThat(api.post("/api/v1/impact", "{}", "Content-Type", "application/json").type())
        .isEqualTo("/problems/no-changes");
    assertThat(api.post("/api/v1/impact", "[", "Content-Type", "application/json").type())
        .isEqualTo("/problems/bad-body");
    assertThat(api.get("/api/v1/impact", "ref", namespace + "/b", "change", "paint").type())
        .isEqualTo("/problems/unknown-change");
    assertThat(api.get("/api/v1/impact", "ref", namespace + "/b#x", "change", "retype").type())
        .isEqualTo("/problems/bad-change");
  }

  @Test
  void a_cause_is_told_with_error_and_owner_and_the_effect_folded_under_it() {
    Instant now = Instant.now().truncatedTo(ChronoUnit.SECONDS);
    for (int day = 4; day >= 0; day--) {
      String at = now.minus(day, ChronoUnit.DAYS).minus(2, ChronoUnit.HOURS).toString();
      String end = day == 0 ? "FAIL" : "COMPLETE";
      api.event(run(end, at, "one", Events.copies(namespace, "a", "b", "x")));
      String later = now.minus(day, ChronoUnit.DAYS).minus(1, ChronoUnit.HOURS).toString();
      api.event(run(end, later, "two", Events.copies(namespace, "b", "c", "x")));
    }
    JsonNode causes = api.get("/api/v1/causes", "ref", namespace + "/c").json();
    assertThat(causes.path("suspects")).hasSize(1);
    assertThat(causes.path("suspects").get(0).path("ref").stringValue(""))
        .isEqualTo("@" + namespace + "/one");
    assertThat(causes.path("explained").get(0).path("by").stringValue(""))
        .isEqualTo("@" + namespace + "/one");
    assertThat(causes.path("expectedRecovery").isString()).isTrue();
    String before = now.minus(1, ChronoUnit.DAYS).toString();
    assertThat(
            api.get("/api/v1/causes", "ref", namespace + "/c", "at", "+99999-01-01T00:00:00Z")
                .type())
        .isEqualTo("/problems/bad-time");
    JsonNode well = api.get("/api/v1/causes", "ref", namespace + "/c", "at", before).json();
    assertThat(well.path("suspects")).isEmpty();
  }

  @Test
  void the_column_map_of_a_job_tells_what_lands_nowhere() {
    api.event(
        run(
            "COMPLETE",
            "2026-05-01T02:00:00Z",
            "part",
            Events.copies(namespace, "wide", "narrow", "x")
                .replaceFirst(
                    "\\{'name':'x','type':'text'\\}",
                    "{'name':'x','type':'text'},{'name':'unused','type':'text'}")));
    JsonNode job = api.get("/api/v1/job", "ref", "@" + namespace + "/part").json();
    assertThat(
            job.path("targets")
                .get(0)
                .path("columns")
                .get(0)
                .path("from")
                .get(0)
                .path("ref")
                .stringValue(""))
        .isEqualTo(namespace + "/wide#x");
    assertThat(job.path("inputs").get(0).path("columns").get(1).path("lands")).isEmpty();
    assertThat(api.get("/api/v1/job", "ref", namespace + "/wide").type())
        .isEqualTo("/problems/not-a-job");
  }

  @Test
  void a_job_whose_sql_only_reads_is_shown_and_judged() {
    String sql = "select x, count(y) as many from wide where y > 1 group by x";
    String event =
        run(
                "COMPLETE",
                "2026-05-01T02:00:00Z",
                "mail",
                "'inputs':[{'namespace':'NS','name':'wide'}]")
            .replace("NS", namespace)
            .replace(
                "'name':'mail'",
                "'name':'mail','facets':{'sql':{'_producer':'p:p','_schemaURL':'s:s','query':'"
                    + sql
                    + "'}}");
    api.event(event);
    String ref = "@" + namespace + "/mail";
    JsonNode job = api.get("/api/v1/job", "ref", ref).json();
    assertThat(job.path("inputs").findValuesAsString("ref")).contains(namespace + "/wide");
    assertThat(job.path("outputs")).isEmpty();
    assertThat(api.get("/api/v1/impact", "ref", ref, "change", "delay").json().path("items"))
        .isEmpty();
    assertThat(
            api.get("/api/v1/impact", "ref", namespace + "/wide#y")
                .json()
                .path("items")
                .findValuesAsString("ref"))
        .contains(ref);
  }

  @Test
  void health_and_metrics_are_there() {
    assertThat(api.get("/health").body()).contains("UP");
    assertThat(api.get("/health/readiness").body()).contains("UP");
    assertThat(api.get("/metrics").body()).contains("longthread_applier_stuck 0.0");
    assertThat(api.get("/metrics").body()).contains("longthread_intake_accepted_total");
  }
}
