package longthread.service.apply;

import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import longthread.core.asset.DatasetName;
import longthread.core.event.EventFacts;
import longthread.service.storage.StoredText;
import longthread.service.storage.StoredTime;
import longthread.service.storage.sources.EmitterQueries;
import org.jspecify.annotations.Nullable;

/** Counts who sends how much and when, so that silence can be distinguished from a pause. */
final class EmitterWriter {
  private static final int MAX_LENGTH = 500;

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

  private final EmitterQueries stored;

  EmitterWriter(EmitterQueries stored) {
    this.stored = stored;
  }

  /** Counts events; {@code received} holds when each arrived. */
  void write(List<EventFacts> events, List<Instant> received) {
    var counts = new HashMap<Key, Count>();
    for (int i = 0; i < events.size(); i++) {
      EventFacts event = events.get(i);
      String namespace = namespace(event);
      var key =
          new Key(
              StoredText.clean(event.emitter().producer(), MAX_LENGTH),
              StoredText.clean(namespace, MAX_LENGTH));
      count(counts.computeIfAbsent(key, k -> new Count()), event, received.get(i));
    }
    Map<Key, Long> ids = writeEmitters(counts);
    var minutes = new ArrayList<EmitterQueries.Period>();
    var hours = new ArrayList<EmitterQueries.Period>();
    counts.forEach(
        (key, count) -> {
          long id = ids.get(key);
          count.minutes.forEach(
              (minute, n) ->
                  minutes.add(new EmitterQueries.Period(id, StoredTime.clamped(minute), n)));
          count.hours.forEach(
              (hour, n) -> hours.add(new EmitterQueries.Period(id, StoredTime.clamped(hour), n)));
        });
    stored.addMinutes(minutes);
    stored.addHours(hours);
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

  private static String namespace(EventFacts event) {
    if (event.job() != null) {
      return event.job().namespace();
    }
    DatasetName of = event.dataset() == null ? event.workspace() : event.dataset();
    return of == null ? "" : of.namespace();
  }

  private Map<Key, Long> writeEmitters(Map<Key, Count> counts) {
    var reports = new ArrayList<EmitterQueries.Report>();
    counts.forEach(
        (key, count) ->
            reports.add(
                new EmitterQueries.Report(
                    key.producer(),
                    key.namespace(),
                    count.version,
                    count.engine,
                    count.versionAt.equals(Instant.MIN) ? null : StoredTime.of(count.versionAt),
                    StoredTime.clamped(count.first),
                    StoredTime.clamped(count.last),
                    count.received,
                    count.events)));
    stored.add(reports);
    var ids = new HashMap<Key, Long>();
    for (EmitterQueries.Named named :
        stored.named(
            counts.keySet().stream().map(Key::producer).distinct().toArray(String[]::new))) {
      ids.put(new Key(named.producer(), named.namespace()), named.id());
    }
    return ids;
  }

  private static @Nullable String shownOrNull(@Nullable String text) {
    return text == null ? null : StoredText.clean(text, MAX_LENGTH);
  }
}
