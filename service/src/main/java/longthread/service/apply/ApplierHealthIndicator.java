package longthread.service.apply;

import java.time.Instant;
import org.springframework.boot.health.contributor.Health;
import org.springframework.boot.health.contributor.HealthIndicator;
import org.springframework.stereotype.Component;

/** Down, and with it the readiness, while the applier stands still: events come in, none shows. */
@Component
class ApplierHealthIndicator implements HealthIndicator {
  private final Applier applier;

  ApplierHealthIndicator(Applier applier) {
    this.applier = applier;
  }

  @Override
  public Health health() {
    Instant since = applier.standstill();
    return since == null
        ? Health.up().build()
        : Health.down().withDetail("standstillSince", since.toString()).build();
  }
}
