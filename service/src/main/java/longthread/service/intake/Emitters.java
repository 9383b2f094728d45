package longthread.service.intake;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import longthread.core.trust.Cadence;
import longthread.service.storage.sources.EmitterQueries;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** Who sends, in which version, and who is silent against its own rhythm. */
@Service
public class Emitters {
  private static final Duration LOOKED_BACK = Duration.ofDays(60);

  /**
   * An emitter: a program that reports about one namespace.
   *
   * @param usualRest the median time between the hours in which it reports, in seconds
   * @param overdueSince since when it is silent for longer than it ever rests; null if it is not
   */
  public record Emitter(
      String producer,
      String namespace,
      @Nullable String version,
      @Nullable String engine,
      Instant firstEvent,
      Instant lastEvent,
      Instant lastReceived,
      long events,
      @Nullable Long usualRest,
      @Nullable Instant overdueSince) {
    boolean isOverdue() {
      return overdueSince != null;
    }
  }

  private final EmitterQueries stored;
  private final Clock clock;

  Emitters(EmitterQueries stored, Clock clock) {
    this.stored = stored;
    this.clock = clock;
  }

  /** All emitters: those that are overdue first, and then by their newest event. */
  @Transactional(readOnly = true)
  public List<Emitter> all() {
    Instant now = clock.instant();
    Map<Long, List<Instant>> hours = new HashMap<>();
    for (EmitterQueries.Hour hour : stored.hours(now.minus(LOOKED_BACK), now)) {
      hours.computeIfAbsent(hour.emitter(), k -> new ArrayList<>()).add(hour.hour());
    }
    return stored.all().stream()
        .map(row -> emitter(row, hours.getOrDefault(row.id(), List.of()), now))
        .sorted(Comparator.comparing(emitter -> !emitter.isOverdue()))
        .toList();
  }

  private static Emitter emitter(EmitterQueries.Stored row, List<Instant> hours, Instant now) {
    Optional<Cadence> cadence = Cadence.of(hours);
    Instant overdue = cadence.map(c -> c.overdueAfter(row.lastEvent())).orElse(Instant.MAX);
    return new Emitter(
        row.producer(),
        row.namespace(),
        row.version(),
        row.engine(),
        row.firstEvent(),
        row.lastEvent(),
        row.lastReceived(),
        row.events(),
        cadence.map(c -> c.usual().toSeconds()).orElse(null),
        overdue.isBefore(now) ? overdue : null);
  }
}
