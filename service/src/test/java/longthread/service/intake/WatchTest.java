package longthread.service.intake;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.CountDownLatch;
import longthread.service.log.BlockCodec;
import longthread.service.testing.Api;
import longthread.service.testing.Events;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import tools.jackson.databind.JsonNode;

/**
 * What the receiving side says of itself: refusals tried again, events opened, silence, overload.
 */
@ExtendWith(RunningService.Extension.class)
class WatchTest {
  private final RunningService service;
  private final Api api;
  private final String n = "watch-" + UUID.randomUUID().toString().substring(0, 8);

  WatchTest(RunningService service) {
    this.service = service;
    this.api = service.api();
  }

  /** Puts an event into the log as if it had been refused under earlier rules. */
  private long refusedBefore(String event) {
    byte[] body =
        BlockCodec.block(
            List.of(new BlockCodec.Entry(true, event.getBytes(StandardCharsets.UTF_8))));
    Long block =
        service
            .jdbc()
            .queryForObject(
                "insert into event_block (received_at, events, body, reading, applied_at,"
                    + " change_number) values (now(), 1, ?, 1, now(), 0) returning id",
                Long.class,
                body);
    return service
        .jdbc()
        .queryForObject(
            "insert into refused_event (block_id, position, received_at, problem, reason) values"
                + " (?, 0, now(), 'old-rule', 'it was not understood then') returning id",
            Long.class,
            block);
  }

  private String good(String name) {
    return Events.dataset("2026-03-01T00:00:00Z", n, name, Events.schema("a")).replace('\'', '"');
  }

  @Test
  void what_was_refused_under_earlier_rules_is_accepted_when_it_is_tried_again() {
    long id = refusedBefore(good("one"));
    long still = refusedBefore("no json still");
    JsonNode opened = api.get("/api/v1/intake/refused/" + id).json();
    assertThat(opened.path("body").stringValue()).isEqualTo(good("one"));
    JsonNode retried = api.post("/api/v1/intake/refused/" + id + "/retry", "").json();
    assertThat(retried.path("accepted").intValue()).isEqualTo(1);
    api.see(retried.path("receipt").stringValue());
    assertThat(api.get("/api/v1/asset", "ref", n + "/one").status()).isEqualTo(200);

    refusedBefore(good("two"));
    JsonNode all = api.post("/api/v1/intake/refused/retry?problem=old-rule", "").json();
    assertThat(all.path("tried").intValue()).isEqualTo(2);
    assertThat(all.path("accepted").intValue()).isEqualTo(1);
    assertThat(all.path("refused").path(0).path("id").longValue()).isEqualTo(still);
    assertThat(api.get("/api/v1/intake/refused", "problem", "old-rule").json().path("refusals"))
        .hasSize(1);
    assertThat(api.get("/api/v1/intake/refused/999999999").status()).isEqualTo(404);
    service.jdbc().update("delete from refused_event where problem = 'old-rule'");
  }

  @Test
  void an_event_is_opened_with_its_bytes_its_facts_and_what_it_changed() {
    String event =
        Events.run(
            "COMPLETE",
            "2026-03-01T00:00:00Z",
            UUID.randomUUID(),
            n,
            "job",
            Events.copies(n, "in", "out", "a"));
    api.event(event);
    JsonNode recent = api.get("/api/v1/intake", "about", "@" + n + "/job").json().path("recent");
    assertThat(recent.path(0).path("changed").toString())
        .contains("run completed", "new job job", "new dataset out");
    JsonNode opened =
        api.get("/api/v1/intake/event", "id", recent.path(0).path("id").stringValue()).json();
    assertThat(opened.path("body").stringValue()).isEqualTo(event.replace('\'', '"'));
    assertThat(opened.path("links").path(0).path("flow").stringValue()).isEqualTo("IDENTITY");
    assertThat(opened.path("touched").toString()).contains(n + "/in", n + "/out", "@" + n + "/job");
    assertThat(opened.path("facets").findValuesAsString("key")).contains("schema", "columnLineage");
    assertThat(api.get("/api/v1/intake/event", "id", "x").status()).isEqualTo(400);
    assertThat(api.get("/api/v1/intake/event", "id", "999999999.0").status()).isEqualTo(404);
  }

