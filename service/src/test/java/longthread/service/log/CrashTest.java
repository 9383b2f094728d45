package longthread.service.log;

import static org.assertj.core.api.Assertions.assertThat;

import java.net.CookieManager;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse.BodyHandlers;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Queue;
import java.util.Random;
import java.util.Set;
import java.util.TreeSet;
import java.util.UUID;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicReference;
import longthread.service.testing.Api;
import longthread.service.testing.ChildService;
import longthread.service.testing.Corpus;
import longthread.service.testing.Events;
import longthread.service.testing.RunningService;
import longthread.service.testing.TestPostgres;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/**
 * Services as processes of their own over a durable PostgreSQL, killed without a word: nothing that
 * was acknowledged is lost, nothing is applied twice, and another replica goes on.
 */
class CrashTest {
  private static TestPostgres postgres;

  @BeforeAll
  static void setUp() {
    postgres = new TestPostgres(true);
  }

  @AfterAll
  static void tearDown() {
    postgres.close();
  }

  private static Connection connection(String database) throws SQLException {
    return DriverManager.getConnection(postgres.url(database), "longthread", "secret");
  }

  private static long number(String database, String sql) throws SQLException {
    try (Connection connection = connection(database);
        var statement = connection.createStatement();
        var row = statement.executeQuery(sql)) {
      row.next();
      return row.getLong(1);
    }
  }

  private static Set<String> texts(String database, String sql) throws SQLException {
    try (Connection connection = connection(database);
        var statement = connection.createStatement();
        var row = statement.executeQuery(sql)) {
      var texts = new TreeSet<String>();
      while (row.next()) {
        texts.add(row.getString(1));
      }
      return texts;
    }
  }

  /** Posts events from several threads for as long as it is asked to. */
  private static final class Load {
    private final Queue<String> acknowledged = new ConcurrentLinkedQueue<>();
    private final AtomicBoolean running = new AtomicBoolean(true);
    private final AtomicReference<Api> api;
    private final List<Thread> threads = new ArrayList<>();

    Load(AtomicReference<Api> api) {
      this.api = api;
      for (int i = 0; i < 6; i++) {
        var thread = new Thread(this::post);
        thread.start();
        threads.add(thread);
      }
    }

    private void post() {
      while (running.get()) {
        UUID run = UUID.randomUUID();
        String event =
            Events.run(
                    "COMPLETE",
                    "2026-03-01T00:00:00Z",
                    run,
                    "crash",
                    "job" + Math.floorMod(run.hashCode(), 20),
                    Events.copies("crash", "in", "out" + Math.floorMod(run.hashCode(), 20), "a"))
                .replace('\'', '"');
        try {
          if (api.get().post("/api/v1/lineage", event).status() == 201) {
            acknowledged.add(run.toString());
          }
        } catch (IllegalStateException e) {
          pause(20); // killed just now
        }
      }
    }

    void stop() {
      running.set(false);
      threads.forEach(
          thread -> {
            try {
              thread.join(20_000);
            } catch (InterruptedException e) {
              Thread.currentThread().interrupt();
            }
          });
    }
  }

