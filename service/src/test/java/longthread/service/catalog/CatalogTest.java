package longthread.service.catalog;

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
class CatalogTest {
  private static final String AT = "2026-05-01T02:00:00Z";
  private final String key = UUID.randomUUID().toString().substring(0, 8);
  private final String namespace = "cat-" + key;
  private Api api;

  @BeforeEach
  void useService(RunningService running) {
    api = running.api();
  }

  private JsonNode asset(String ref) {
    Api.Answer answer = api.get("/api/v1/asset", "ref", ref);
    assertThat(answer.status()).as(answer.body()).isEqualTo(200);
    return answer.json();
  }

  @Test
  void an_unknown_name_gets_a_hint_however_long_it_is() {
    Api.Answer answer =
        api.get("/api/v1/asset", "ref", "postgres://nowhere/" + "deep.er/and.".repeat(200) + "xq");
    assertThat(answer.status()).isEqualTo(404);
    assertThat(answer.detail()).contains("is not in the catalog");
    Api.Answer slash = api.get("/api/v1/asset", "ref", "/");
    assertThat(slash.status()).isIn(400, 404);
  }

  @Test
  void an_asset_has_what_its_facets_say_and_keeps_those_it_does_not_know() {
    api.event(
        Events.dataset(
            AT,
            "postgres://db-" + key,
            "shop.core.orders",
            Events.schema("id", "total")
                + ",'documentation':{'description':'All orders'},'ownership':{'owners':[{'name':'team:Shop <shop@x.example>'}]},"
                + "'tags':{'tags':[{'key':'money','value':'true','field':'total'}]},'acme_odd':{'deep':[1.50,{'a':null}]}"));
    JsonNode asset = asset("postgres://db-" + key + "/shop.core.orders");
    assertThat(asset.path("kind").stringValue("")).isEqualTo("table");
    assertThat(asset.path("container").toString()).isEqualTo("[\"shop\",\"core\"]");
    assertThat(asset.path("owners").get(0).path("address").stringValue(""))
        .isEqualTo("shop@x.example");
    assertThat(asset.path("columns").get(1).path("labels").toString()).isEqualTo("[\"money\"]");
    String asSent =
        api.get("/api/v1/asset", "ref", "postgres://db-" + key + "/shop.core.orders").body();
    assertThat(asSent).contains("{\"deep\":[1.50,{\"a\":null}]}");
  }

  @Test
  void an_empty_schema_wipes_nothing_a_deleted_one_does() {
    api.event(Events.dataset(AT, namespace, "t", Events.schema("a", "b")));
    api.event(Events.dataset("2026-05-02T02:00:00Z", namespace, "t", Events.schema()));
    assertThat(asset(namespace + "/t").path("columns")).hasSize(2);
    api.event(
        Events.dataset(
            "2026-05-03T02:00:00Z", namespace, "t", "'schema':{'_deleted':true,'fields':[]}"));
    assertThat(asset(namespace + "/t").path("columns")).isEmpty();
  }

  @Test
  void the_newest_event_time_decides_not_the_latest_arrival() {
    api.event(
        Events.dataset(
            "2026-05-02T01:00:00+02:00", namespace, "n", "'documentation':{'description':'new'}"));
    api.event(
        Events.dataset(
            "2026-05-01T23:59:59.999999999Z",
            namespace,
            "n",
            "'documentation':{'description':'old'}"));
    assertThat(asset(namespace + "/n").path("description").stringValue("")).isEqualTo("old");
    api.event(
        Events.dataset(
            "2999-01-01T00:00:00Z", namespace, "n", "'documentation':{'description':'far'}"));
    assertThat(asset(namespace + "/n").path("description").stringValue("")).isEqualTo("old");
  }

  @Test
  void two_names_joined_by_a_symlink_are_one_asset_findable_by_either() {
    api.event(
        Events.run(
            "COMPLETE",
            AT,
            UUID.randomUUID(),
            namespace,
            "w",
            Events.copies(namespace, "src", "path/of/" + key, "x")));
    api.event(
        Events.dataset(
            AT,
            namespace,
            "path/of/" + key,
            "'symlinks':{'identifiers':[{'namespace':'hive://m-"
                + key
                + "','name':'core.thing','type':'TABLE'}]}"));
    api.event(
        Events.dataset(
            AT, "hive://m-" + key, "core.thing", "'documentation':{'description':'The thing'}"));
    JsonNode byPath = asset(namespace + "/path/of/" + key);
    assertThat(byPath.path("ref").stringValue("")).isEqualTo("hive://m-" + key + "/core.thing");
    assertThat(byPath.path("parts")).hasSize(2);
    assertThat(byPath.path("description").stringValue("")).isEqualTo("The thing");
    assertThat(byPath.path("upstream").get(0).path("ref").stringValue(""))
        .isEqualTo(namespace + "/src");
    assertThat(byPath.path("columns").get(0).path("sources")).hasSize(1);
  }

