package longthread.service.statements;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import longthread.service.live.GraphFollower;
import longthread.service.testing.Api;
import longthread.service.testing.Events;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

@ExtendWith(RunningService.Extension.class)
class StatementsTest {
  private static final String PATH = "/api/v1/statements";
  private static final String AT = "2026-11-20T06:00:00Z";

  private final RunningService service;
  private final Api api;

  StatementsTest(RunningService service) {
    this.service = service;
    this.api = service.api();
  }

  @BeforeEach
  void empty() {
    service.forgetEverything();
  }

  private JsonNode state(String changes) {
    Api.Answer answer = tryToState(changes);
    assertThat(answer.status()).as(answer.body()).isEqualTo(200);
    if (answer.json().path("receipt").isString()) {
      api.see(answer.json().path("receipt").stringValue());
    }
    return answer.json();
  }

  private Api.Answer tryToState(String changes) {
    return api.send("POST", PATH, ("{'changes':[" + changes + "]}").replace('\'', '"'));
  }

  private JsonNode undo(String id) {
    Api.Answer answer = api.send("POST", PATH + "/undo?id=" + id, "");
    assertThat(answer.status()).as(answer.body()).isEqualTo(200);
    if (answer.json().path("receipt").isString()) {
      api.see(answer.json().path("receipt").stringValue());
    }
    return answer.json();
  }

  private void table(String name, String... columns) {
    api.event(Events.dataset(AT, "warehouse", name, Events.schema(columns)));
  }

  private void run(String at, String job, String from, String to, String... columns) {
    api.event(
        Events.run(
            "COMPLETE",
            at,
            UUID.randomUUID(),
            "jobs",
            job,
            Events.copies("warehouse", from, to, columns)));
  }

  private JsonNode asset(String ref) {
    return api.get("/api/v1/asset", "ref", ref).json();
  }

  private List<String> upstream(String ref) {
    var refs = new ArrayList<String>();
    api.get("/api/v1/graph", "ref", ref, "direction", "upstream")
        .json()
        .path("nodes")
        .forEach(
            node -> {
              if (node.path("hops").intValue() > 0) {
                refs.add(node.path("ref").stringValue(""));
              }
            });
    return refs;
  }

  private JsonNode recorded() {
    return api.get("/api/v1/recorded").json().path("items");
  }

  private String stateOf(String id) {
    for (JsonNode link : recorded()) {
      if (link.path("id").stringValue("").equals(id)) {
        return link.path("state").stringValue("");
      }
    }
    return "none";
  }

  // ------------------------------------------------------------------ names

  @Test
  void names_that_are_new_are_listed_as_they_were_understood() {
    table("core.farm", "id");
    JsonNode stated =
        state(
            "{'set':'recorded','value':{'reads':['share/farms.csv'],'writes':['core.farm','ware/core.frm']}}");
    assertThat(stated.path("newNames"))
        .extracting(name -> name.path("ref").stringValue(""))
        .containsExactly("ware/core.frm", "share/farms.csv"); // what is written, then what it reads
    JsonNode misspelled = stated.path("newNames").get(0);
    assertThat(misspelled.path("namespace").stringValue("")).isEqualTo("ware");
    assertThat(misspelled.path("closest").stringValue("")).isEqualTo("warehouse/core.farm");
    assertThat(
            state("{'set':'recorded','value':{'reads':['share/farms.csv'],'writes':['core.farm']}}")
                .path("newNames"))
        .isEmpty();
  }

  @Test
  void a_misspelled_column_of_a_known_schema_is_refused_with_those_there_are() {
    table("core.farm", "id", "herd");
    String link =
        "{'set':'recorded','value':{'columns':[{'from':'share/farms.csv#id','to':'%s'}]}}";
    Api.Answer refused = tryToState(link.formatted("warehouse/core.farm#hrd"));
    assertThat(refused.status()).isEqualTo(404);
    assertThat(refused.body()).contains("has no column 'hrd'", "id, herd");
    state(link.formatted("warehouse/core.farm#herd"));
    assertThat(upstream("core.farm#herd")).containsExactly("share/farms.csv#id");
  }

  // ------------------------------------------------------------------ values

