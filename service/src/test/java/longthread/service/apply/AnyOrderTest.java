package longthread.service.apply;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Random;
import java.util.TreeSet;
import java.util.concurrent.atomic.AtomicReference;
import longthread.service.live.Memory;
import longthread.service.testing.Api;
import longthread.service.testing.Corpus;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** The same events give the same catalog, whatever their order, repetition and batches. */
@ExtendWith(RunningService.Extension.class)
class AnyOrderTest {
  private static final int EVENTS = 400;
  private static final int MOMENTS = 8;

  private final RunningService service;
  private final Api api;

  AnyOrderTest(RunningService service) {
    this.service = service;
    this.api = service.api();
  }

  /** The graph as it was when memory was last looked at; the next look catches up from there. */
  @TempDir private static Path folder;

  private final Path graphFile = folder.resolve("graph.image");

  private void send(List<String> events, Random random) {
    long receipt = 0;
    for (int from = 0; from < events.size(); ) {
      int to = Math.min(events.size(), from + 1 + random.nextInt(120));
      Api.Answer answer =
          api.post("/api/v1/lineage/batch", String.join("\n", events.subList(from, to)));
      assertThat(answer.status()).isEqualTo(200);
      assertThat(answer.json().path("refused")).isEmpty();
      // Events that were there before have the receipt of then.
      receipt = Math.max(receipt, Long.parseLong(answer.json().path("receipt").stringValue("0")));
      if (random.nextInt(3) == 0) {
        api.see(
            String.valueOf(
                receipt)); // so that batches of every size are applied, not only large ones
        assertMemoryIsAsLoaded();
      }
      from = to;
    }
    api.see(String.valueOf(receipt));
  }

  /** What is held in memory follows every change as if it had been loaded after it. */
  private void assertMemoryIsAsLoaded() {
    List<String> held = Memory.held(service);
    List<String> loaded = Memory.loaded(service);
    assertThat(difference(String.join("\n", loaded), String.join("\n", held))).isEmpty();
    List<String> caughtUp = Memory.caughtUp(service, graphFile);
    assertThat(difference(String.join("\n", loaded), String.join("\n", caughtUp))).isEmpty();
  }

  /** The graph of now, changed to a moment at which links began or ended, is that of then. */
  private void assertThePastIsAsRead(Random random) {
    List<Instant> moments =
        service
            .jdbc()
            .queryForList(
                "select first_seen from link_row union select until from link_span"
                    + " where until is not null order by 1",
                OffsetDateTime.class)
            .stream()
            .map(OffsetDateTime::toInstant)
            .toList();
    assertThat(moments).hasSizeGreaterThan(MOMENTS);
    for (int i = 0; i < MOMENTS; i++) {
      Instant at = moments.get(random.nextInt(moments.size())).minusSeconds(random.nextInt(2));
      List<String> read = Memory.readAt(at, service);
      List<String> changed = Memory.changedTo(at, service);
      assertThat(difference(String.join("\n", read), String.join("\n", changed)))
          .as(at.toString())
          .isEmpty();
    }
  }

  /** The lines that only one of two dumps has, the first of them. */
  private static List<String> difference(String one, String other) {
    var first = one.lines().toList();
    var second = other.lines().toList();
    var difference = new ArrayList<String>();
    new TreeSet<>(first)
        .stream()
            .filter(line -> Collections.binarySearch(second, line) < 0)
            .limit(6)
            .forEach(line -> difference.add("- " + line));
    new TreeSet<>(second)
        .stream()
            .filter(line -> Collections.binarySearch(first, line) < 0)
            .limit(6)
            .forEach(line -> difference.add("+ " + line));
    return difference;
  }

  private record Ending(String dump, List<String> memory) {}

  private Ending ending(List<String> events, Random random) {
    service.forgetEverything();
    send(events, random);
    assertMemoryIsAsLoaded();
    assertThePastIsAsRead(random);
    return new Ending(service.dump(), Memory.held(service));
  }

