package longthread.service.intake;

import java.util.concurrent.TimeUnit;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;

/** Removes what only serves the near past: old graph changes, and the list of newest events. */
@Component
class Housekeeping {
  private static final int EVENTS_LISTED = 10_000;

  private final JdbcTemplate jdbc;

  Housekeeping(JdbcTemplate jdbc) {
    this.jdbc = jdbc;
  }

  /** A follower that was away for longer loads everything anew. */
  @Scheduled(fixedDelay = 1, initialDelay = 1, timeUnit = TimeUnit.HOURS)
  void tidy() {
    jdbc.update("delete from graph_change where made_at < now() - interval '24 hours'");
    jdbc.update(
        "delete from recent_event where (block_id, position) in (select block_id, position from"
            + " recent_event order by block_id desc, position desc offset ?)",
        EVENTS_LISTED);
  }
}
