package longthread.demo;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Random;
import java.util.stream.Stream;
import longthread.core.statement.StatementReader;
import longthread.service.live.Memory;
import longthread.service.log.EventLog;
import longthread.service.log.LogReader;
import longthread.service.testing.Api;
import org.junit.jupiter.api.Order;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

/** Whatever the order, delay and repetition of the demo's own events, the catalog is the same. */
@ExtendWith(DemoWorld.Extension.class)
@Order(Integer.MAX_VALUE) // it empties the catalog and fills it anew
class ConvergenceTest {
  private static final int ROUNDS = 3;

  @Test
  void shuffled_doubled_and_split_events_give_the_same_catalog(DemoWorld world) {
    List<String> events = LogReader.events(world.service().jdbc());
    assertThat(events).hasSizeGreaterThan(300);
    replay(world, events, 50);
    String inOrder = world.service().dump();
    List<String> memory = Memory.held(world.service());
    assertThat(inOrder.lines().count()).isGreaterThan(1_000);
    for (int round = 0; round < ROUNDS; round++) {
      var random = new Random(round);
      var shuffled = new ArrayList<>(events);
      shuffled.addAll(events.subList(0, events.size() / 2)); // half of them come twice
      Collections.shuffle(shuffled, random);
      replay(world, shuffled, 1 + random.nextInt(80));
      assertThat(world.service().dump()).as("round %d", round).isEqualTo(inOrder);
      assertThat(Memory.held(world.service())).as("memory").isEqualTo(memory);
    }
  }

  private static boolean isStatement(String event) {
    return event.contains(StatementReader.FORMAT);
  }

  /**
   * What people set: no emitter may send it, so it goes to the log as the service puts it there.
   */
  private static long state(DemoWorld world, Stream<String> statements) {
    EventLog log = world.service().bean(EventLog.class);
    List<EventLog.Item> items =
        statements.map(text -> log.statement(text.getBytes(StandardCharsets.UTF_8))).toList();
    return items.isEmpty() ? 0 : log.append(items, null).block();
  }

  private static void replay(DemoWorld world, List<String> events, int size) {
    world.service().forgetEverything();
    Api api = world.service().api();
    int refused = 0;
    long newest = 0;
    for (int from = 0; from < events.size(); from += size) {
      List<String> all = events.subList(from, Math.min(events.size(), from + size));
      List<String> batch = all.stream().filter(event -> !isStatement(event)).toList();
      newest = Math.max(newest, state(world, all.stream().filter(event -> isStatement(event))));
      if (batch.isEmpty()) {
        continue;
      }
      Api.Answer answer =
          api.post(
              "/api/v1/lineage/batch",
              String.join("\n", batch),
              "Content-Type",
              "application/x-ndjson");
      refused += answer.json().path("refused").size();
      newest = Math.max(newest, Long.parseLong(answer.json().path("receipt").stringValue("")));
    }
    assertThat(refused).isZero();
    // Blocks are applied in their order, so whoever sees the newest sees all.
    api.see(String.valueOf(newest));
  }
}
