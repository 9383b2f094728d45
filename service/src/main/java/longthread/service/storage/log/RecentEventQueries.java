package longthread.service.storage.log;

import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import longthread.service.storage.Columns;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.HQL;
import org.hibernate.annotations.processing.SQL;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** The newest applied events as lists show them, and the counters of the intake. */
@Repository
@Transactional
public interface RecentEventQueries {
  /** An applied event; {@code changed} says in words what it changed. */
  record Applied(
      long block,
      int position,
      Instant receivedAt,
      Instant eventTime,
      String type,
      String about,
      String producer,
      List<String> changed) {}

  /** An applied event as it is stored. */
  record Stored(
      long block,
      int position,
      Instant receivedAt,
      Instant eventTime,
      String type,
      String about,
      String producer,
      String[] changed) {}

  /**
   * The counters of the whole intake.
   *
   * @param received events of applied blocks; those that wait come on top
   * @param refused how many refusals no retry has fixed
   * @param oldest when the oldest event that waits was received
   * @param newest when the newest block was received
   */
  record Totals(
      long received,
      long applied,
      long duplicates,
      long refused,
      long waiting,
      @Nullable Instant oldest,
      @Nullable Instant newest) {}

  /** Where an event lies in the log, and what it was about. */
  record Place(long block, int position, String about) {}

  StatelessSession session();

  default void add(Collection<Applied> events) {
    if (!events.isEmpty()) {
      insert(
          Columns.longs(events, Applied::block),
          Columns.of(events, Applied::position, Integer[]::new),
          Columns.of(events, Applied::receivedAt, Instant[]::new),
          Columns.of(events, Applied::eventTime, Instant[]::new),
          Columns.texts(events, Applied::type),
          Columns.texts(events, Applied::about),
          Columns.texts(events, Applied::producer),
          Columns.texts(events, event -> Columns.joined(event.changed())));
    }
  }

  @SQL(
      "insert into recent_event select e.block, e.position, e.received, e.at, e.type, e.about,"
          + " e.producer, string_to_array(e.changed, chr(31)) from unnest(:blocks, :positions,"
          + " :received, :times, :types, :abouts, :producers, :changes) as e (block, position,"
          + " received, at, type, about, producer, changed) on conflict do nothing")
  int insert(
      Long[] blocks,
      Integer[] positions,
      Instant[] received,
      Instant[] times,
      String[] types,
      String[] abouts,
      String[] producers,
      String[] changes);

  /** The newest events, or those whose subject or producer contains a text. */
  @SQL(
      "select block_id, position, received_at, event_time, type, about, producer, changed"
          + " from recent_event where cast(:text as text) is null or strpos(about, :text) > 0"
          + " or strpos(producer, :text) > 0 order by block_id desc, position desc limit :most")
  List<Stored> newest(@Nullable String text, int most);

  /** What events were about that came after one, in the order in which they were applied. */
  @SQL(
      "select block_id, position, about from recent_event where (block_id, position) >"
          + " (:block, :position) order by block_id, position limit :most")
  List<Place> after(long block, int position, int most);

  /** The newest event; empty before the first. */
  @SQL(
      "select block_id, position, about from recent_event"
          + " order by block_id desc, position desc limit 1")
  Optional<Place> newest();

  @SQL("select unnest(changed) from recent_event where block_id = :block and position = :position")
  List<String> changes(long block, int position);

  /** Leaves only so many of the newest. */
  @SQL(
      "delete from recent_event where (block_id, position) in (select block_id, position"
          + " from recent_event order by block_id desc, position desc offset :most)")
  int keepNewest(int most);

  @SQL(
      "select c.received, c.applied, c.duplicates, (select count(*) from refused_event"
          + " where outcome is null or outcome <> 'accepted') as refused,"
          + " cast(coalesce(w.events, 0) as bigint) as waiting, w.oldest,"
          + " (select received_at from event_block order by id desc limit 1) as newest"
          + " from intake_count c cross join (select sum(events) as events, min(received_at)"
          + " as oldest from event_block where applied_at is null) w")
  Totals totals();

  @HQL(
      "update IntakeCount c set c.received = c.received + :received, c.applied = c.applied +"
          + " :applied, c.duplicates = c.duplicates + :duplicates")
  int count(long received, long applied, long duplicates);
}
