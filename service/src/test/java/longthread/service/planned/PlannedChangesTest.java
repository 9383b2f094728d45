package longthread.service.planned;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.util.Map;
import java.util.UUID;
import longthread.service.testing.Api;
import longthread.service.testing.Events;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

@ExtendWith(RunningService.Extension.class)
class PlannedChangesTest {
  private final String ns = "plan" + UUID.randomUUID().toString().substring(0, 8);
  private Api api;

  @BeforeEach
  void aJobThatCopies(RunningService running) {
    api = running.api();
    run("build", "COMPLETE", "2026-05-01T02:00:00Z", "out");
  }

  private void run(String job, String type, String at, String to) {
    String event =
        Events.run(type, at, UUID.randomUUID(), ns, job, Events.copies(ns, "src", to, "x"));
    api.event(
        event.replace(
            "'name':'" + job + "'",
            "'name':'"
                + job
                + "','facets':{'ownership':{'_producer':'p:p','_schemaURL':'s:s','owners':[{'name':"
                + "'team:"
                + job
                + "s'}]}}"));
  }

  private String document(String change) {
    return "format: longthread-change/1\ntitle: No more x\nreason: nobody wants it\nsteps:\n"
        + "  - change: "
        + change
        + "\n    of: "
        + ns
        + "/src#x\n";
  }

  private JsonNode propose(String change) {
    Api.Answer answer =
        api.post("/api/v1/planned-changes", document(change), "Content-Type", "application/yaml");
    assertThat(answer.status()).as(answer.toString()).isEqualTo(200);
    return answer.json();
  }

  private JsonNode show(JsonNode plan) {
    return api.get("/api/v1/planned-change", "id", id(plan)).json();
  }

  private static String id(JsonNode plan) {
    return plan.path("id").stringValue("");
  }

  private Api.Answer move(JsonNode plan, String to) {
    return api.send("POST", "/api/v1/planned-changes/state?id=" + id(plan) + "&to=" + to, "");
  }

  @Test
  void a_change_is_judged_kept_and_shown_on_what_it_touches() {
    JsonNode plan = propose("drop");
    assertThat(plan.path("state").stringValue("")).isEqualTo("proposed");
    assertThat(plan.path("verdicts").path("breaks").intValue()).isEqualTo(1);
    assertThat(plan.path("items").get(0).path("ref").stringValue(""))
        .isEqualTo("@" + ns + "/build");
    assertThat(plan.path("steps").get(0).path("of").stringValue("")).isEqualTo(ns + "/src#x");
    for (String touched : new String[] {"/src", "/out"}) {
      assertThat(
              api.get("/api/v1/planned-changes", "ref", ns + touched)
                  .json()
                  .path("items")
                  .findValuesAsString("id"))
          .contains(id(plan));
    }
    run("other", "COMPLETE", "2026-05-01T02:00:00Z", "else");
    assertThat(show(plan).path("since").toString())
        .as("judged again, since the graph has changed")
        .contains("other breaks, which it did not when it was proposed");
    assertThat(
            api.get("/api/v1/planned-changes", "ref", "@" + ns + "/other", "state", "proposed")
                .json()
                .path("items"))
        .hasSize(1);
  }

  @Test
  void two_changes_are_compared_by_what_each_does() {
    JsonNode drop = propose("drop");
    JsonNode values = propose("values");
    JsonNode found =
        api.get("/api/v1/planned-change/compare", "id", id(drop), "with", id(values)).json();
    JsonNode job =
        found
            .path("items")
            .valueStream()
            .filter(item -> item.path("ref").stringValue("").equals("@" + ns + "/build"))
            .findFirst()
            .orElseThrow();
    assertThat(job.path("verdict").stringValue("")).isEqualTo("breaks");
    assertThat(job.path("otherVerdict").isMissingNode()).isTrue();
    JsonNode out =
        found
            .path("items")
            .valueStream()
            .filter(item -> item.path("ref").stringValue("").equals(ns + "/out"))
            .findFirst()
            .orElseThrow();
    assertThat(out.path("verdict").stringValue("")).isEqualTo("goes-stale");
    assertThat(out.path("otherVerdict").stringValue("")).isEqualTo("values-shift");
    assertThat(found.path("different").intValue()).isEqualTo(2);
    JsonNode self =
        api.get("/api/v1/planned-change/compare", "id", id(drop), "with", id(drop)).json();
    assertThat(self.path("different").intValue()).isZero();
  }

