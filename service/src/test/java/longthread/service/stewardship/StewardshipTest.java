package longthread.service.stewardship;

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
class StewardshipTest {
  private static final String AT = "2026-11-20T06:00:00Z";

  private final RunningService service;
  private final Api api;

  StewardshipTest(RunningService service) {
    this.service = service;
    this.api = service.api();
  }

  @BeforeEach
  void empty() {
    service.forgetEverything();
  }

  private void table(String namespace, String name, String... columns) {
    api.event(Events.dataset(AT, namespace, name, Events.schema(columns)));
  }

  private void copy(String job, String from, String to, String... columns) {
    api.event(
        Events.run(
            "COMPLETE", AT, UUID.randomUUID(), "jobs", job, Events.copies("w", from, to, columns)));
  }

  private JsonNode seen(Api.Answer answer) {
    assertThat(answer.status()).as(answer.body()).isEqualTo(200);
    if (answer.json().path("receipt").isString()) {
      api.see(answer.json().path("receipt").stringValue());
    }
    return answer.json();
  }

  private JsonNode state(String changes) {
    return seen(
        api.send(
            "POST", "/api/v1/statements", ("{'changes':[" + changes + "]}").replace('\'', '"')));
  }

  private JsonNode apply(String sheet, String query) {
    return seen(api.post("/api/v1/edits" + query, sheet, "Content-Type", "text/csv"));
  }

  @Test
  void a_sheet_goes_out_is_changed_comes_back_and_is_taken_back() {
    table("w", "core.farm", "id", "iban");
    table("w", "core.pickup", "litres");
    String sheet = api.csv("/api/v1/edits", "columns", "true").body();
    assertThat(sheet.lines()).hasSize(6);
    assertThat(apply(sheet, "").path("changes")).as("an unchanged sheet").isEmpty();

    String changed = "";
    for (String line : sheet.lines().toList()) {
      changed +=
          (line.contains("\"iban\"")
                  ? line.replaceFirst(
                      "\"\",\"\",\"\",\"\",(\"[0-9a-f]{10}\")$",
                      "\"Account of the farm\",\"\",\"personal; bank\",\"\",$1")
                  : line.replaceFirst(
                      "^(\"w/core.pickup\",\"\",.*)\"\",\"\",\"\",\"\",(\"[0-9a-f]{10}\")$",
                      "$1\"\",\"team:milk\",\"\",\"\",$2"))
              + "\r\n";
    }
    JsonNode dry = apply(changed, "?dryRun=true");
    assertThat(dry.path("changes")).hasSize(3);
    assertThat(api.get("/api/v1/asset", "ref", "core.farm").body()).doesNotContain("personal");
    JsonNode made = apply(changed, "?reason=cleaning+up");
    JsonNode farm = api.get("/api/v1/asset", "ref", "core.farm").json();
    assertThat(farm.path("columns").toString()).contains("Account of the farm", "personal");
    // the same sheet again is now out of date
    state("{'set':'description','of':'core.farm#iban','value':'Changed meanwhile'}");
    JsonNode late = apply(changed.replace("Account of the farm", "Mine"), "");
    assertThat(late.path("conflicts").toString()).contains("core.farm#iban");
    assertThat(api.get("/api/v1/asset", "ref", "core.farm").body()).contains("Changed meanwhile");
    JsonNode undone =
        seen(api.send("POST", "/api/v1/statements/undo?id=" + made.path("id").stringValue(), ""));
    assertThat(undone.path("conflicts")).hasSize(1);
    assertThat(api.get("/api/v1/asset", "ref", "core.pickup").json().path("owners")).isEmpty();
  }

  @Test
  void a_bad_row_is_named_and_nothing_is_changed() {
    table("w", "core.farm", "id");
    Api.Answer answer =
        api.post(
            "/api/v1/edits",
            "ref,column,owners\nw/core.farm,,team:a\nw/core.frm,,team:b\n",
            "Content-Type",
            "text/csv");
    assertThat(answer.status()).isEqualTo(400);
    assertThat(answer.detail()).contains("row 3", "core.frm");
    assertThat(api.get("/api/v1/asset", "ref", "core.farm").json().path("owners")).isEmpty();
  }