  @Test
  void what_a_person_sets_leads_and_what_programs_say_stays_visible() {
    api.event(
        Events.dataset(
            AT,
            "warehouse",
            "core.pickup",
            Events.schema("litres", "farm")
                + ",'documentation':{'_producer':'https://p.example','_schemaURL':'s',"
                + "'description':'pickups'},'ownership':{'_producer':'https://p.example',"
                + "'_schemaURL':'s','owners':[{'name':'team:collection'}]}"));
    state(
        "{'set':'description','of':'core.pickup','value':'Litres per farm and day.'},"
            + "{'set':'owners','of':'core.pickup','value':['team:milk']},"
            + "{'set':'tags','of':'core.pickup#farm','value':['personal']},"
            + "{'set':'description','of':'core.pickup#litres','value':'After rinse water.'},"
            + "{'set':'links','of':'core.pickup','value':"
            + "[{'title':'Handbook','url':'https://wiki.example/milk'}]}");
    JsonNode asset = asset("core.pickup");
    assertThat(asset.path("description").stringValue()).isEqualTo("Litres per farm and day.");
    assertThat(asset.path("owners").get(0).path("name").stringValue()).isEqualTo("milk");
    assertThat(asset.path("labels").toString()).contains("personal");
    assertThat(asset.path("links").toString()).contains("https://wiki.example/milk");
    assertThat(asset.path("values").toString())
        .contains("pickups", "collection", "hand", "emitter", "https://p.example");
    assertThat(asset.path("columns").get(0).path("description").stringValue())
        .isEqualTo("After rinse water.");
    // found by what was set
    assertThat(api.get("/api/v1/search", "q", "rinse water").json().toString())
        .contains("core.pickup");
    // a newer event of a program does not win over a person
    api.event(
        Events.dataset(
            "2026-12-24T06:00:00Z".replace("12-24", "11-26"),
            "warehouse",
            "core.pickup",
            "'documentation':{'_producer':'https://p.example','_schemaURL':'s',"
                + "'description':'newer'}"));
    assertThat(asset("core.pickup").path("description").stringValue())
        .isEqualTo("Litres per farm and day.");
    state("{'set':'description','of':'core.pickup','value':null}");
    assertThat(asset("core.pickup").path("description").stringValue()).isEqualTo("newer");
  }

  @Test
  void a_change_is_made_only_if_the_value_is_what_the_caller_saw_and_can_be_undone() {
    table("core.farm", "id");
    JsonNode first = state("{'set':'owners','of':'core.farm','value':['team:a'],'was':null}");
    JsonNode second = state("{'set':'owners','of':'core.farm','value':['team:b'],'was':null}");
    assertThat(second.path("changes")).isEmpty();
    assertThat(second.path("conflicts").get(0).path("found").toString()).isEqualTo("[\"team:a\"]");
    assertThat(second.has("receipt") && !second.path("receipt").isNull()).isFalse();

    JsonNode third = state("{'set':'owners','of':'core.farm','value':['team:c'],'was':['team:a']}");
    // the first statement's value is not there any more, so taking it back changes nothing
    assertThat(undo(first.path("id").stringValue()).path("conflicts")).hasSize(1);
    undo(third.path("id").stringValue());
    assertThat(asset("core.farm").path("owners").get(0).path("name").stringValue()).isEqualTo("a");
    JsonNode list = api.get(PATH, "ref", "core.farm").json().path("items");
    assertThat(list).hasSize(3);
    assertThat(list.get(1).path("undoneBy").isString()).isTrue();
    assertThat(api.send("POST", PATH + "/undo?id=" + third.path("id").stringValue(), "").type())
        .endsWith("already-undone");
  }

  @Test
  void a_dry_run_says_what_would_change_and_changes_nothing() {
    table("core.farm", "id");
    Api.Answer answer =
        api.send(
            "POST",
            PATH + "?dryRun=true",
            "{\"changes\":[{\"set\":\"tags\",\"of\":\"core.farm\",\"value\":[\"gold\"]}]}");
    assertThat(answer.json().path("changes").get(0).path("after").toString())
        .isEqualTo("[\"gold\"]");
    assertThat(asset("core.farm").path("labels")).isEmpty();
  }

  @Test
  void what_cannot_be_read_is_refused_with_the_place_and_changes_nothing() {
    table("core.farm", "id");
    assertThat(tryToState("{'set':'colour','of':'core.farm','value':'red'}").detail())
        .contains("/changes/0/set", "colour");
    assertThat(tryToState("{'set':'owners','of':'core.nowhere','value':['x']}").status())
        .isEqualTo(404);
    Api.Answer answer =
        tryToState(
            "{'set':'tags','of':'core.farm','value':['ok']},"
                + "{'set':'links','of':'core.farm','value':[{'title':'x','url':'javascript:1'}]}");
    assertThat(answer.status()).isEqualTo(400);
    assertThat(answer.json().path("faults").get(0).path("pointer").stringValue())
        .isEqualTo("/changes/1/value/0/url");
    assertThat(asset("core.farm").path("labels")).isEmpty();
  }

