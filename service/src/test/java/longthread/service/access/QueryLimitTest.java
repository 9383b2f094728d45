package longthread.service.access;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.UUID;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import longthread.service.testing.Api;
import longthread.service.testing.Events;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

@ExtendWith(RunningService.Extension.class)
class QueryLimitTest {
  private static final int QUERIES = 64;

  private RunningService service;

  @BeforeEach
  void useService(RunningService running) {
    service = running;
  }

  private record Timed(Api.Answer answer, long millis) {}

  /** Queries that wait for what never comes stand for such as take long. */
  @Test
  void queries_beyond_what_can_run_are_refused_in_time_and_nobody_else_waits() throws Exception {
    String body = "{\"name\":\"heavy-" + UUID.randomUUID() + "\",\"role\":\"reader\"}";
    String token =
        service
            .api()
            .post("/api/v1/keys", body, "Content-Type", "application/json")
            .json()
            .path("token")
            .stringValue("");
    ExecutorService callers = Executors.newFixedThreadPool(QUERIES);
    try {
      var asked = new ArrayList<Future<Timed>>();
      for (int i = 0; i < QUERIES; i++) {
        asked.add(
            callers.submit(
                () -> {
                  long start = System.nanoTime();
                  Api.Answer answer =
                      new Api(service.base(), token).get("/api/v1/search", "after", "999999999999");
                  return new Timed(answer, (System.nanoTime() - start) / 1_000_000);
                }));
      }
      Thread.sleep(300);
      long start = System.nanoTime();
      assertThat(service.api().get("/api/v1/search").status()).as("another caller").isEqualTo(200);
      assertThat(new Api(service.base(), "").get("/health/liveness").status()).isEqualTo(200);
      String event =
          Events.run("COMPLETE", "2026-05-01T02:00:00Z", UUID.randomUUID(), "q", "j", "");
      assertThat(service.api().post("/api/v1/lineage", event.replace('\'', '"')).status())
          .isEqualTo(201);
      assertThat((System.nanoTime() - start) / 1_000_000).as("ms").isLessThan(3_000);
      int refused = 0;
      for (Future<Timed> future : asked) {
        Timed timed = future.get();
        assertThat(timed.answer().status()).isEqualTo(503);
        if (timed.answer().type().equals("/problems/queries-busy")) {
          refused++;
          assertThat(timed.millis()).isLessThan(8_000);
          assertThat(timed.answer().headers().firstValue("Retry-After")).hasValue("2");
        }
      }
      assertThat(refused).isGreaterThan(QUERIES / 2);
    } finally {
      callers.shutdownNow();
    }
    assertThat(service.api().get("/metrics").body()).contains("longthread_queries_refused_total");
  }
}
