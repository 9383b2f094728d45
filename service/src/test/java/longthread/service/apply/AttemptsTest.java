package longthread.service.apply;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.UUID;
import longthread.service.log.LoggedEvent;
import longthread.service.storage.rebuild.CatalogSchemas;
import longthread.service.testing.RunningService;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.extension.ExtendWith;

@ExtendWith(RunningService.Extension.class)
class AttemptsTest {
  private static final long BLOCK = 4_000_000_000L;

  private ApplierSession session;

  @BeforeEach
  void open(RunningService service) {
    session = service.bean(ApplierSession.Factory.class).open(CatalogSchemas.LIVE);
  }

  @AfterEach
  void close() {
    session.inTransaction(() -> process().done(session));
    session.close();
  }

  private static Attempts process() {
    return new Attempts(UUID.randomUUID());
  }

  private static LoggedEvent event(int position) {
    byte[] bytes = "{}".getBytes(StandardCharsets.UTF_8);
    return new LoggedEvent(BLOCK, position, Instant.EPOCH, bytes);
  }

  @Test
  void a_batch_at_which_three_processes_ended_is_suspect() {
    for (int ended = 0; ended < Attempts.MAX_ENDS; ended++) {
      assertThat(process().isSuspect(session, BLOCK)).as(ended + " ended").isFalse();
    }
    assertThat(process().isSuspect(session, BLOCK)).isTrue();
    assertThat(process().isSuspect(session, BLOCK + 1)).as("another batch").isFalse();
  }

  @Test
  void a_process_that_only_lost_its_connection_has_not_ended_and_one_that_was_cut_has() {
    Attempts one = process();
    for (int connection = 0; connection < 10; connection++) {
      assertThat(one.isSuspect(session, BLOCK)).isFalse();
    }
    for (int cut = 1; cut < Attempts.MAX_ENDS; cut++) {
      one.cut();
      assertThat(one.isSuspect(session, BLOCK)).isFalse();
    }
    one.cut();
    assertThat(one.isSuspect(session, BLOCK)).isTrue();
  }

  @Test
  void of_a_suspect_block_only_the_event_at_which_they_ended_counts() {
    for (int i = 0; i < Attempts.MAX_ENDS; i++) {
      process().isSuspect(session, BLOCK);
    }
    for (int ends = 0; ends < 5; ends++) {
      Attempts next = process();
      assertThat(next.isSuspect(session, BLOCK)).isTrue();
      assertThat(next.begin(session, event(6))).as("one before it").isZero();
      assertThat(next.begin(session, event(7))).isEqualTo(ends);
    }
    Attempts last = process();
    assertThat(last.isSuspect(session, BLOCK)).isTrue();
    session.inTransaction(() -> last.done(session));
    assertThat(process().isSuspect(session, BLOCK)).isFalse();
  }
}