  @Test
  void programs_cannot_speak_for_people() {
    table("core.farm", "id");
    String statement =
        "{'format':'longthread-statement/1','id':'x','at':'2026-11-20T06:00:00Z','by':'eve',"
            + "'changes':[{'set':'tags','of':'warehouse/core.farm','value':['mine']}]}";
    Api.Answer answer = api.post("/api/v1/lineage", statement.replace('\'', '"'));
    assertThat(answer.status()).isEqualTo(400);
    assertThat(answer.detail()).contains("POST /api/v1/statements");
    api.event(Events.dataset(AT, "warehouse", "core.farm", "'hand:owners':{'value':['team:eve']}"));
    assertThat(asset("core.farm").path("owners")).isEmpty();
    assertThat(
            api.post(
                    "/api/v1/lineage",
                    Events.dataset(AT, "longthread.catalog", "term/x", "").replace('\'', '"'))
                .detail())
        .contains("reserved");
  }

  // ------------------------------------------------------------------ recorded lineage

  @Test
  void a_link_recorded_by_hand_is_confirmed_by_an_event_and_never_replaced_by_it() {
    table("raw.reading", "fat", "farm");
    table("drop.reading", "fat", "farm");
    state(
        "{'set':'recorded','id':'lab','value':{'writes':['raw.reading'],'columns':["
            + "{'from':'drop.reading#fat','to':'raw.reading#fat','flow':'transformation'}]}}");
    assertThat(upstream("raw.reading")).containsExactly("warehouse/drop.reading");
    assertThat(stateOf("lab")).isEqualTo("unconfirmed");
    JsonNode links =
        api.get("/api/v1/graph", "ref", "raw.reading", "direction", "upstream")
            .json()
            .path("links");
    assertThat(links.get(0).path("evidence").stringValue()).isEqualTo("recorded");
    assertThat(asset("raw.reading").path("evidence").path("recorded").intValue()).isPositive();

    run("2026-11-21T06:00:00Z", "load_lab", "drop.reading", "raw.reading", "fat", "farm");
    assertThat(stateOf("lab")).isEqualTo("confirmed");
    run("2026-11-22T06:00:00Z", "load_lab", "other.file", "raw.reading", "fat", "farm");
    assertThat(upstream("raw.reading")).contains("warehouse/drop.reading");

    state("{'set':'recorded','id':'lab','value':null}");
    assertThat(stateOf("lab")).isEqualTo("withdrawn");
    assertThat(recorded().get(0).path("until").isString()).isTrue();
  }

  @Test
  void a_job_recorded_by_hand_has_a_page_and_reads_and_writes() {
    table("core.pickup", "litres");
    state(
        "{'set':'recorded','id':'export','value':{'job':'@cron/export','title':'Monthly export',"
            + "'reads':['core.pickup'],'writes':['share/export.csv']}}");
    assertThat(upstream("share/export.csv")).contains("warehouse/core.pickup");
    JsonNode job = asset("@cron/export");
    assertThat(job.path("upstream").toString()).contains("core.pickup");
    JsonNode impact =
        api.get("/api/v1/impact", "ref", "core.pickup", "change", "delay").json().path("items");
    assertThat(impact.toString()).contains("share/export.csv", "goes-stale");
  }

  @Test
  void a_record_is_questioned_when_what_it_names_vanishes_and_ends_at_its_date() {
    table("a", "x");
    table("b", "x");
    state(
        "{'set':'recorded','id':'q','value':{'columns':[{'from':'warehouse/a#x',"
            + "'to':'warehouse/b#x'}]}}");
    api.event(Events.dataset("2026-11-21T06:00:00Z", "warehouse", "a", Events.schema("y")));
    assertThat(stateOf("q")).isEqualTo("questioned");

    table("c", "x");
    String soon = Instant.now().plus(3, ChronoUnit.DAYS).toString().substring(0, 10);
    state(
        "{'set':'recorded','id':'e','value':{'reads':['warehouse/b'],'writes':['warehouse/c'],"
            + "'until':'"
            + soon
            + "'}}");
    assertThat(stateOf("e")).isEqualTo("ending");
    assertThat(upstream("warehouse/c")).contains("warehouse/b");
    String justNow = Instant.now().plus(1500, ChronoUnit.MILLIS).toString();
    state(
        "{'set':'recorded','id':'e','value':{'reads':['warehouse/b'],'writes':['warehouse/c'],"
            + "'until':'"
            + justNow
            + "'}}");
    await(() -> stateOf("e").equals("ended"));
    await(() -> upstream("warehouse/c").isEmpty());
    assertThat(api.get("/api/v1/recorded", "state", "ended").json().path("items")).hasSize(1);
    assertThat(api.csv("/api/v1/recorded").body()).contains("\"e\"");
  }