  @Test
  void owners_answer_and_states_follow_their_order() {
    JsonNode plan = propose("drop");
    String owner = plan.path("owners").get(0).path("owner").stringValue("");
    assertThat(owner).contains("builds");
    String answer = "/api/v1/planned-changes/answer?id=" + id(plan) + "&owner=" + owner;
    Api.Answer answered = api.send("POST", answer + "&answer=objects&note=not%20yet", "");
    assertThat(answered.json().path("owners").get(0).path("answer").stringValue(""))
        .isEqualTo("objects");
    assertThat(answered.json().path("owners").get(0).path("note").stringValue(""))
        .isEqualTo("not yet");
    assertThat(api.send("POST", answer + "&answer=maybe", "").type())
        .isEqualTo("/problems/unknown-answer");
    assertThat(
            api.send(
                    "POST",
                    "/api/v1/planned-changes/answer?id=" + id(plan) + "&owner=me&answer=agrees",
                    "")
                .type())
        .isEqualTo("/problems/unknown-owner");
    assertThat(move(plan, "agreed").json().path("state").stringValue("")).isEqualTo("agreed");
    assertThat(move(plan, "finished").type()).isEqualTo("/problems/unknown-state");
    assertThat(move(plan, "withdrawn").status()).isEqualTo(200);
    assertThat(move(plan, "agreed").type()).isEqualTo("/problems/bad-transition");
    assertThat(api.send("POST", answer + "&answer=agrees", "").type())
        .isEqualTo("/problems/not-open");
  }

  @Test
  void what_was_foretold_is_compared_with_what_then_occurs() {
    run("calm", "COMPLETE", "2026-05-01T02:00:00Z", "calmout");
    JsonNode plan = propose("drop");
    assertThat(plan.path("verdicts").path("breaks").intValue()).isEqualTo(2);
    assertThat(move(plan, "done").status()).isEqualTo(200);
    JsonNode before = show(plan).path("outcome");
    assertThat(before.path("open").intValue()).isEqualTo(plan.path("items").size());
    Instant later = Instant.now().plusSeconds(60);
    run("build", "FAIL", later.toString(), "out");
    run("calm", "COMPLETE", later.toString(), "calmout");
    run("late", "COMPLETE", "2026-05-01T02:00:00Z", "lateout");
    run("late", "FAIL", later.toString(), "lateout");
    JsonNode outcome = show(plan).path("outcome");
    assertThat(kinds(outcome))
        .containsEntry("@" + ns + "/build", "hit")
        .containsEntry("@" + ns + "/calm", "false-alarm")
        .containsEntry("@" + ns + "/late", "miss")
        .containsEntry(ns + "/out", "hit")
        .containsEntry(ns + "/calmout", "false-alarm");
    assertThat(outcome.path("hits").intValue()).isEqualTo(2);
    assertThat(outcome.path("misses").intValue()).isEqualTo(1);
    assertThat(outcome.path("over").booleanValue()).isFalse();
  }

  /** A night on which a job reports counts of rows and the sum of a column that it wrote. */
  private void measured(String job, Instant at, String to, String column, int rows, int sum) {
    String output = "{'namespace':'" + ns + "','name':'" + to + "',";
    String facets =
        "'outputFacets':{'outputStatistics':{'_producer':'p:p','_schemaURL':'s:s','rowCount':ROWS},"
            + "'dataQualityMetrics':{'_producer':'p:p','_schemaURL':'s:s','rowCount':ROWS,"
            + "'columnMetrics':{'COLUMN':{'count':ROWS,'nullCount':0,'sum':SUM}}}},";
    api.event(
        Events.run(
            "COMPLETE",
            at.toString(),
            UUID.randomUUID(),
            ns,
            job,
            Events.copies(ns, "src", to, column)
                .replace(
                    "'outputs':[" + output,
                    "'outputs':["
                        + output
                        + facets
                            .replace("ROWS", "" + rows)
                            .replace("COLUMN", column)
                            .replace("SUM", "" + sum))));
  }