  @Test
  void what_is_only_mentioned_looks_different() {
    api.event(
        Events.dataset(
            AT,
            namespace,
            "view",
            "'columnLineage':{'fields':{'a':{'inputFields':[{'namespace':'"
                + namespace
                + "','name':'ghost','field':'g'}]}}}"));
    JsonNode ghost = asset(namespace + "/ghost");
    assertThat(ghost.path("described").booleanValue()).isFalse();
    assertThat(ghost.path("columns").get(0).path("listed").booleanValue()).isFalse();
  }

  @Test
  void search_forgives_slips_and_counts_by_facet() {
    String word = "quillwort" + key;
    api.event(
        Events.dataset(
            AT,
            namespace,
            word,
            "'documentation':{'description':'Pond plants by bay'},'longthread_page':{'url':'https://tool.example/"
                + key
                + "'}"));
    JsonNode slip = api.get("/api/v1/search", "q", "qiullwort" + key).json();
    assertThat(slip.path("hits").get(0).path("name").stringValue("")).isEqualTo(word);
    JsonNode words = api.get("/api/v1/search", "q", "pond plan " + key).json();
    assertThat(words.path("total").intValue()).isEqualTo(1);
    assertThat(words.path("facets").path("system").path(namespace).intValue()).isEqualTo(1);
    assertThat(api.get("/api/v1/search", "q", word, "kind", "job").json().path("total").intValue())
        .isZero();
    JsonNode address =
        api.get("/api/v1/search", "q", "https://tool.example/" + key + "?tab=2").json();
    assertThat(address.path("hits").get(0).path("name").stringValue("")).isEqualTo(word);
    assertThat(api.get("/api/v1/search", "q", "100%_!'\"\\").status()).isEqualTo(200);
    assertThat(api.get("/api/v1/search", "q", " , ").json().path("total"))
        .as("no word is no condition")
        .isEqualTo(api.get("/api/v1/search").json().path("total"));
  }

  @Test
  void of_equal_hits_the_one_on_which_more_rests_comes_first() throws Exception {
    String namespace = "n" + System.nanoTime();
    String word = "heron" + System.nanoTime();
    api.event(Events.dataset(AT, namespace, word + ".a", ""));
    for (int i = 0; i < 3; i++) {
      api.event(
          Events.run(
              "COMPLETE",
              AT,
              java.util.UUID.randomUUID(),
              namespace,
              "job" + i,
              "'inputs':[{'namespace':'"
                  + namespace
                  + "','name':'"
                  + (i == 0 ? word + ".b" : "out" + (i - 1))
                  + "','facets':{'documentation':{'_producer':'p','_schemaURL':'s','description':'x'}}}],"
                  + "'outputs':[{'namespace':'"
                  + namespace
                  + "','name':'out"
                  + i
                  + "'}]"));
    }
    JsonNode hits = api.get("/api/v1/search", "q", word).json().path("hits");
    for (int tries = 0; hits.get(0).path("dependents").intValue() < 3 && tries < 60; tries++) {
      Thread.sleep(100);
      hits = api.get("/api/v1/search", "q", word).json().path("hits");
    }
    assertThat(hits.get(0).path("name").stringValue("")).isEqualTo(word + ".b");
    assertThat(hits.get(0).path("dependents").intValue()).isEqualTo(3);
    assertThat(hits.get(1).path("dependents").intValue()).isZero();
    JsonNode asset = api.get("/api/v1/asset", "ref", namespace + "/out1").json();
    assertThat(asset.path("dependents").intValue()).isEqualTo(1);
  }

  @Test
  void a_long_list_comes_in_pieces_of_one_moment() {
    for (int i = 0; i < 5; i++) {
      api.event(Events.dataset(AT, namespace, "page" + i, ""));
    }
    JsonNode first = api.get("/api/v1/search", "q", "page " + namespace, "limit", "2").json();
    assertThat(first.path("hits")).hasSize(2);
    JsonNode rest =
        api.get("/api/v1/search", "limit", "10", "cursor", first.path("cursor").stringValue(""))
            .json();
    assertThat(rest.path("hits")).hasSize(3);
    assertThat(api.get("/api/v1/search", "cursor", "gone.2").status()).isEqualTo(410);
    assertThat(api.get("/api/v1/search", "limit", "0").type()).isEqualTo("/problems/bad-limit");
  }

