package longthread.service.intake;

import static org.assertj.core.api.Assertions.assertThat;

import java.time.Clock;
import java.time.Duration;
import java.util.List;
import java.util.UUID;
import longthread.service.log.RecentDigests;
import longthread.service.rebuild.RunRetention;
import longthread.service.storage.graph.HeadQueries;
import longthread.service.storage.log.BlockQueries;
import longthread.service.storage.log.RecentEventQueries;
import longthread.service.storage.log.RefusalQueries;
import longthread.service.storage.sources.EmitterQueries;
import longthread.service.testing.Api;
import longthread.service.testing.ChildService;
import longthread.service.testing.Corpus;
import longthread.service.testing.Events;
import longthread.service.testing.RunningService;
import longthread.service.testing.TestPostgres;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

@ExtendWith(RunningService.Extension.class)
class RetentionTest {
  /** The same work by settings that keep nothing. */
  private static Retention keepingNothing(RunningService service, Duration digests) {
    return new Retention(
        service.bean(HeadQueries.class),
        service.bean(EmitterQueries.class),
        service.bean(RecentEventQueries.class),
        service.bean(BlockQueries.class),
        service.bean(RefusalQueries.class),
        Clock.offset(service.bean(Clock.class), Duration.ofSeconds(5)),
        Duration.ofMillis(1),
        Duration.ZERO,
        digests,
        service.bean(RunRetention.class));
  }

  @Test
  void a_block_with_a_refusal_loses_all_bytes_but_those(RunningService service) {
    service.forgetEverything();
    String good =
        Events.run(
                "COMPLETE", "2026-05-01T02:00:00Z", UUID.randomUUID(), "kept", "j".repeat(900), "")
            .replace('\'', '"');
    Api.Answer sent = service.api().post("/api/v1/lineage/batch", good + "\nno event at all");
    String block = sent.json().path("receipt").stringValue("");
    service.api().see(block);
    Integer before = size(service, block);
    keepingNothing(service, Duration.ZERO).tidy();
    assertThat(size(service, block)).isLessThan(before);
    assertThat(service.api().get("/api/v1/intake/event", "id", block + ".0").body())
        .contains("\"bytes\":0");
    Api.Answer refused = service.api().get("/api/v1/intake/refused");
    String id = refused.json().path("refusals").get(0).path("id").asString("");
    assertThat(service.api().get("/api/v1/intake/refused/" + id).body())
        .contains("no event at all");
  }

  private static Integer size(RunningService service, String block) {
    return service
        .jdbc()
        .queryForObject(
            "select octet_length(body) from event_block where id = " + block, Integer.class);
  }

  @Test
  void which_events_came_long_ago_is_forgotten_with_their_bytes_only(RunningService service) {
    service.forgetEverything();
    String event =
        Events.run("COMPLETE", "2026-05-01T02:00:00Z", UUID.randomUUID(), "seen", "j", "")
            .replace('\'', '"');
    service.api().see(receipt(service.api().post("/api/v1/lineage", event)));
    service.bean(BlockQueries.class).forgetSeenBefore(Clock.systemUTC().instant().plusSeconds(60));
    service.bean(RecentDigests.class).clear();
    assertThat(service.api().post("/api/v1/lineage", event).body()).contains("\"duplicate\":true");
    keepingNothing(service, Duration.ofMillis(1)).tidy();
    service.bean(RecentDigests.class).clear();
    Api.Answer again = service.api().post("/api/v1/lineage", event);
    assertThat(again.body()).contains("\"duplicate\":false");
    service.api().see(receipt(again));
    assertThat(service.api().get("/api/v1/job", "ref", "@seen/j").status()).isEqualTo(200);
  }

  private static String receipt(Api.Answer answer) {
    return answer.json().path("receipt").stringValue("");
  }

  @Test
  void details_of_old_runs_go_their_history_stays_and_a_rebuild_is_equal() throws Exception {
    try (var postgres = new TestPostgres()) {
      postgres.createDatabase("runs");
      try (var service = new ChildService(postgres, "runs", "--longthread.keep.runs=30d")) {
        Api api = service.api();
        List<String> events = Corpus.events(5, 300);
        Api.Answer sent = api.post("/api/v1/lineage/batch", String.join("\n", events));
        api.see(receipt(sent));
        int runs = api.get("/api/v1/runs", "limit", "1000").json().path("runs").size();
        String job = "c5/load";
        String history =
            api.get("/api/v1/asset", "ref", "@" + job).json().path("versions").toString();
        assertThat(api.post("/api/v1/rebuild", "").status()).isEqualTo(202);
        String state = "running";
        for (int tries = 0; state.equals("running") && tries < 300; tries++) {
          Thread.sleep(100);
          state = api.get("/api/v1/rebuild").json().path("state").stringValue("");
        }
        assertThat(api.get("/api/v1/rebuild").body()).contains("switched");
        assertThat(api.get("/api/v1/runs", "limit", "1000").json().path("runs").size())
            .isEqualTo(runs)
            .isPositive();
        assertThat(api.get("/api/v1/asset", "ref", "@" + job).json().path("versions").toString())
            .isEqualTo(history);
        try (var database =
                java.sql.DriverManager.getConnection(
                    postgres.url("runs"), "longthread", postgres.password());
            var left =
                database
                    .createStatement()
                    .executeQuery(
                        "select (select count(*) from catalog.check_result) + (select count(*)"
                            + " from catalog.run_facet where key = 'errorMessage')")) {
          left.next();
          assertThat(left.getInt(1)).isZero();
        }
        // what is dropped may come again, and is not missed by the applier
        api.see(
            receipt(api.post("/api/v1/lineage/batch", String.join("\n", Corpus.events(6, 50)))));
      }
    }
  }
}
