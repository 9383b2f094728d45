package longthread.service.intake;

import java.sql.Timestamp;
import java.time.Clock;
import java.time.Duration;
import java.util.concurrent.TimeUnit;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;

/**
 * Removes what only serves the near past, and what is older than the settings keep: the bodies of
 * events (the facts they gave stay) and refusals. A period of zero keeps for ever.
 */
@Component
class Housekeeping {
  private static final Logger LOG = LoggerFactory.getLogger(Housekeeping.class);
  private static final int EVENTS_LISTED = 10_000;

  private final JdbcTemplate jdbc;
  private final Clock clock;
  private final Duration keepBodies;
  private final Duration keepRefused;

  Housekeeping(
      JdbcTemplate jdbc,
      Clock clock,
      @Value("${longthread.keep.bodies:0d}") Duration keepBodies,
      @Value("${longthread.keep.refused:0d}") Duration keepRefused) {
    this.jdbc = jdbc;
    this.clock = clock;
    this.keepBodies = keepBodies;
    this.keepRefused = keepRefused;
  }

  /** A follower that was away for longer than changes are kept loads everything anew. */
  @Scheduled(fixedDelay = 1, initialDelay = 1, timeUnit = TimeUnit.HOURS)
  void tidy() {
    jdbc.update("delete from graph_change where made_at < now() - interval '24 hours'");
    jdbc.update("delete from emitter_minute where minute < now() - interval '2 days'");
    jdbc.update("delete from emitter_hour where hour < now() - interval '120 days'");
    jdbc.update(
        "delete from recent_event where (block_id, position) in (select block_id, position from"
            + " recent_event order by block_id desc, position desc offset ?)",
        EVENTS_LISTED);
    if (!keepBodies.isZero()) {
      // What was refused keeps its bytes until the refusal itself is removed.
      int aged =
          jdbc.update(
              "update event_block b set body = null where body is not null"
                  + " and applied_at is not null and received_at < ? and not exists"
                  + " (select from refused_event r where r.block_id = b.id"
                  + " and (r.outcome is null or r.outcome <> 'accepted'))",
              Timestamp.from(clock.instant().minus(keepBodies)));
      LOG.info("the bodies of {} blocks were aged", aged);
    }
    if (!keepRefused.isZero()) {
      jdbc.update(
          "delete from refused_event where received_at < ?",
          Timestamp.from(clock.instant().minus(keepRefused)));
    }
  }
}
