package longthread.service.apply;

import static org.assertj.core.api.Assertions.assertThat;

import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.util.UUID;
import longthread.service.testing.Api;
import longthread.service.testing.ChildService;
import longthread.service.testing.Events;
import longthread.service.testing.TestPostgres;
import org.junit.jupiter.api.Test;

/** Services that were ended by an event, as the marks they left in the database show. */
class EndedApplierTest {
  private static String event(String job) {
    return Events.run("COMPLETE", "2026-05-01T00:00:00Z", UUID.randomUUID(), "ended", job, "")
        .replace('\'', '"');
  }

  /** As the log was before the block was applied, with what an applier was at when it ended. */
  private static void unapply(Connection database, long block, String position, int ends)
      throws SQLException {
    try (var statement = database.createStatement()) {
      statement.execute("delete from event_seen where block_id = " + block);
      statement.execute(
          "update event_block set applied_at = null, change_number = null where id = " + block);
      statement.execute(
          "update graph_head set trying_block = "
              + block
              + ", trying_position = "
              + position
              + ", trying_by = gen_random_uuid(), ends = "
              + ends);
    }
  }

  @Test
  void an_event_at_which_services_ended_again_and_again_is_set_aside_and_the_rest_goes_on()
      throws Exception {
    try (var postgres = new TestPostgres()) {
      postgres.createDatabase("ended");
      long block;
      try (var first = new ChildService(postgres, "ended");
          var database =
              DriverManager.getConnection(
                  postgres.url("ended"), "longthread", postgres.password())) {
        Api.Answer taken =
            first
                .api()
                .post(
                    "/api/v1/lineage/batch",
                    event("one") + "\n" + event("poison") + "\n" + event("three"));
        block = Long.parseLong(taken.json().path("receipt").stringValue(""));
        first.api().see("" + block);
        first.kill();
        unapply(database, block, "1", 1);
      }
      try (var second = new ChildService(postgres, "ended");
          var database =
              DriverManager.getConnection(
                  postgres.url("ended"), "longthread", postgres.password())) {
        second.api().see("" + block);
        assertThat(second.api().get("/api/v1/intake/refused").json().path("total").asInt())
            .as("a third try is made")
            .isZero();
        second.kill();
        unapply(database, block, "1", 2);
      }
      try (var third = new ChildService(postgres, "ended")) {
        third.api().see("" + block);
        Api.Answer refused = third.api().get("/api/v1/intake/refused");
        assertThat(refused.json().path("total").asInt()).isEqualTo(1);
        assertThat(refused.body()).contains("not-applicable", "ended 3 times");
        assertThat(third.api().get("/metrics").body())
            .contains("longthread_apply_failed_total 1.0");
        assertThat(third.api().get("/api/v1/job", "ref", "@ended/three").status()).isEqualTo(200);
        Api.Answer retried = third.api().post("/api/v1/intake/refused/retry", "");
        assertThat(retried.status()).isEqualTo(200);
      }
    }
  }
}
