package longthread.service.intake;

import io.micrometer.core.instrument.FunctionCounter;
import io.micrometer.core.instrument.Gauge;
import io.micrometer.core.instrument.MeterRegistry;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.function.ToDoubleFunction;
import longthread.service.live.GraphFollower;
import longthread.service.storage.log.RecentEventQueries;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;

/**
 * The counts of the whole intake, whichever way in, as metrics. Asked of the database when they are
 * read, at most every five seconds; while it does not answer they keep their last values.
 */
@Component
class IntakeMetrics {
  private static final Duration KEPT = Duration.ofSeconds(5);
  private static final double MILLIS = 1_000;

  private final RecentEventQueries recent;
  private final Clock clock;
  private RecentEventQueries.Totals totals =
      new RecentEventQueries.Totals(0, 0, 0, 0, 0, null, null);
  private Instant askedAt = Instant.MIN;

  IntakeMetrics(
      RecentEventQueries recent, GraphFollower follower, Clock clock, MeterRegistry meters) {
    this.recent = recent;
    this.clock = clock;
    counter(
        meters,
        "events.received",
        "Events received by all ways in",
        t -> t.received() + t.waiting());
    counter(
        meters,
        "events.applied",
        "Events applied to the catalog",
        RecentEventQueries.Totals::applied);
    counter(
        meters,
        "events.duplicates",
        "Events that were in the log before",
        RecentEventQueries.Totals::duplicates);
    gauge(
        meters,
        "events.refused.open",
        "Refused events that nobody has dealt with",
        RecentEventQueries.Totals::refused);
    gauge(
        meters,
        "events.waiting",
        "Events accepted and not applied yet",
        RecentEventQueries.Totals::waiting);
    Gauge.builder("longthread.apply.lag", this, IntakeMetrics::lag)
        .description("For how long the oldest event that is not applied has waited")
        .baseUnit("seconds")
        .register(meters);
    Gauge.builder("longthread.graph.nodes", follower, f -> f.graph().nodeCount())
        .description("Assets and columns in the graph in memory")
        .register(meters);
    Gauge.builder("longthread.graph.links", follower, f -> f.graph().linkCount())
        .description("Links in the graph in memory")
        .register(meters);
  }

  private void counter(
      MeterRegistry meters,
      String name,
      String help,
      ToDoubleFunction<RecentEventQueries.Totals> of) {
    FunctionCounter.builder("longthread." + name, this, m -> of.applyAsDouble(m.totals()))
        .description(help)
        .register(meters);
  }

  private void gauge(
      MeterRegistry meters,
      String name,
      String help,
      ToDoubleFunction<RecentEventQueries.Totals> of) {
    Gauge.builder("longthread." + name, this, m -> of.applyAsDouble(m.totals()))
        .description(help)
        .register(meters);
  }

  private double lag() {
    Instant oldest = totals().oldest();
    return oldest == null ? 0 : Duration.between(oldest, clock.instant()).toMillis() / MILLIS;
  }

  private synchronized RecentEventQueries.Totals totals() {
    Instant now = clock.instant();
    if (askedAt.plus(KEPT).isBefore(now)) {
      askedAt = now;
      try {
        totals = recent.totals();
      } catch (DataAccessException | TransactionException e) {
        return totals; // the values before are better than none
      }
    }
    return totals;
  }
}