  private static void pause(long millis) {
    try {
      Thread.sleep(millis);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
  }

  private static void awaitApplied(String database) throws SQLException {
    for (int tries = 0; tries < 600; tries++) {
      if (number(database, "select count(*) from event_block where applied_at is null") == 0) {
        return;
      }
      pause(100);
    }
    throw new AssertionError("the log was not applied");
  }

  @Test
  void what_was_acknowledged_outlives_kills_of_the_service_and_of_the_database()
      throws SQLException {
    postgres.createDatabase("crash");
    var random = new Random(9);
    var service = new ChildService(postgres, "crash");
    var api = new AtomicReference<>(service.api());
    var load = new Load(api);
    try {
      for (int round = 0; round < 6; round++) {
        pause(400 + random.nextInt(1_200));
        boolean database = round % 2 == 1;
        if (database) {
          postgres.kill();
          pause(random.nextInt(600));
          postgres.start();
        } else {
          service.kill();
          service = new ChildService(postgres, "crash");
          api.set(service.api());
        }
      }
      pause(1_500);
      load.stop();
      awaitApplied("crash");
    } finally {
      load.stop();
      service.kill();
    }
    Set<String> acknowledged = new TreeSet<>(load.acknowledged);
    assertThat(acknowledged).hasSizeGreaterThan(200);
    assertThat(texts("crash", "select problem || ': ' || reason from refused_event"))
        .as("no event is at fault when a service or its database is killed")
        .isEmpty();
    Set<String> known = texts("crash", "select run_id::text from catalog.run");
    assertThat(known).containsAll(acknowledged);
    assertThat(number("crash", "select count(*) from event_seen"))
        .as("each event was applied once")
        .isEqualTo(known.size())
        .isEqualTo(number("crash", "select applied from intake_count"));
    assertThat(number("crash", "select count(*) from refused_event")).isZero();
    assertThat(number("crash", "select sum(events) from event_block"))
        .isEqualTo(number("crash", "select received from intake_count"));
    // A service that starts anew reads from the tables what this one held in memory.
    try (var fresh = new ChildService(postgres, "crash")) {
      assertThat(
              fresh
                  .api()
                  .get("/api/v1/impact", "ref", "crash/in#a", "change", "drop")
                  .json()
                  .path("items"))
          .hasSizeGreaterThanOrEqualTo(20);
      assertThat(fresh.api().post("/api/v1/rebuild", "").status()).isEqualTo(202);
      String state = "running";
      for (int tries = 0; state.equals("running") && tries < 300; tries++) {
        pause(100);
        state = fresh.api().get("/api/v1/rebuild").json().path("state").stringValue("");
      }
      assertThat(state).as("a rebuild from the log alone is equal").isEqualTo("switched");
    }
  }

  @Test
  void another_replica_takes_over_within_seconds_and_both_answer_the_same() throws SQLException {
    postgres.createDatabase("pair");
    try (var one = new ChildService(postgres, "pair")) {
      try (var two = new ChildService(postgres, "pair")) {
        for (int i = 0; i < 20; i++) {
          post(i % 2 == 0 ? one : two, "t" + i);
        }
        awaitSeen(one, "t19", Duration.ofSeconds(10));
        awaitSeen(two, "t18", Duration.ofSeconds(2));
        assertThat(one.api().get("/api/v1/search", "q", "pair").json().path("total"))
            .isEqualTo(two.api().get("/api/v1/search", "q", "pair").json().path("total"));
        interleaved(one, two);
        boolean oneApplies = one.api().get("/api/v1/intake").json().path("applying").booleanValue();
        assertThat(two.api().get("/api/v1/intake").json().path("applying").booleanValue())
            .isNotEqualTo(oneApplies);
        ChildService dies = oneApplies ? one : two;
        ChildService lives = oneApplies ? two : one;
        dies.kill();
        post(lives, "after");
        awaitSeen(lives, "after", Duration.ofSeconds(5));
      }
    }
  }

  /** Events that conflict with each other, sent to both in turns: a rebuild in order is equal. */
  private static void interleaved(ChildService one, ChildService two) throws SQLException {
    List<String> events = new ArrayList<>(Corpus.events(21, 300));
    java.util.Collections.shuffle(events, new Random(21));
    for (int from = 0; from < events.size(); from += 25) {
      String batch = String.join("\n", events.subList(from, from + 25));
      Api api = (from % 50 == 0 ? one : two).api();
      assertThat(api.post("/api/v1/lineage/batch", batch).status()).isEqualTo(200);
      assertThat(api.post("/api/v1/lineage/batch", batch).json().path("duplicates").intValue())
          .isEqualTo(25);
    }
    awaitApplied("pair");
    assertThat(one.api().post("/api/v1/rebuild", "").status()).isEqualTo(202);
    String state = "running";
    for (int tries = 0; state.equals("running") && tries < 300; tries++) {
      pause(100);
      state = one.api().get("/api/v1/rebuild").json().path("state").stringValue("");
    }
    assertThat(state).isEqualTo("switched");
    int total = one.api().get("/api/v1/search", "q", "c21").json().path("total").intValue();
    assertThat(total).isPositive();
    int other = -1;
    for (int tries = 0; other != total && tries < 100; tries++) {
      pause(100); // the other one loads what was put in place
      other = two.api().get("/api/v1/search", "q", "c21").json().path("total").intValue();
    }
    assertThat(other).isEqualTo(total);
  }

  private static void post(ChildService to, String name) {
    String event = Events.dataset("2026-03-01T00:00:00Z", "pair", name, Events.schema("a"));
    assertThat(to.api().post("/api/v1/lineage", event.replace('\'', '"')).status()).isEqualTo(201);
  }

  private static void awaitSeen(ChildService at, String name, Duration longest) {
    long deadline = System.nanoTime() + longest.toNanos();
    while (at.api().get("/api/v1/asset", "ref", "pair/" + name).status() != 200) {
      assertThat(System.nanoTime()).as(name + " is seen in time").isLessThan(deadline);
      pause(50);
    }
  }

  @Test
  void while_the_database_is_away_posts_are_turned_away_at_once_and_questions_are_answered()
      throws Exception {
    postgres.createDatabase("away");
    try (var service = new ChildService(postgres, "away")) {
      Api api = service.api();
      String event =
          Events.run(
              "COMPLETE",
              "2026-03-01T00:00:00Z",
              UUID.randomUUID(),
              "away",
              "j",
              Events.copies("away", "in", "out", "a"));
      assertThat(api.event(event).status()).isEqualTo(201);
      postgres.kill();
      try {
        // The first post may find out; those after it are refused at once.
        api.post("/api/v1/lineage", event.replace("away", "away2").replace('\'', '"'));
        long start = System.nanoTime();
        Api.Answer busy =
            api.post("/api/v1/lineage", event.replace("away", "away3").replace('\'', '"'));
        long millis = (System.nanoTime() - start) / 1_000_000;
        assertThat(busy.status()).isEqualTo(503);
        assertThat(busy.headers().firstValue("Retry-After")).isPresent();
        assertThat(millis).isLessThan(1_000);
        whoCannotBeKnownIsNotTurnedAway(service.base());
        Api.Answer impact = api.get("/api/v1/impact", "ref", "away/in#a", "change", "drop");
        assertThat(impact.status()).isEqualTo(200);
        assertThat(impact.body()).contains("away/out");
        String asOf = impact.headers().firstValue("Longthread-As-Of").orElseThrow();
        pause(300);
        assertThat(
                api.get("/api/v1/impact", "ref", "away/in#a", "change", "drop")
                    .headers()
                    .firstValue("Longthread-As-Of"))
            .as("its age shows")
            .contains(asOf);
        assertThat(api.get("/api/v1/search", "q", "out").status()).isEqualTo(200);
        assertThat(api.get("/api/v1/browse").status()).isEqualTo(200);
        assertThat(api.get("/api/v1/thread", "from", "away/in#a", "to", "away/out#a").status())
            .isEqualTo(200);
        for (String detail : List.of("systems", "assets", "steps", "columns")) {
          Api.Answer graph = api.get("/api/v1/graph", "ref", "away/out", "detail", detail);
          assertThat(graph.status()).as(detail).isEqualTo(200);
          assertThat(graph.json().path("gap").stringValue("")).contains("database is unreachable");
        }
      } finally {
        postgres.start();
      }
      int status = 503;
      for (int tries = 0; status != 201 && tries < 100; tries++) {
        pause(200);
        status =
            api.post("/api/v1/lineage", event.replace("away", "away4").replace('\'', '"')).status();
      }
      assertThat(status).as("it recovers by itself").isEqualTo(201);
    }
  }

  /** A key and a password that cannot be checked now are not said to be wrong. */
  private static void whoCannotBeKnownIsNotTurnedAway(String base) throws Exception {
    var stranger = new Api(base, "lt_not_seen_before");
    assertThat(stranger.get("/api/v1/search").status()).isEqualTo(503);
    assertThat(stranger.get("/api/v1/search").type()).isEqualTo("/problems/database-unreachable");
    assertThat(stranger.post("/api/v1/lineage", "{}").status()).isEqualTo(503);
    assertThat(stranger.get("/health/readiness").status()).isEqualTo(503);
    var cookies = new CookieManager();
    var browser = HttpClient.newBuilder().cookieHandler(cookies).build();
    var session = URI.create(base + "/api/v1/session");
    browser.send(HttpRequest.newBuilder(session).build(), BodyHandlers.discarding());
    String token =
        cookies.getCookieStore().getCookies().stream()
            .filter(cookie -> cookie.getName().equals("XSRF-TOKEN"))
            .findFirst()
            .orElseThrow()
            .getValue();
    String body = "{\"name\":\"admin\",\"password\":\"" + RunningService.PASSWORD + "\"}";
    var signIn =
        HttpRequest.newBuilder(session)
            .header("Content-Type", "application/json")
            .header("X-XSRF-TOKEN", token)
            .POST(HttpRequest.BodyPublishers.ofString(body))
            .build();
    assertThat(browser.send(signIn, BodyHandlers.ofString()).statusCode()).isEqualTo(503);
  }
}
