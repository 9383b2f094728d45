package longthread.service.coverage;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.UUID;
import longthread.service.testing.Api;
import longthread.service.testing.Events;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

@ExtendWith(RunningService.Extension.class)
class CoverageTest {
  private static final String AT = "2026-11-20T06:00:00Z";

  private final RunningService service;
  private final Api api;

  CoverageTest(RunningService service) {
    this.service = service;
    this.api = service.api();
  }

  @BeforeEach
  void empty() {
    service.forgetEverything();
  }

  private void table(String name, String... columns) {
    api.event(Events.dataset(AT, "w", name, Events.schema(columns)));
  }

  private void run(String job, String rest) {
    api.event(Events.run("COMPLETE", AT, UUID.randomUUID(), "jobs", job, rest));
  }

  private void state(String change) {
    Api.Answer answer =
        api.send(
            "POST",
            "/api/v1/statements",
            ("{'reason':'known','changes':[" + change + "]}").replace('\'', '"'));
    assertThat(answer.status()).as(answer.body()).isEqualTo(200);
    api.see(answer.json().path("receipt").stringValue());
  }

  private JsonNode coverage() {
    return api.get("/api/v1/coverage", "system", "w").json().path("items").get(0);
  }

  private JsonNode spots(String kind) {
    return api.get("/api/v1/blind-spots", "kind", kind).json().path("items");
  }

  @Test
  void coverage_rises_with_what_is_known_and_falls_with_what_is_withdrawn() {
    table("a", "x");
    table("b", "x");
    table("c", "x");
    assertThat(coverage().path("noLineage").intValue()).isEqualTo(3);
    run("j", Events.copies("w", "a", "b", "x"));
    assertThat(coverage().path("columnLevel").intValue()).isEqualTo(1);
    assertThat(coverage().path("onlyRead").intValue()).isEqualTo(1);
    assertThat(coverage().path("evidence").path("observed").intValue()).isEqualTo(1);
    state("{'set':'recorded','id':'r','value':{'reads':['w/b'],'writes':['w/c']}}");
    assertThat(coverage().path("tableLevel").intValue()).isEqualTo(1);
    assertThat(coverage().path("share").doubleValue()).isEqualTo(0.667);
    state("{'set':'recorded','id':'r','value':null}");
    assertThat(coverage().path("tableLevel").intValue()).isZero();
    service.bean(Coverage.class).note();
    assertThat(coverage().path("trend").get(0).path("columnLevel").intValue()).isEqualTo(1);
  }

  @Test
  void what_is_missing_is_listed_and_can_be_set_aside_with_a_reason() {
    table("a", "x");
    run("j1", Events.copies("w", "a", "b", "x"));
    run("j2", Events.copies("w", "a", "c", "x"));
    run("j3", Events.copies("w", "a", "d", "x"));
    run("reads_only", "'inputs':[{'namespace':'w','name':'a'}]");
    JsonNode written = spots("never-written");
    assertThat(written).hasSize(1);
    assertThat(written.get(0).path("ref").stringValue()).isEqualTo("w/a");
    assertThat(written.get(0).path("rests").intValue()).isEqualTo(3);
    assertThat(spots("unowned").get(0).path("ref").stringValue()).isEqualTo("w/a");
    assertThat(spots("job-without-outputs").get(0).path("ref").stringValue())
        .isEqualTo("@jobs/reads_only");
    state("{'set':'dismissed','id':'never-written:w/a','value':{}}");
    assertThat(spots("never-written")).isEmpty();
    JsonNode aside = api.get("/api/v1/blind-spots", "ignored", "true").json().path("items").get(0);
    assertThat(aside.path("ignored").path("reason").stringValue()).isEqualTo("known");
    state("{'set':'owners','of':'w/a','value':['team:a']}");
    assertThat(spots("unowned")).isEmpty();
    assertThat(api.csv("/api/v1/blind-spots").body()).contains("reads_only");
    assertThat(api.get("/api/v1/blind-spots", "kind", "colour").status()).isEqualTo(400);
  }

  @Test
  void sql_that_is_not_understood_is_listed_with_the_place() {
    run(
        "odd",
        "'outputs':[{'namespace':'w','name':'t'}]}".replace("]}", "]")
            + ",'inputs':[{'namespace':'w','name':'s'}]");
    api.event(
        Events.run(
                "COMPLETE",
                AT,
                UUID.randomUUID(),
                "jobs",
                "sqljob",
                "'inputs':[{'namespace':'w','name':'s'}],'outputs':[{'namespace':'w','name':'t'}]")
            .replace(
                "'name':'sqljob'",
                "'name':'sqljob','facets':{'sql':{'_producer':'p','_schemaURL':'s',"
                    + "'query':'insert into t select frob( from s'}}"));
    JsonNode spots = spots("sql-not-understood");
    assertThat(spots.toString()).contains("@jobs/sqljob", "not understood");
  }
}
