package longthread.service.intake;

import java.sql.Timestamp;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import longthread.core.event.EventFacts;
import longthread.service.web.StoredText;
import org.jspecify.annotations.Nullable;
import org.springframework.jdbc.core.JdbcTemplate;

/** Counts who sends how much and when, so that silence can be told from rest. */
final class EmitterWriter {
  private static final int LONGEST = 500;

  /** An emitter is a program that reports of one namespace. */
  private record Key(String producer, String namespace) {}

  private static final class Count {
    private Instant first = Instant.MAX;
    private Instant last = Instant.MIN;
    private Instant received = Instant.MIN;
    private @Nullable String version;
    private @Nullable String engine;
    private Instant versionAt = Instant.MIN;
    private long events;
    private final Map<Instant, Long> minutes = new TreeMap<>();
    private final Map<Instant, Long> hours = new TreeMap<>();
  }

  private final JdbcTemplate jdbc;

  EmitterWriter(JdbcTemplate jdbc) {
    this.jdbc = jdbc;
  }

  /** Counts events; {@code received} tells when each arrived. */
  void write(List<EventFacts> events, List<Instant> received) {
    var counts = new HashMap<Key, Count>();
    for (int i = 0; i < events.size(); i++) {
      EventFacts event = events.get(i);
      String namespace =
          event.job() != null
              ? event.job().namespace()
              : event.dataset() == null ? "" : event.dataset().namespace();
      var key =
          new Key(
              StoredText.clean(event.emitter().producer(), LONGEST),
              StoredText.clean(namespace, LONGEST));
      count(counts.computeIfAbsent(key, k -> new Count()), event, received.get(i));
    }
    Map<Key, Long> ids = writeEmitters(counts);
    var minutes = new ArrayList<Object[]>();
    var hours = new ArrayList<Object[]>();
    counts.forEach(
        (key, count) -> {
          count.minutes.forEach(
              (minute, n) -> minutes.add(new Object[] {ids.get(key), StoredTime.of(minute), n}));
          count.hours.forEach(
              (hour, n) -> hours.add(new Object[] {ids.get(key), StoredTime.of(hour), n}));
        });
    jdbc.batchUpdate(
        "insert into emitter_minute as m values (?, ?, ?) on conflict (emitter_id, minute)"
            + " do update set events = m.events + excluded.events",
        minutes);
    jdbc.batchUpdate(
        "insert into emitter_hour as h values (?, ?, ?) on conflict (emitter_id, hour)"
            + " do update set events = h.events + excluded.events",
        hours);
  }

  private static void count(Count count, EventFacts event, Instant received) {
    Instant at = event.at().farFuture() ? received : event.at().at();
    count.events++;
    count.first = at.isBefore(count.first) ? at : count.first;
    count.last = at.isAfter(count.last) ? at : count.last;
    count.received = received.isAfter(count.received) ? received : count.received;
    if (at.isAfter(count.versionAt)
        && (event.emitter().version() != null || event.emitter().engine() != null)) {
      count.versionAt = at;
      count.version = shownOrNull(event.emitter().version());
      count.engine = shownOrNull(event.emitter().engine());
    }
    count.minutes.merge(received.truncatedTo(ChronoUnit.MINUTES), 1L, Long::sum);
    count.hours.merge(at.truncatedTo(ChronoUnit.HOURS), 1L, Long::sum);
  }

  private Map<Key, Long> writeEmitters(Map<Key, Count> counts) {
    var rows = new ArrayList<Object[]>();
    counts.forEach(
        (key, count) ->
            rows.add(
                new Object[] {
                  key.producer(),
                  key.namespace(),
                  count.version,
                  count.engine,
                  count.versionAt.equals(Instant.MIN) ? null : StoredTime.of(count.versionAt),
                  StoredTime.of(count.first),
                  StoredTime.of(count.last),
                  Timestamp.from(count.received),
                  count.events
                }));
    jdbc.batchUpdate(
        "insert into emitter as e (producer, namespace, version, engine, version_at, first_event,"
            + " last_event, last_received, events) values (?, ?, ?, ?, ?, ?, ?, ?, ?)"
            + " on conflict (producer, namespace) do update set"
            + " version = case when coalesce(excluded.version_at >= e.version_at,"
            + "   excluded.version_at is not null) then excluded.version else e.version end,"
            + " engine = case when coalesce(excluded.version_at >= e.version_at,"
            + "   excluded.version_at is not null) then excluded.engine else e.engine end,"
            + " version_at = greatest(e.version_at, excluded.version_at),"
            + " first_event = least(e.first_event, excluded.first_event),"
            + " last_event = greatest(e.last_event, excluded.last_event),"
            + " last_received = greatest(e.last_received, excluded.last_received),"
            + " events = e.events + excluded.events",
        rows);
    var ids = new HashMap<Key, Long>();
    jdbc.query(
        "select id, producer, namespace from emitter where producer = any(?)",
        row -> {
          ids.put(new Key(row.getString(2), row.getString(3)), row.getLong(1));
        },
        (Object) counts.keySet().stream().map(Key::producer).distinct().toArray(String[]::new));
    return ids;
  }

  private static @Nullable String shownOrNull(@Nullable String text) {
    return text == null ? null : StoredText.clean(text, LONGEST);
  }
}
