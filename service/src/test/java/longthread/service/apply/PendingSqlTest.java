package longthread.service.apply;

import static org.assertj.core.api.Assertions.assertThat;

import io.micrometer.core.instrument.simple.SimpleMeterRegistry;
import java.time.Duration;
import java.util.List;
import java.util.UUID;
import longthread.core.sql.Functions;
import longthread.core.sql.SqlReader;
import longthread.service.storage.facts.Subject;
import longthread.service.storage.rebuild.CatalogSchemas;
import longthread.service.testing.Api;
import longthread.service.testing.Events;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

/** SQL that was not read in time waits in the tables, and is read again whoever applies then. */
@ExtendWith(RunningService.Extension.class)
class PendingSqlTest {
  private final RunningService service;
  private final Api api;

  PendingSqlTest(RunningService service) {
    this.service = service;
    this.api = service.api();
  }

  private long links(String job) {
    return service
        .jdbc()
        .queryForObject(
            "select count(*) from link l join job j on j.id = l.owner_id and l.owner_kind = 2"
                + " where j.ref = ? and l.evidence = 'derived'",
            Long.class,
            job);
  }

  @Test
  void what_waits_is_stored_and_read_again_by_the_next_who_applies() {
    String n = "pending-" + UUID.randomUUID();
    String rest =
        "'inputs':[{'namespace':'%1$s','name':'src'}],'outputs':[{'namespace':'%1$s','name':'out'}]"
            .formatted(n);
    String event =
        Events.run("COMPLETE", "2026-05-01T00:00:00Z", UUID.randomUUID(), n, "load", rest)
            .replace(
                "'name':'load'",
                "'name':'load','facets':{'sql':{'query':'insert into out (a) select b from src'}}");
    api.see(api.event(event).json().path("receipt").stringValue());
    String job = "@" + n + "/load";
    long derived = links(job);
    assertThat(derived).isPositive();
    long id = service.jdbc().queryForObject("select id from job where ref = ?", Long.class, job);
    List<Subject> owner = List.of(Subject.job(id));

    // As if the machine had been too busy: no time at all is left for reading.
    var noTime = new SqlReader.Limits(Duration.ZERO, 200, 1_000_000);
    try (ApplierSession session =
            service.bean(ApplierSession.Factory.class).open(CatalogSchemas.LIVE);
        var hurried = new SqlReader(new Functions(java.util.Set.of()), noTime)) {
      var writer =
          new CatalogWriter(session.stores(), hurried, new StageTimer(new SimpleMeterRegistry()));
      session.inTransaction(() -> writer.rederive(owner));
    }
    assertThat(links(job)).isZero();
    assertThat(service.jdbc().queryForList("select owner_id from pending_sql", Long.class))
        .contains(id);

    // Another one, such as the service after a restart, finds it and reads it.
    try (ApplierSession session =
        service.bean(ApplierSession.Factory.class).open(CatalogSchemas.LIVE)) {
      List<Subject> waiting = session.inTransaction(() -> session.catalog().pendingSql());
      assertThat(waiting).contains(owner.get(0));
      session.inTransaction(() -> session.catalog().rederive(waiting));
    }
    assertThat(links(job)).isEqualTo(derived);
    assertThat(service.jdbc().queryForList("select owner_id from pending_sql", Long.class))
        .doesNotContain(id);
    service.jdbc().execute("update graph_head set applier = null"); // the applier looks again
  }
}
