package longthread.service.apply;

import java.time.Instant;
import longthread.service.log.EventLog;
import org.springframework.boot.health.contributor.Health;
import org.springframework.boot.health.contributor.HealthIndicator;
import org.springframework.stereotype.Component;

/**
 * Down, and with it the readiness, while the applier stands still, so that events come in and none
 * shows, and while the disk is full, so that none comes in.
 */
@Component
class ApplierHealthIndicator implements HealthIndicator {
  private final Applier applier;
  private final EventLog log;

  ApplierHealthIndicator(Applier applier, EventLog log) {
    this.log = log;
    this.applier = applier;
  }

  @Override
  public Health health() {
    Instant since = applier.standstill();
    if (log.isDiskFull()) {
      return Health.down().withDetail("disk", "the disk of the database is full").build();
    }
    return since == null
        ? Health.up().build()
        : Health.down().withDetail("standstillSince", since.toString()).build();
  }
}