  @Test
  void the_glossary_goes_round_as_a_sheet_and_shows_on_what_has_its_terms() {
    table("w", "core.pickup", "litres");
    apply(
        "id,name,definition,parent,owners,synonyms\n"
            + "volume,Volume,How much there is,,team:milk,litres; quantity\n"
            + "net-volume,Net volume,After rinse water,volume,,\n",
        "");
    state("{'set':'terms','of':'core.pickup#litres','value':['Quantity']}");
    JsonNode terms = api.get("/api/v1/terms").json().path("items");
    assertThat(terms).hasSize(2);
    assertThat(terms.get(0).path("uses").intValue()).isEqualTo(1);
    assertThat(terms.get(1).path("path").toString()).isEqualTo("[\"Volume\",\"Net volume\"]");
    assertThat(api.get("/api/v1/asset", "ref", "core.pickup").json().path("columns").toString())
        .contains("How much there is");
    JsonNode term = api.get("/api/v1/term", "id", "quantity").json();
    assertThat(term.path("uses").get(0).path("ref").stringValue())
        .isEqualTo("w/core.pickup#litres");
    assertThat(term.path("below").get(0).path("name").stringValue()).isEqualTo("Net volume");
    String sheet = api.csv("/api/v1/terms").body();
    assertThat(apply(sheet, "").path("changes")).isEmpty();
    assertThat(
            api.send(
                    "POST",
                    "/api/v1/statements",
                    "{\"changes\":[{\"set\":\"term\",\"id\":\"volume\",\"value\":"
                        + "{\"name\":\"Volume\",\"parent\":\"net-volume\"}}]}")
                .type())
        .endsWith("term-cycle");
    // found by the word of a term
    assertThat(api.get("/api/v1/search", "q", "quantity").body()).contains("w/core.pickup");
  }

  @Test
  void terms_are_proposed_along_copies_and_can_be_declined() {
    table("w", "a", "x");
    table("w", "b", "x");
    table("w", "c", "x");
    copy("j1", "a", "b", "x");
    copy("j2", "b", "c", "x");
    apply("id,name,definition\nt,Term,what it is\n", "");
    state("{'set':'terms','of':'w/a#x','value':['t']}");
    JsonNode all = api.get("/api/v1/suggestions/terms").json().path("items");
    assertThat(all).hasSize(2);
    String id = all.get(0).path("id").stringValue();
    state("{'set':'dismissed','id':'" + id + "','value':{}}");
    assertThat(api.get("/api/v1/suggestions/terms").json().path("items")).hasSize(1);
  }

  @Test
  void names_of_two_programs_are_proposed_with_evidence_joined_and_declined() {
    table("postgres://barn:5432", "barn.mart.payout", "farm", "amount", "day");
    copy("build", "raw", "x", "farm");
    api.event(
        Events.run(
            "COMPLETE",
            AT,
            UUID.randomUUID(),
            "jobs",
            "build_payout",
            "'outputs':[{'namespace':'postgres://barn:5432','name':'barn.mart.payout'}]"));
    api.event(
        Events.run(
            "COMPLETE",
            AT,
            UUID.randomUUID(),
            "jobs",
            "report",
            "'inputs':[{'namespace':'transform','name':'mart.payout','facets':{"
                + Events.schema("farm", "amount")
                + "}}],'outputs':[{'namespace':'out','name':'report.csv'}]"));
    JsonNode suggestion = api.get("/api/v1/suggestions/merges").json().path("items").get(0);
    assertThat(suggestion.path("evidence").toString())
        .contains("mart.payout", "2 of 2 columns", "never read");
    assertThat(suggestion.path("rule").stringValue())
        .isEqualTo("^transform/mart\\.(.+)$ => postgres://barn:5432/barn.mart.$1");
    JsonNode tried =
        api.get("/api/v1/rules/try", "rule", suggestion.path("rule").stringValue()).json();
    assertThat(tried.path("joined")).hasSize(1);
    state("{'set':'dismissed','id':'" + suggestion.path("id").stringValue() + "','value':{}}");
    assertThat(api.get("/api/v1/suggestions/merges").json().path("items")).isEmpty();
    assertThat(api.get("/api/v1/rules/try", "rule", "(x => y").status()).isEqualTo(400);
  }

  @Test
  void tables_filled_by_copying_are_listed_with_their_readers() {
    table("w", "core.pickup", "farm", "litres");
    copy("j1", "core.pickup", "mart.pickup", "farm", "litres");
    copy("j2", "core.pickup", "team.pickup", "farm", "litres");
    copy("j3", "team.pickup", "team.sum", "farm");
    JsonNode copies = api.get("/api/v1/copies").json().path("items");
    assertThat(copies.get(0).path("ref").stringValue()).isEqualTo("w/core.pickup");
    assertThat(copies.get(0).path("copies").toString())
        .contains("w/mart.pickup", "w/team.pickup", "w/team.sum");
  }
}