  private static void await(java.util.function.BooleanSupplier done) {
    for (int i = 0; i < 200 && !done.getAsBoolean(); i++) {
      try {
        Thread.sleep(100);
      } catch (InterruptedException e) {
        throw new IllegalStateException(e);
      }
    }
    assertThat(done.getAsBoolean()).isTrue();
  }

  // ------------------------------------------------------------------ one catalog

  @Test
  void two_names_are_joined_looked_at_by_part_led_by_choice_and_separated_again() {
    table("mart.payout", "amount");
    api.event(
        Events.dataset(
            AT,
            "transform",
            "payout_model",
            Events.schema("amount")
                + ",'documentation':{'_producer':'t','_schemaURL':'s','description':'model'}"));
    run("2026-11-21T06:00:00Z", "build", "raw", "mart.payout", "amount");
    String before = service.dump();
    JsonNode joined =
        state("{'set':'join','of':'payout_model','with':'mart.payout','value':'one'}");
    JsonNode asset = asset("payout_model");
    assertThat(asset.path("ref").stringValue()).isEqualTo("transform/payout_model");
    assertThat(asset.path("parts")).hasSize(2);
    assertThat(asset.path("description").stringValue()).isEqualTo("model");
    assertThat(upstream("payout_model")).contains("warehouse/raw");
    assertThat(api.get("/api/v1/search", "q", "payout").json().path("hits")).hasSize(1);

    state("{'set':'lead','of':'warehouse/mart.payout','value':true}");
    assertThat(asset("payout_model").path("ref").stringValue()).isEqualTo("warehouse/mart.payout");
    state("{'set':'lead','of':'warehouse/mart.payout','value':null}");

    undo(joined.path("id").stringValue());
    assertThat(asset("payout_model").path("parts")).hasSize(1);
    assertThat(upstream("payout_model")).isEmpty();
    assertThat(withoutHand(service.dump())).isEqualTo(withoutHand(before));
  }

  private static String withoutHand(String dump) {
    return String.join("\n", dump.lines().filter(line -> !line.contains("hand:")).toList());
  }

  @Test
  void names_that_links_or_rules_join_can_be_held_apart() {
    String link =
        "'symlinks':{'_producer':'p','_schemaURL':'s','identifiers':[{'namespace':'warehouse',"
            + "'name':'t','type':'TABLE'}]}";
    api.event(Events.dataset(AT, "files", "/t1", link));
    api.event(Events.dataset(AT, "files", "/t2", link));
    table("t", "x");
    assertThat(asset("warehouse/t").path("parts")).hasSize(3);
    state("{'set':'join','of':'files//t2','with':'warehouse/t','value':'apart'}");
    assertThat(asset("warehouse/t").path("parts")).hasSize(2);
    assertThat(asset("files//t2").path("parts")).hasSize(1);
    // spellings that a built-in rule joins
    api.event(Events.dataset(AT, "postgres://HOST:5432", "d.s.t", Events.schema("x")));
    api.event(Events.dataset(AT, "postgres://host", "d.s.t", Events.schema("x")));
    assertThat(asset("postgres://host/d.s.t").path("parts")).hasSize(2);
    state(
        "{'set':'join','of':'postgres://HOST:5432/d.s.t','with':'postgres://host/d.s.t',"
            + "'value':'apart'}");
    assertThat(asset("postgres://host/d.s.t").path("parts")).hasSize(1);
    state(
        "{'set':'join','of':'postgres://HOST:5432/d.s.t','with':'postgres://host/d.s.t',"
            + "'value':null}");
    assertThat(asset("postgres://host/d.s.t").path("parts")).hasSize(2);
    service.bean(GraphFollower.class).follow();
  }

  @Test
  void a_rule_joins_all_names_it_fits_and_leaves_the_rest() {
    table("barn.mart.payout", "x");
    api.event(Events.dataset(AT, "transform", "mart.payout", Events.schema("x")));
    api.event(Events.dataset(AT, "transform", "other.thing", Events.schema("x")));
    state(
        "{'set':'rule','id':'r','value':{'rule':"
            + "'^transform/(mart\\\\..+)$ => warehouse/barn.$1'}}");
    assertThat(asset("transform/mart.payout").path("ref").stringValue())
        .isEqualTo("warehouse/barn.mart.payout");
    assertThat(asset("transform/other.thing").path("parts")).hasSize(1);
    assertThat(tryToState("{'set':'rule','value':{'rule':'(a => b'}}").detail())
        .contains("bad pattern");
    state("{'set':'rule','id':'r','value':null}");
    assertThat(asset("transform/mart.payout").path("parts")).hasSize(1);
  }
}
