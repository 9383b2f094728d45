package longthread.service.apply;

import static org.assertj.core.api.Assertions.assertThat;

import java.sql.DriverManager;
import java.util.UUID;
import longthread.service.testing.Api;
import longthread.service.testing.ChildService;
import longthread.service.testing.Events;
import longthread.service.testing.TestPostgres;
import org.junit.jupiter.api.Test;

/** An applier that does not get on, here since another holds what it must write. */
class StandstillTest {
  private static final String STUCK = "longthread_applier_stuck ";

  @Test
  void an_applier_that_stands_still_is_not_ready_and_goes_on_when_it_can() throws Exception {
    try (var postgres = new TestPostgres()) {
      postgres.createDatabase("still");
      try (var service =
              new ChildService(postgres, "still", "--longthread.apply.longest-batch=2s");
          var other =
              DriverManager.getConnection(
                  postgres.url("still"), "longthread", postgres.password())) {
        Api api = service.api();
        assertThat(api.get("/metrics").body()).contains(STUCK + "0.0");
        other.setAutoCommit(false);
        try (var lock = other.createStatement()) {
          lock.execute("select number from graph_head for update");
        }
        String event =
            Events.run("COMPLETE", "2026-05-01T00:00:00Z", UUID.randomUUID(), "still", "j", "");
        Api.Answer taken = api.post("/api/v1/lineage", event.replace('\'', '"'));
        assertThat(taken.status()).as("it is taken in all the same").isEqualTo(201);
        await(api, 503);
        assertThat(api.get("/metrics").body()).contains(STUCK + "1.0");
        other.rollback();
        await(api, 200);
        api.see(taken.json().path("receipt").stringValue(""));
        assertThat(api.get("/api/v1/job", "ref", "@still/j").status()).isEqualTo(200);
        assertThat(api.get("/metrics").body()).contains(STUCK + "0.0");
      }
    }
  }

  private static void await(Api api, int readiness) throws InterruptedException {
    int status = 0;
    for (int tries = 0; status != readiness && tries < 300; tries++) {
      Thread.sleep(200);
      status = api.get("/health/readiness").status();
    }
    assertThat(status).as("readiness").isEqualTo(readiness);
  }
}
