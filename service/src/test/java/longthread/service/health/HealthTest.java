package longthread.service.health;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.util.UUID;
import longthread.service.testing.Api;
import longthread.service.testing.Nights;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

/** The health of assets, what needs somebody today, and notices. */
@ExtendWith(RunningService.Extension.class)
class HealthTest {
  private final String namespace = "health-" + UUID.randomUUID();
  private final RunningService service;
  private final Api api;
  private final Nights nights;

  HealthTest(RunningService service) {
    this.service = service;
    this.api = service.api();
    this.nights = new Nights(api, namespace);
  }

  @BeforeEach
  void chain() {
    nights.play("land", 0, "file", "raw", "cccccc");
    nights.play("build", 10, "raw", "mart", "cccccc");
    nights.play("aside", 10, "other", "aside", "cccccc");
  }

  private JsonNode health(String name) {
    service.bean(HealthBoard.class).judge();
    return api.get("/api/v1/asset", "ref", namespace + "/" + name).json().path("health");
  }

  @Test
  void an_asset_is_healthy_while_its_jobs_keep_their_rhythm_and_says_when_it_is_due() {
    JsonNode mart = health("mart");
    assertThat(mart.path("state").stringValue("")).isEqualTo("healthy");
    assertThat(mart.has("inherited")).isFalse();
    Instant expected = Instant.parse(mart.path("expectedAt").stringValue(""));
    assertThat(expected).isBetween(Instant.now(), Instant.now().plus(Duration.ofHours(24)));
    JsonNode freshness =
        api.get("/api/v1/asset", "ref", namespace + "/mart").json().path("freshness");
    assertThat(freshness.path("oldestInput").stringValue("")).isEqualTo(namespace + "/file");
  }

  @Test
  void what_is_wrong_upstream_shows_apart_from_ones_own_and_not_beside_the_thread() {
    nights.play("land", 60, "file", "raw", "f");
    JsonNode raw = health("raw");
    assertThat(raw.path("state").stringValue("")).isEqualTo("failed");
    assertThat(raw.path("reason").stringValue("")).contains("land: its last run failed");
    JsonNode mart = health("mart");
    assertThat(mart.path("state").stringValue("")).isEqualTo("healthy");
    assertThat(mart.path("inherited").path("ref").stringValue(""))
        .isEqualTo("@" + namespace + "/land");
    assertThat(health("aside").has("inherited")).isFalse();
    JsonNode nodes =
        api.get("/api/v1/graph", "ref", namespace + "/mart", "hops", "1").json().path("nodes");
    assertThat(nodes.toString()).contains("\"inherited\"");
    JsonNode hit = api.get("/api/v1/search", "q", namespace).json().path("hits").get(0);
    assertThat(hit.path("health").path("state").isString()).isTrue();
  }

  @Test
  void today_lists_the_cause_and_folds_its_effects_under_it() {
    nights.play("land", 60, "file", "raw", "f");
    nights.play("build", 70, "raw", "mart", "f");
    service.bean(HealthBoard.class).judge();
    JsonNode today = api.get("/api/v1/today").json();
    JsonNode cause =
        today
            .path("causes")
            .valueStream()
            .filter(one -> one.path("ref").stringValue("").contains(namespace))
            .reduce(
                (a, b) -> {
                  throw new AssertionError("two causes: " + a + b);
                })
            .orElseThrow();
    assertThat(cause.path("ref").stringValue("")).endsWith("/land");
    assertThat(cause.path("effects").get(0).path("ref").stringValue("")).endsWith("/build");
    assertThat(cause.path("affects").intValue()).isEqualTo(2);
    assertThat(today.path("intake").path("applying").booleanValue()).isTrue();
    assertThat(
            api.get("/api/v1/today", "owner", "nobody at all").json().path("causeCount").intValue())
        .isZero();
  }

  // ------------------------------------------------------------------ notices

  private String put(String body) {
    Api.Answer answer = api.send("POST", "/api/v1/notices", body.replace('\'', '"'));
    assertThat(answer.status()).as(answer.body()).isEqualTo(200);
    api.see(answer.json().path("receipt").stringValue(""));
    return answer.json().path("id").stringValue("");
  }

  private JsonNode noticesOn(String name) {
    return api.get("/api/v1/asset", "ref", namespace + "/" + name).json().path("notices");
  }

  @Test
  void a_notice_shows_on_what_is_affected_until_it_is_lifted() {
    String id =
        put("{'ref':'" + namespace + "/raw','level':'stop','text':'Wrong unit since Monday'}");
    assertThat(noticesOn("raw")).hasSize(1);
    assertThat(noticesOn("mart").get(0).path("text").stringValue(""))
        .isEqualTo("Wrong unit since Monday");
    assertThat(noticesOn("file")).isEmpty();
    assertThat(noticesOn("aside")).isEmpty();
    JsonNode listed =
        api.get("/api/v1/notices", "ref", namespace + "/mart").json().path("items").get(0);
    assertThat(listed.path("affects").intValue()).isEqualTo(1);
    Api.Answer lifted = api.send("POST", "/api/v1/notices/lift?id=" + id, "");
    api.see(lifted.json().path("receipt").stringValue(""));
    assertThat(noticesOn("mart")).isEmpty();
    JsonNode ended =
        api.get("/api/v1/notices", "state", "lifted", "ref", namespace + "/raw").json();
    assertThat(ended.path("items").get(0).path("liftedBy").isString()).isTrue();
    assertThat(api.send("POST", "/api/v1/notices/lift?id=" + id, "").status()).isEqualTo(409);
  }

  @Test
  void a_notice_on_a_column_shows_only_where_that_column_goes() {
    api.event(
        longthread.service.testing.Events.run(
            "COMPLETE",
            "" + Instant.now(),
            UUID.randomUUID(),
            namespace,
            "only_y",
            longthread.service.testing.Events.copies(namespace, "mart", "ys", "y")));
    put("{'ref':'" + namespace + "/raw#x','text':'x is odd'}");
    assertThat(noticesOn("mart")).hasSize(1);
    assertThat(noticesOn("ys")).isEmpty();
  }

  @Test
  void a_notice_ends_by_itself_and_one_that_cannot_be_used_says_why() throws InterruptedException {
    Instant soon = Instant.now().plusSeconds(2);
    put("{'ref':'" + namespace + "/raw','text':'Short','until':'" + soon + "'}");
    assertThat(noticesOn("mart")).hasSize(1);
    Thread.sleep(Duration.between(Instant.now(), soon.plusMillis(200)).toMillis());
    assertThat(noticesOn("mart")).isEmpty();
    for (String bad :
        new String[] {
          "{'ref':'" + namespace + "/raw','text':' '}",
          "{'ref':'" + namespace + "/raw','text':'x','level':'loud'}",
          "{'ref':'" + namespace + "/raw','text':'x','until':'2020-01-01T00:00:00Z'}",
          "{'ref':'" + namespace + "/raw','text':'x','ticket':'javascript:alert(1)'}",
          "{'ref':'@" + namespace + "/land','text':'x'}"
        }) {
      assertThat(api.send("POST", "/api/v1/notices", bad.replace('\'', '"')).status())
          .as(bad)
          .isEqualTo(400);
    }
  }
}
