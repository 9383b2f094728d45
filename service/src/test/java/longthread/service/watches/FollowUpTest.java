package longthread.service.watches;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.UUID;
import java.util.function.BooleanSupplier;
import longthread.service.health.HealthBoard;
import longthread.service.testing.Api;
import longthread.service.testing.Events;
import longthread.service.testing.Nights;
import longthread.service.testing.Receiver;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

/** Watches with their messages, shared links, tickets and trails, on a running service. */
@ExtendWith(RunningService.Extension.class)
class FollowUpTest {
  private static final Duration PATIENCE = Duration.ofSeconds(30);
  private final String namespace = "watch-" + UUID.randomUUID();
  private final String hook = "/hook-" + UUID.randomUUID();
  private final RunningService service;
  private final Api api;
  private final Nights nights;
  private final Receiver receiver;

  FollowUpTest(RunningService service) {
    this.service = service;
    this.api = service.api();
    this.nights = new Nights(api, namespace);
    this.receiver = service.receiver();
  }

  @BeforeEach
  void chain() {
    nights.play("land", 0, "file", "raw", "cccccc");
    nights.play("build", 10, "raw", "mart", "cccccc");
    service.bean(HealthBoard.class).judge();
  }

  private JsonNode make(String rest) {
    String body = "{'targetKind':'asset','target':'" + namespace + "/mart'," + rest + "}";
    Api.Answer answer = api.send("POST", "/api/v1/watches", body.replace('\'', '"'));
    assertThat(answer.status()).as(answer.body()).isEqualTo(200);
    return answer.json();
  }

  private JsonNode webhook() {
    return make("'channel':'webhook','address':'" + receiver.address(hook) + "'");
  }

  private void failBoth() {
    nights.play("land", 60, "file", "raw", "f");
    nights.play("build", 70, "raw", "mart", "f");
    service.bean(HealthBoard.class).judge();
  }

  private void until(BooleanSupplier holds, String what) {
    Instant end = Instant.now().plus(PATIENCE);
    while (!holds.getAsBoolean()) {
      assertThat(Instant.now()).as("waited for: " + what).isBefore(end);
      service.bean(HealthBoard.class).judge();
      service.bean(WatchRunner.class).run();
      service.bean(Deliverer.class).tick();
      pause();
    }
  }