  @Test
  void figures_that_were_to_shift_are_measured() {
    Instant now = Instant.now();
    for (int night = 9; night > 0; night--) {
      Instant at = now.minusSeconds(night * 86_400L);
      measured("moves", at, "moved", "x", 100, 2_000 + night);
      measured("stays", at, "stayed", "x", 100, 2_000 + night);
      measured("other", at, "others", "y", 100, 2_000 + night);
    }
    JsonNode plan = propose("values");
    assertThat(plan.path("items").findValuesAsString("ref"))
        .contains(ns + "/moved", ns + "/stayed", ns + "/out")
        .doesNotContain(ns + "/others");
    assertThat(move(plan, "done").status()).isEqualTo(200);
    assertThat(kinds(show(plan).path("outcome"))).containsEntry(ns + "/moved", "open");
    Instant later = Instant.now().plusSeconds(60);
    measured("moves", later, "moved", "x", 100, 440);
    measured("stays", later, "stayed", "x", 100, 2_003);
    measured("other", later, "others", "y", 100, 440);
    JsonNode outcome = show(plan).path("outcome");
    assertThat(kinds(outcome))
        .containsEntry(ns + "/moved", "hit")
        .containsEntry(ns + "/stayed", "false-alarm")
        .containsEntry(ns + "/others", "miss")
        .containsEntry(ns + "/out", "open");
    assertThat(outcome.toString())
        .contains("the mean of x is 4.4", "no run reports figures of its columns");
  }

  @Test
  void rows_that_were_to_shift_are_counted() {
    Instant now = Instant.now();
    for (int night = 9; night > 0; night--) {
      Instant at = now.minusSeconds(night * 86_400L);
      measured("fewer", at, "fewest", "x", 100 + night % 2, 2_000);
      measured("same", at, "sames", "x", 100 + night % 2, 2_000);
    }
    JsonNode plan = propose("rows");
    assertThat(move(plan, "done").status()).isEqualTo(200);
    Instant later = Instant.now().plusSeconds(60);
    measured("fewer", later, "fewest", "x", 12, 240);
    measured("same", later, "sames", "x", 101, 2_000);
    JsonNode outcome = show(plan).path("outcome");
    assertThat(kinds(outcome))
        .containsEntry(ns + "/fewest", "hit")
        .containsEntry(ns + "/sames", "false-alarm");
    assertThat(outcome.toString()).contains("a run wrote 12 rows; usual were 101");
  }

  private static Map<String, String> kinds(JsonNode outcome) {
    var kinds = new java.util.HashMap<String, String>();
    outcome
        .path("occurrences")
        .forEach(o -> kinds.put(o.path("ref").stringValue(""), o.path("kind").stringValue("")));
    return kinds;
  }

  @Test
  void a_bad_document_is_refused_with_each_fault() {
    Api.Answer refused =
        api.post(
            "/api/v1/planned-changes",
            document("dorp").replace("title", "titel"),
            "Content-Type",
            "application/yaml");
    assertThat(refused.type()).isEqualTo("/problems/bad-document");
    assertThat(refused.json().path("faults")).hasSizeGreaterThanOrEqualTo(2);
    assertThat(
            api.post(
                    "/api/v1/planned-changes",
                    document("drop").replace("#x", "#nothing"),
                    "Content-Type",
                    "application/yaml")
                .status())
        .isEqualTo(404);
    assertThat(api.get("/api/v1/planned-change", "id", "no").type())
        .isEqualTo("/problems/unknown-change");
    assertThat(api.get("/api/v1/planned-changes", "state", "open").type())
        .isEqualTo("/problems/unknown-state");
    assertThat(api.get("/api/v1/schemas/planned-change.json").body())
        .contains("longthread-change/1");
  }
}