  @Test
  void who_reported_every_day_and_stopped_is_overdue_and_who_just_reported_is_not() {
    Instant now = Instant.now();
    for (int day = 20; day >= 0; day--) {
      Instant at = now.minus(Duration.ofDays(day)).minusSeconds(60);
      api.post(
          "/api/v1/lineage",
          Events.dataset(at.toString(), n + "-on", "t" + day, "").replace('\'', '"'));
      if (day > 4) {
        api.post(
            "/api/v1/lineage",
            Events.dataset(at.toString(), n + "-off", "t" + day, "").replace('\'', '"'));
      }
    }
    api.event(Events.dataset(now.minusSeconds(30).toString(), n + "-on", "last", ""));
    JsonNode emitters = api.get("/api/v1/intake/emitters").json().path("emitters");
    for (JsonNode emitter : emitters) {
      String namespace = emitter.path("namespace").stringValue();
      if (namespace.equals(n + "-on")) {
        assertThat(emitter.path("overdueSince").isMissingNode()).isTrue();
        assertThat(emitter.path("events").intValue()).isEqualTo(22);
      }
      if (namespace.equals(n + "-off")) {
        assertThat(emitter.path("overdueSince").isMissingNode()).isFalse();
        assertThat(emitter.path("usualRest").longValue()).isBetween(80_000L, 90_000L);
      }
    }
    assertThat(emitters.findValuesAsString("namespace")).contains(n + "-on", n + "-off");
  }

  @Test
  void more_posts_than_may_wait_are_turned_away_at_once_and_the_others_are_kept()
      throws SQLException, InterruptedException {
    int posts = 170;
    var fast = new ConcurrentLinkedQueue<Long>();
    var accepted = new ConcurrentLinkedQueue<String>();
    var threads = new ArrayList<Thread>();
    var begin = new CountDownLatch(1);
    try (Connection blocking =
        DriverManager.getConnection(
            service.postgres().url("longthread"), "longthread", service.postgres().password())) {
      blocking.setAutoCommit(false);
      try (var statement = blocking.createStatement()) {
        statement.execute("lock table event_block in exclusive mode"); // commits wait now
      }
      for (int i = 0; i < posts; i++) {
        String name = "o" + i;
        var thread =
            new Thread(
                () -> {
                  try {
                    begin.await();
                  } catch (InterruptedException e) {
                    return;
                  }
                  long start = System.nanoTime();
                  int status = api.post("/api/v1/lineage", good(name)).status();
                  if (status == 201) {
                    accepted.add(name);
                  } else if (status == 503) {
                    fast.add((System.nanoTime() - start) / 1_000_000);
                  }
                });
        thread.start();
        threads.add(thread);
      }
      begin.countDown();
      for (int tries = 0; fast.isEmpty() && tries < 300; tries++) {
        Thread.sleep(10);
      }
      Thread.sleep(300);
      assertThat(fast).as("turned away while the others wait").isNotEmpty();
      blocking.rollback();
    }
    for (Thread thread : threads) {
      thread.join();
    }
    assertThat(accepted.size()).isGreaterThan(60);
    assertThat(accepted.size() + fast.size()).isEqualTo(posts);
    Api.Answer after = api.post("/api/v1/lineage", good("after"));
    assertThat(after.status()).as("it recovers by itself").isEqualTo(201);
    api.see(after.json().path("receipt").stringValue());
    for (String name : accepted) {
      assertThat(api.get("/api/v1/asset", "ref", n + "/" + name).status()).isEqualTo(200);
    }
  }

  @Test
  void aged_bytes_are_told_as_such_and_what_they_gave_stays() {
    Api.Answer answer = api.event(Events.dataset("2026-03-01T00:00:00Z", n, "aged", ""));
    String block = answer.json().path("receipt").stringValue();
    service.jdbc().update("update event_block set body = null where id = ?", Long.parseLong(block));
    JsonNode event = api.get("/api/v1/intake/event", "id", block + ".0").json();
    assertThat(event.path("body").isMissingNode()).isTrue();
    assertThat(event.path("bytes").intValue()).isZero();
    assertThat(api.get("/api/v1/asset", "ref", n + "/aged").status()).isEqualTo(200);
  }
}
