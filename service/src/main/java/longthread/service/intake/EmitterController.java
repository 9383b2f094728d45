package longthread.service.intake;

import java.sql.Timestamp;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Optional;
import longthread.core.trust.Rhythm;
import org.jspecify.annotations.Nullable;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RestController;

/** Who sends, in which version, and who fell silent against its own rhythm. */
@RestController
class EmitterController {
  private static final Duration LOOKED_BACK = Duration.ofDays(60);

  /**
   * An emitter: a program that reports of one namespace.
   *
   * @param usualRest the median time between the hours in which it reports, in seconds
   * @param overdueSince since when it is silent for longer than it ever rests; null if it is not
   */
  record Emitter(
      String producer,
      String namespace,
      @Nullable String version,
      @Nullable String engine,
      Instant firstEvent,
      Instant lastEvent,
      Instant lastReceived,
      long events,
      @Nullable Long usualRest,
      @Nullable Instant overdueSince) {}

  /** Emitters, those that are overdue first. */
  record Emitters(List<Emitter> emitters, int overdue) {}

  private final JdbcTemplate jdbc;
  private final Clock clock;

  EmitterController(JdbcTemplate jdbc, Clock clock) {
    this.jdbc = jdbc;
    this.clock = clock;
  }

  @GetMapping("/api/v1/intake/emitters")
  Emitters emitters() {
    Instant now = clock.instant();
    var hours = new HashMap<Long, List<Instant>>();
    jdbc.query(
        "select emitter_id, hour from emitter_hour where hour > ? and hour <= ?",
        row -> {
          hours
              .computeIfAbsent(row.getLong(1), k -> new ArrayList<>())
              .add(row.getTimestamp(2).toInstant());
        },
        Timestamp.from(now.minus(LOOKED_BACK)),
        Timestamp.from(now));
    List<Emitter> emitters =
        jdbc.query(
            "select id, producer, namespace, version, engine, first_event, last_event,"
                + " last_received, events from emitter order by last_event desc",
            (row, n) -> {
              Instant last = row.getTimestamp(7).toInstant();
              Optional<Rhythm> rhythm = Rhythm.of(hours.getOrDefault(row.getLong(1), List.of()));
              Instant overdue = rhythm.map(r -> r.overdueAfter(last)).orElse(Instant.MAX);
              return new Emitter(
                  row.getString(2),
                  row.getString(3),
                  row.getString(4),
                  row.getString(5),
                  row.getTimestamp(6).toInstant(),
                  last,
                  row.getTimestamp(8).toInstant(),
                  row.getLong(9),
                  rhythm.map(r -> r.usual().toSeconds()).orElse(null),
                  overdue.isBefore(now) ? overdue : null);
            });
    var ordered = new ArrayList<>(emitters.stream().filter(e -> e.overdueSince() != null).toList());
    int overdue = ordered.size();
    emitters.stream().filter(e -> e.overdueSince() == null).forEach(ordered::add);
    return new Emitters(ordered, overdue);
  }
}