  @ParameterizedTest
  @ValueSource(longs = {1, 2, 3, 4})
  void shuffled_doubled_and_parted_events_give_an_equal_catalog(long seed) {
    List<String> events = Corpus.events(seed, EVENTS);
    var random = new Random(seed);
    Ending inOrder = ending(events, random);
    assertThat(inOrder.dump().lines().count()).isGreaterThan(EVENTS);
    for (int round = 0; round < 2; round++) {
      var mixed = new ArrayList<>(events);
      events.stream().filter(event -> random.nextInt(3) == 0).forEach(mixed::add);
      Collections.shuffle(mixed, random);
      Ending ending = ending(mixed, random);
      assertThat(difference(inOrder.dump(), ending.dump())).isEmpty();
      assertThat(ending.memory()).as("memory").isEqualTo(inOrder.memory());
    }
  }

  @Test
  void a_rebuild_gives_an_equal_catalog_also_when_bodies_are_aged() throws InterruptedException {
    List<String> events = Corpus.events(5, EVENTS);
    Ending live = ending(events, new Random(5));
    assertThat(rebuilt().path("state").stringValue()).isEqualTo("switched");
    assertThat(service.dump()).isEqualTo(live.dump());

    int aged =
        service
            .jdbc()
            .update(
                "update event_block set body = null, aged = true where id % 2 = 0 and not aged");
    assertThat(aged).isPositive();
    var status = rebuilt();
    assertThat(status.path("state").stringValue()).isEqualTo("switched");
    assertThat(status.path("carried").longValue()).isPositive();
    assertThat(service.dump()).isEqualTo(live.dump());
    assertThat(Memory.held(service)).isEqualTo(live.memory());

    // and the applier goes on with the catalog that was put in place
    send(Corpus.events(6, 30), new Random(6));
    assertThat(service.dump()).contains("c6/");
  }

  @ParameterizedTest
  @ValueSource(longs = {11, 13, 17})
  void a_rebuild_while_events_come_in_gives_the_same_catalog(long seed) throws Exception {
    List<String> before = Corpus.events(seed, EVENTS / 2);
    List<String> meanwhile = Corpus.events(seed + 100, EVENTS);
    service.forgetEverything();
    send(before, new Random(seed));
    var failure = new AtomicReference<Throwable>();
    var poster = new Thread(() -> send(meanwhile, new Random(seed)));
    poster.setUncaughtExceptionHandler((thread, e) -> failure.set(e));
    poster.start();
    while (poster.isAlive()) {
      var status = rebuilt();
      assertThat(status.path("state").stringValue()).as(status.toString()).isEqualTo("switched");
    }
    poster.join();
    assertThat(failure.get()).isNull();
    assertThat(rebuilt().path("state").stringValue()).isEqualTo("switched");
    assertMemoryIsAsLoaded();
    String live = service.dump();
    var all = new ArrayList<>(before);
    all.addAll(meanwhile);
    assertThat(difference(ending(all, new Random(seed)).dump(), live)).isEmpty();
  }

  @Test
  void a_rebuild_that_comes_out_differently_changes_nothing_and_says_what()
      throws InterruptedException {
    ending(Corpus.events(7, 60), new Random(7));
    service.jdbc().update("delete from card where ref = (select min(ref) from card)");
    String damaged = service.dump();
    var status = rebuilt();
    assertThat(status.path("state").stringValue()).isEqualTo("differs");
    assertThat(status.path("differences").toString()).contains("card");
    assertThat(service.dump()).isEqualTo(damaged);
    assertThat(api.post("/api/v1/rebuild?accept=true", "").status()).isEqualTo(202);
    assertThat(ended().path("state").stringValue()).isEqualTo("switched");
    assertThat(service.dump()).isNotEqualTo(damaged);
  }

  private tools.jackson.databind.JsonNode rebuilt() throws InterruptedException {
    assertThat(api.post("/api/v1/rebuild", "").status()).isEqualTo(202);
    return ended();
  }

  private tools.jackson.databind.JsonNode ended() throws InterruptedException {
    for (int tries = 0; tries < 600; tries++) {
      var status = api.get("/api/v1/rebuild").json();
      if (!status.path("state").stringValue("").equals("running")) {
        return status;
      }
      Thread.sleep(100);
    }
    throw new AssertionError("the rebuild did not end");
  }
}
