package longthread.service.storage.sources;

import java.time.Instant;
import java.util.Collection;
import java.util.List;
import longthread.service.storage.Columns;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.HQL;
import org.hibernate.annotations.processing.SQL;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** Who sends events, how many and when. */
@Repository
@Transactional
public interface EmitterQueries {
  /** What a batch of events says of an emitter. */
  record Report(
      String producer,
      String namespace,
      @Nullable String version,
      @Nullable String engine,
      @Nullable Instant versionAt,
      Instant firstEvent,
      Instant lastEvent,
      Instant lastReceived,
      long events) {}

  /** An emitter by its id. */
  record Named(long id, String producer, String namespace) {}

  /** How many events of an emitter belong to a minute or an hour. */
  record Period(long emitter, Instant start, long events) {}

  /** An emitter as it is stored. */
  record Stored(
      long id,
      String producer,
      String namespace,
      @Nullable String version,
      @Nullable String engine,
      Instant firstEvent,
      Instant lastEvent,
      Instant lastReceived,
      long events) {}

  /** An hour in which an emitter reported. */
  record Hour(long emitter, Instant hour) {}

  /** How many events of a namespace were received in a minute. */
  record Minute(Instant minute, String namespace, long events) {}

  StatelessSession session();

  default void add(Collection<Report> reports) {
    if (!reports.isEmpty()) {
      upsert(
          Columns.texts(reports, Report::producer),
          Columns.texts(reports, Report::namespace),
          Columns.texts(reports, Report::version),
          Columns.texts(reports, Report::engine),
          Columns.of(reports, Report::versionAt, Instant[]::new),
          Columns.of(reports, Report::firstEvent, Instant[]::new),
          Columns.of(reports, Report::lastEvent, Instant[]::new),
          Columns.of(reports, Report::lastReceived, Instant[]::new),
          Columns.longs(reports, Report::events));
    }
  }

  @SQL(
      "insert into emitter as e (producer, namespace, version, engine, version_at, first_event,"
          + " last_event, last_received, events) select * from unnest(:producers, :namespaces,"
          + " :versions, :engines, :versionTimes, :firsts, :lasts, :received, :events)"
          + " on conflict (producer, namespace) do update set"
          + " version = case when coalesce(excluded.version_at >= e.version_at,"
          + "   excluded.version_at is not null) then excluded.version else e.version end,"
          + " engine = case when coalesce(excluded.version_at >= e.version_at,"
          + "   excluded.version_at is not null) then excluded.engine else e.engine end,"
          + " version_at = greatest(e.version_at, excluded.version_at),"
          + " first_event = least(e.first_event, excluded.first_event),"
          + " last_event = greatest(e.last_event, excluded.last_event),"
          + " last_received = greatest(e.last_received, excluded.last_received),"
          + " events = e.events + excluded.events")
  int upsert(
      String[] producers,
      String[] namespaces,
      String[] versions,
      String[] engines,
      Instant[] versionTimes,
      Instant[] firsts,
      Instant[] lasts,
      Instant[] received,
      Long[] events);

  @SQL("select id, producer, namespace from emitter where producer = any(:producers)")
  List<Named> named(String[] producers);

  default void addMinutes(Collection<Period> minutes) {
    if (!minutes.isEmpty()) {
      upsertMinutes(
          Columns.longs(minutes, Period::emitter),
          Columns.of(minutes, Period::start, Instant[]::new),
          Columns.longs(minutes, Period::events));
    }
  }

  @SQL(
      "insert into emitter_minute as m select * from unnest(:emitters, :minutes, :events)"
          + " on conflict (emitter_id, minute) do update set events = m.events + excluded.events")
  int upsertMinutes(Long[] emitters, Instant[] minutes, Long[] events);

  default void addHours(Collection<Period> hours) {
    if (!hours.isEmpty()) {
      upsertHours(
          Columns.longs(hours, Period::emitter),
          Columns.of(hours, Period::start, Instant[]::new),
          Columns.longs(hours, Period::events));
    }
  }

  @SQL(
      "insert into emitter_hour as h select * from unnest(:emitters, :hours, :events)"
          + " on conflict (emitter_id, hour) do update set events = h.events + excluded.events")
  int upsertHours(Long[] emitters, Instant[] hours, Long[] events);

  @HQL(
      "select e.id, e.producer, e.namespace, e.version, e.engine, e.firstEvent, e.lastEvent,"
          + " e.lastReceived, e.events from Emitter e order by e.lastEvent desc")
  List<Stored> all();

  @HQL("select h.emitterId, h.hour from EmitterHour h where h.hour > :after and h.hour <= :until")
  List<Hour> hours(Instant after, Instant until);

  @HQL(
      "select m.minute, e.namespace, sum(m.events) from EmitterMinute m join Emitter e on e.id ="
          + " m.emitterId where m.minute > :after group by m.minute, e.namespace"
          + " order by m.minute, e.namespace")
  List<Minute> minutes(Instant after);

  @HQL("delete from EmitterMinute m where m.minute < :before")
  int deleteMinutes(Instant before);

  @HQL("delete from EmitterHour h where h.hour < :before")
  int deleteHours(Instant before);
}