  @Test
  void unknown_and_ambiguous_names_are_told_with_what_may_have_been_meant() {
    api.event(Events.dataset(AT, namespace, "one.twin" + key, ""));
    api.event(Events.dataset(AT, namespace, "two.twin" + key, ""));
    Api.Answer ambiguous = api.get("/api/v1/asset", "ref", "twin" + key);
    assertThat(ambiguous.status()).isEqualTo(409);
    assertThat(ambiguous.json().path("candidates")).hasSize(2);
    Api.Answer unknown = api.get("/api/v1/asset", "ref", "twni" + key);
    assertThat(unknown.status()).isEqualTo(404);
    assertThat(unknown.json().path("nearest").toString()).contains("twin" + key);
    assertThat(api.get("/api/v1/asset", "ref", "one.twin" + key + "#no").type())
        .isEqualTo("/problems/unknown-column");
    assertThat(api.get("/api/v1/asset").type()).isEqualTo("/problems/missing-parameter");
    assertThat(api.get("/api/v1/asset", "ref", "ONE.TWIN" + key).status()).isEqualTo(200);
  }

  @Test
  void a_failed_end_wins_and_the_error_is_told_wherever_it_stood() {
    UUID run = UUID.randomUUID();
    api.event(
        Events.run("FAIL", "2026-05-01T02:10:00Z", run, namespace, "j", "")
            .replace(
                "{'runId':'" + run + "'}",
                "{'runId':'" + run + "','facets':{'engine_odd':{'message':'disk full'}}}"));
    api.event(Events.run("COMPLETE", "2026-05-01T02:09:00Z", run, namespace, "j", ""));
    api.event(Events.run("START", "2026-05-01T02:00:00Z", run, namespace, "j", ""));
    JsonNode found = api.get("/api/v1/run", "ref", "run:" + run).json();
    assertThat(found.path("run").path("state").stringValue("")).isEqualTo("failed");
    assertThat(found.path("run").path("seconds").doubleValue()).isEqualTo(600);
    assertThat(found.path("run").path("error").stringValue("")).isEqualTo("disk full");
    JsonNode listed =
        api.get("/api/v1/runs", "job", "@" + namespace + "/j", "state", "failed").json();
    assertThat(listed.path("runs")).hasSize(1);
    assertThat(api.get("/api/v1/runs", "state", "sad").type()).isEqualTo("/problems/unknown-state");
    assertThat(api.get("/api/v1/run", "ref", "run:" + UUID.randomUUID()).status()).isEqualTo(404);
  }

  @Test
  void a_dropped_dataset_retires_until_it_is_written_again() {
    String lifecycle = "'lifecycleStateChange':{'lifecycleStateChange':'DROP'}";
    api.event(Events.dataset("2026-05-02T00:00:00Z", namespace, "d", lifecycle));
    assertThat(asset(namespace + "/d").path("retired").booleanValue()).isTrue();
    api.event(
        Events.run(
            "COMPLETE",
            "2026-05-03T00:00:00Z",
            UUID.randomUUID(),
            namespace,
            "again",
            Events.copies(namespace, "s", "d", "x")));
    assertThat(asset(namespace + "/d").path("retired").booleanValue()).isFalse();
  }

  @Test
  void browsing_leads_from_system_to_schema_to_asset() {
    api.event(
        Events.dataset(
            AT,
            "postgres://browse-" + key,
            "db.core.t1",
            "'dataSource':{'name':'shelf-" + key + "'}"));
    JsonNode top = api.get("/api/v1/browse").json();
    assertThat(top.path("containers").toString()).contains("shelf-" + key);
    JsonNode leaf =
        api.get("/api/v1/browse", "path", "shelf-" + key, "path", "db", "path", "core").json();
    assertThat(leaf.path("assets").get(0).path("name").stringValue("")).isEqualTo("t1");
  }

  @Test
  void a_name_that_many_have_leads_to_all_of_them() {
    for (int i = 0; i < 12; i++) {
      api.event(Events.dataset(AT, namespace, "plant" + i + ".shared_name", ""));
      api.event(Events.dataset(AT, namespace, "in" + i + "/tank-2026-05-01", ""));
    }
    for (String ending : new String[] {"shared_name", "tank"}) {
      Api.Answer answer = api.get("/api/v1/asset", "ref", ending);
      assertThat(answer.status()).as(ending).isEqualTo(409);
      assertThat(answer.json().path("candidates")).as(ending).hasSize(12);
    }
  }
}