  private static void pause() {
    try {
      Thread.sleep(100);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
  }

  private List<JsonNode> events() {
    return receiver.at(hook).stream()
        .flatMap(
            one ->
                one.json().isArray()
                    ? one.json().valueStream()
                    : java.util.stream.Stream.of(one.json()))
        .toList();
  }

  private List<String> types() {
    return events().stream().map(event -> event.path("type").stringValue("")).toList();
  }

  @Test
  void a_cause_is_sent_once_signed_with_its_effects_and_its_end_is_sent_too() {
    String secret = webhook().path("secret").stringValue("");
    failBoth();
    until(() -> !events().isEmpty(), "the message");
    Receiver.Taken message = receiver.at(hook).get(0);
    String id = message.headers().getFirst("webhook-id");
    String at = message.headers().getFirst("webhook-timestamp");
    assertThat(message.headers().getFirst("webhook-signature"))
        .isEqualTo("v1," + Deliverer.signature(secret, id + "." + at + "." + message.body()));
    JsonNode event = events().get(0);
    assertThat(event.path("specversion").stringValue("")).isEqualTo("1.0");
    assertThat(event.path("type").stringValue("")).isEqualTo("longthread.failed");
    assertThat(event.path("data").path("ref").stringValue("")).endsWith("/land");
    assertThat(event.path("data").path("effects").get(0).path("ref").stringValue(""))
        .endsWith("/build");
    assertThat(event.path("data").path("watched").get(0).path("ref").stringValue(""))
        .endsWith("/mart");
    nights.play("land", 80, "file", "raw", "c");
    nights.play("build", 90, "raw", "mart", "c");
    until(() -> types().contains("longthread.recovered"), "the end");
    assertThat(types()).containsExactly("longthread.failed", "longthread.recovered");
  }

  @Test
  void what_is_wrong_before_a_watch_is_made_is_not_sent_and_notices_are() {
    failBoth();
    webhook();
    String body = "{\"ref\":\"" + namespace + "/raw\",\"text\":\"Wrong unit\"}";
    JsonNode put = api.send("POST", "/api/v1/notices", body).json();
    api.see(put.path("receipt").stringValue(""));
    until(() -> types().contains("longthread.notice"), "the notice");
    JsonNode lifted =
        api.send("POST", "/api/v1/notices/lift?id=" + put.path("id").stringValue(""), "").json();
    api.see(lifted.path("receipt").stringValue(""));
    until(() -> types().contains("longthread.notice.lifted"), "the lifting");
    assertThat(types()).containsExactly("longthread.notice", "longthread.notice.lifted");
  }

  @Test
  void the_watch_of_a_disabled_account_sends_nothing() {
    String id = webhook().path("id").stringValue("");
    String owner = "gone-" + UUID.randomUUID();
    service
        .jdbc()
        .update(
            "insert into account (name, display_name, password_hash, role, created_at, disabled_at)"
                + " values (?, 'x', 'x', 'reader', now(), now())",
            owner);
    service.jdbc().update("update watch set owner = ? where id = ?", owner, id);
    assertThat(api.send("POST", "/api/v1/watches/try?id=" + id, "").status()).isEqualTo(200);
    until(() -> deliveries(id).get(0).path("state").stringValue("").equals("dead"), "the end");
    assertThat(receiver.at(hook)).isEmpty();
    assertThat(deliveries(id).get(0).path("problem").stringValue("")).contains("disabled");
  }

  @Test
  void a_watch_is_made_only_for_what_the_service_may_call() {
    for (String address :
        List.of(
            "http://10.0.0.1/x",
            "http://[::1]:5432/",
            "http://169.254.169.254/",
            "http://a:99999/")) {
      Api.Answer refused =
          api.send(
              "POST",
              "/api/v1/watches",
              ("{'targetKind':'owner','target':'x','channel':'webhook','address':'"
                      + address
                      + "'}")
                  .replace('\'', '"'));
      assertThat(refused.status()).as(address).isEqualTo(400);
    }
    Api.Answer mail =
        api.send(
            "POST",
            "/api/v1/watches",
            "{'targetKind':'owner','target':'x','channel':'email','address':'a@elsewhere.test'}"
                .replace('\'', '"'));
    assertThat(mail.status()).isEqualTo(400);
    assertThat(mail.body()).contains("LONGTHREAD_MAIL_DOMAINS");
  }

  @Test
  void what_cannot_be_sent_is_tried_again_given_up_in_the_end_and_sent_by_hand() {
    receiver.answer(hook, 503);
    String id = webhook().path("id").stringValue("");
    assertThat(api.send("POST", "/api/v1/watches/try?id=" + id, "").status()).isEqualTo(200);
    until(() -> deliveries(id).get(0).path("tries").intValue() == 1, "the first try");
    JsonNode failed = deliveries(id).get(0);
    assertThat(failed.path("state").stringValue("")).isEqualTo("waiting");
    assertThat(failed.path("problem").stringValue("")).contains("5xx");
    assertThat(Instant.parse(failed.path("nextAt").stringValue(""))).isAfter(Instant.now());
    service.jdbc().update("update delivery set tries = 7, next_at = now() where watch_id = ?", id);
    until(() -> deliveries(id).get(0).path("state").stringValue("").equals("dead"), "the end");
    receiver.answer(hook, 200);
    String message = deliveries(id).get(0).path("id").stringValue("");
    api.send("POST", "/api/v1/deliveries/retry?id=" + message, "");
    until(() -> !receiver.at(hook).isEmpty(), "the message");
    assertThat(api.send("POST", "/api/v1/deliveries/retry?id=" + message, "").status())
        .isEqualTo(404);
  }

  private JsonNode deliveries(String watch) {
    return api.get("/api/v1/deliveries", "watch", watch).json().path("items");
  }

  @Test
  void mail_goes_to_the_mailbox_and_a_digest_waits_for_its_hour() throws Exception {
    String mailbox = "m" + UUID.randomUUID() + "@hollinvale.example";
    String id = make("'channel':'email','address':'" + mailbox + "'").path("id").stringValue("");
    api.send("POST", "/api/v1/watches/try?id=" + id, "");
    until(
        () ->
            receiver.mails().stream()
                .anyMatch(
                    mail -> {
                      try {
                        return mail.getAllRecipients()[0].toString().equals(mailbox);
                      } catch (jakarta.mail.MessagingException e) {
                        return false;
                      }
                    }),
        "the mail");
    String daily =
        make("'channel':'email','address':'" + mailbox + "','digest':'hourly'")
            .path("id")
            .stringValue("");
    api.send("POST", "/api/v1/watches/try?id=" + daily, "");
    Instant due = Instant.parse(deliveries(daily).get(0).path("nextAt").stringValue(""));
    assertThat(due.getEpochSecond() % 3_600).isZero();
    assertThat(due).isAfter(Instant.now());
  }

  @Test
  void quiet_hours_and_digests_move_a_message() {
    var atNight =
        new Hours("at-once", null, time("22:00"), time("06:00"), java.time.ZoneOffset.UTC);
    assertThat(atNight.dueAfter(Instant.parse("2031-05-01T23:10:00Z")))
        .isEqualTo("2031-05-02T06:00:00Z");
    assertThat(atNight.dueAfter(Instant.parse("2031-05-01T05:59:00Z")))
        .isEqualTo("2031-05-01T06:00:00Z");
    assertThat(atNight.dueAfter(Instant.parse("2031-05-01T12:00:00Z")))
        .isEqualTo("2031-05-01T12:00:00Z");
    var daily = new Hours("daily", time("07:30"), null, null, java.time.ZoneId.of("Europe/Paris"));
    assertThat(daily.dueAfter(Instant.parse("2031-05-01T12:00:00Z")))
        .isEqualTo("2031-05-02T05:30:00Z");
  }

  private static java.time.LocalTime time(String text) {
    return java.time.LocalTime.parse(text);
  }

  @Test
  void a_watch_that_cannot_be_made_says_why_and_a_reader_makes_no_webhook() {
    for (String bad :
        new String[] {
          "'channel':'pigeon','address':'x'",
          "'channel':'email','address':'no mailbox'",
          "'channel':'webhook','address':'ftp://x'",
          "'channel':'email','address':'a@hollinvale.example','quietFrom':'22:00'",
          "'channel':'email','address':'a@hollinvale.example','digestAt':'late'",
          "'channel':'email','address':'a@hollinvale.example','zone':'Moon'",
          "'channel':'email','address':'a@hollinvale.example','about':['gossip']"
        }) {
      String body =
          ("{'targetKind':'asset','target':'" + namespace + "/mart'," + bad + "}")
              .replace('\'', '"');
      assertThat(api.send("POST", "/api/v1/watches", body).status()).as(bad).isEqualTo(400);
    }
    String key = "{\"name\":\"r-" + UUID.randomUUID() + "\",\"role\":\"reader\"}";
    String token = api.send("POST", "/api/v1/keys", key).json().path("token").stringValue("");
    var reader = new Api(service.base(), token);
    String body =
        "{'targetKind':'asset','target':'"
            + namespace
            + "/mart','channel':'webhook','address':'http://x'}";
    assertThat(reader.send("POST", "/api/v1/watches", body.replace('\'', '"')).status())
        .isEqualTo(403);
    String others = webhook().path("id").stringValue("");
    assertThat(reader.send("POST", "/api/v1/watches/try?id=" + others, "").status()).isEqualTo(403);
    assertThat(reader.delete("/api/v1/watches?id=" + others).status()).isEqualTo(403);
    assertThat(reader.get("/api/v1/watches").body()).contains(others).doesNotContain(hook);
  }

  // ------------------------------------------------------------------ links, tickets, trail

  @Test
  void a_link_shows_the_state_of_one_asset_until_it_is_revoked() {
    failBoth();
    String body = "{\"ref\":\"" + namespace + "/mart\"}";
    JsonNode link = api.send("POST", "/api/v1/share-links", body).json();
    String path = link.path("page").stringValue("").replaceFirst("^https?://[^/]+", "");
    var nobody = new Api(service.base(), "");
    assertThat(nobody.get(path).body()).contains("<h1>mart</h1>").contains("Failed");
    assertThat(nobody.get(path + "/badge.svg").body()).contains("<svg").contains("mart: failed");
    assertThat(nobody.get(path).headers().firstValue("X-Robots-Tag")).contains("noindex");
    api.delete("/api/v1/share-links?id=" + link.path("id").stringValue(""));
    assertThat(nobody.get(path).status()).isEqualTo(404);
    assertThat(nobody.get(path + "/badge.svg").status()).isEqualTo(404);
    assertThat(nobody.get("/shared/" + "x".repeat(43)).status()).isEqualTo(404);
    String tooLong = "{\"ref\":\"" + namespace + "/mart\",\"until\":\"2099-01-01T00:00:00Z\"}";
    assertThat(api.send("POST", "/api/v1/share-links", tooLong).status()).isEqualTo(400);
  }

  @Test
  void a_ticket_carries_all_that_is_known_and_its_closing_comes_back() {
    failBoth();
    String body = "{'ref':'" + namespace + "/mart','suspect':'@" + namespace + "/land'}";
    Api.Answer answer = api.send("POST", "/api/v1/tickets", body.replace('\'', '"'));
    assertThat(answer.status()).as(answer.body()).isEqualTo(200);
    JsonNode sent =
        receiver.at("/tickets").stream()
            .map(Receiver.Taken::json)
            .filter(one -> one.toString().contains(namespace))
            .findFirst()
            .orElseThrow();
    assertThat(sent.path("data").path("suspect").path("thread")).isNotEmpty();
    assertThat(sent.path("data").path("title").stringValue("")).contains("land");
    String closed =
        "{\"id\":\"" + answer.json().path("id").stringValue("") + "\",\"outcome\":\"disk added\"}";
    assertThat(
            api.send("POST", "/api/v1/tickets/closed", closed)
                .json()
                .path("outcome")
                .stringValue(""))
        .isEqualTo("disk added");
    JsonNode listed = api.get("/api/v1/tickets", "ref", namespace + "/mart").json().path("items");
    assertThat(listed.get(0).path("closedAt").isString()).isTrue();
  }

  @Test
  void a_thread_found_right_lapses_when_the_code_on_it_changes() {
    String body = "{'from':'" + namespace + "/file#x','to':'" + namespace + "/mart#x'}";
    JsonNode noted = api.send("POST", "/api/v1/followed", body.replace('\'', '"')).json();
    api.see(noted.path("receipt").stringValue(""));
    assertThat(followed().path("state").stringValue("")).isEqualTo("holds");
    String sql =
        "'job':{'namespace':'"
            + namespace
            + "','name':'build','facets':{'sql':{'query':'select 2'}}}";
    String event =
        Events.run(
            "COMPLETE",
            "" + Instant.now(),
            UUID.randomUUID(),
            namespace,
            "build",
            Events.copies(namespace, "raw", "mart", "x", "y"));
    api.event(event.replace("'job':{'namespace':'" + namespace + "','name':'build'}", sql));
    JsonNode lapsed = followed();
    assertThat(lapsed.path("state").stringValue("")).isEqualTo("lapsed");
    assertThat(lapsed.path("lapsed").stringValue("")).contains("version 1").contains("version 2");
  }

  private JsonNode followed() {
    return api.get("/api/v1/followed", "ref", namespace + "/mart").json().path("items").get(0);
  }

  @Test
  void a_trail_is_ones_own_until_it_is_shared() {
    api.send("POST", "/api/v1/trail", "{\"ref\":\"" + namespace + "/mart\"}");
    api.send(
        "POST",
        "/api/v1/trail",
        "{\"ref\":\"" + namespace + "/raw\",\"later\":true,\"note\":\"odd\"}");
    JsonNode trail = api.get("/api/v1/trail").json();
    assertThat(trail.path("items").get(0).path("note").stringValue("")).isEqualTo("odd");
    String name = "t-" + UUID.randomUUID();
    String key = "{\"name\":\"" + name + "\",\"role\":\"reader\"}";
    String token = api.send("POST", "/api/v1/keys", key).json().path("token").stringValue("");
    var other = new Api(service.base(), token);
    String person = trail.path("person").stringValue("");
    assertThat(other.get("/api/v1/trail", "person", person).status()).isEqualTo(403);
    api.send("PUT", "/api/v1/trail/sharing", "{\"shared\":true}");
    assertThat(other.get("/api/v1/trail", "person", person).json().path("items")).isNotEmpty();
    api.send("PUT", "/api/v1/trail/sharing", "{\"shared\":false}");
    api.delete("/api/v1/trail?ref=" + namespace + "/raw");
    assertThat(api.get("/api/v1/trail", "later", "true").json().path("items").toString())
        .doesNotContain(namespace);
  }
}
