package longthread.service.apply;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import java.util.stream.Collectors;
import longthread.service.testing.Api;
import longthread.service.testing.Events;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

/**
 * A job of thousands of runs, of which those that change nothing are not kept in memory: whatever
 * comes late, its versions and links are those that come out when all is read anew.
 */
@ExtendWith(RunningService.Extension.class)
class ManyRunsTest {
  private static final int RUNS = 2_600;
  private static final Instant FIRST = Instant.parse("2026-11-01T00:00:00Z");

  private final RunningService service;
  private final Api api;

  ManyRunsTest(RunningService service) {
    this.service = service;
    this.api = service.api();
  }

  @BeforeEach
  void runEveryTenMinutes() {
    service.forgetEverything();
    var events = new ArrayList<String>();
    for (int i = 0; i < RUNS; i++) {
      events.add(run("COMPLETE", i, 0, i < RUNS / 3 ? "a" : "b", "x", "y"));
    }
    for (int from = 0; from < RUNS; from += 500) {
      send(events.subList(from, Math.min(RUNS, from + 500)));
    }
  }

  private static String run(String type, int tenth, int second, String from, String... columns) {
    return Events.run(
            type,
            FIRST.plusSeconds(600L * tenth + second).toString(),
            new UUID(second, tenth),
            "n",
            "often",
            Events.copies("w", from, "to", columns))
        .replace('\'', '"');
  }

  private void send(List<String> events) {
    Api.Answer answer =
        api.post("/api/v1/lineage/batch", events.stream().collect(Collectors.joining("\n")));
    assertThat(answer.json().path("refused")).isEmpty();
    api.see(answer.json().path("receipt").stringValue("0"));
  }

  private void comesOutTheSameAnew() throws InterruptedException {
    String live = service.dump();
    assertThat(api.rebuild().path("state").stringValue()).isEqualTo("switched");
    assertThat(service.dump()).isEqualTo(live);
  }

  @Test
  void thousands_of_runs_that_are_only_known_from_a_far_future_harm_nothing()
      throws InterruptedException {
    var events = new ArrayList<String>();
    for (int i = 0; i < 2_100; i++) {
      events.add(
          Events.run(
                  "COMPLETE",
                  "2999-01-01T00:00:00Z",
                  new UUID(9, i),
                  "n",
                  "later",
                  Events.copies("w", "a", "future", "x"))
              .replace('\'', '"'));
    }
    send(events);
    send(List.of(run("COMPLETE", RUNS, 0, "b", "x")));
    comesOutTheSameAnew();
  }

  @Test
  void a_run_long_ago_that_did_something_else_is_seen() throws InterruptedException {
    send(List.of(run("COMPLETE", RUNS, 0, "b", "x")));
    send(List.of(run("COMPLETE", RUNS / 2, 30, "c", "z")));
    assertThat(service.dump()).contains("w/c").contains("w/a");
    comesOutTheSameAnew();
  }

  @Test
  void a_run_long_ago_that_turns_out_otherwise_is_seen() throws InterruptedException {
    send(List.of(run("FAIL", RUNS / 2, 0, "b", "x", "y"), run("COMPLETE", 400, 0, "a", "q")));
    comesOutTheSameAnew();
  }

  @Test
  void what_was_left_out_is_read_again_for_a_declaration() throws InterruptedException {
    send(
        List.of(
            ("{'eventTime':'2026-11-20T00:00:00Z','producer':'https://t.example/p',"
                    + "'schemaURL':'https://t.example/s','job':{'namespace':'n','name':'often'},"
                    + "'outputs':[{'namespace':'w','name':'other'}]}")
                .replace('\'', '"')));
    send(List.of(run("COMPLETE", RUNS, 0, "b", "x")));
    comesOutTheSameAnew();
  }
}
