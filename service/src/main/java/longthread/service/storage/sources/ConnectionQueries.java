package longthread.service.storage.sources;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.HQL;
import org.hibernate.annotations.processing.SQL;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** What keys sent, and the databases that the service reads by itself. */
@Repository
@Transactional
public interface ConnectionQueries {
  /** What a key sent. */
  record Use(
      String name,
      Instant firstAt,
      Instant lastAt,
      long accepted,
      long refused,
      @Nullable Instant refusedAt,
      @Nullable String refusal) {}

  /** An event that a key sent, as it was applied. */
  record Sent(
      String digest,
      long block,
      int position,
      Instant receivedAt,
      String type,
      String about,
      String[] changed) {}

  /** How much came in by files or topics. */
  record Source(String source, long events, Instant newest) {}

  /** A database that is read. */
  record Reader(
      String name,
      String settings,
      int everyMinutes,
      boolean enabled,
      String changedBy,
      Instant changedAt,
      @Nullable Instant lastAt,
      @Nullable Instant lastOkAt,
      @Nullable String outcome,
      @Nullable String problem) {}

  StatelessSession session();

  // ------------------------------------------------------------------ keys

  /** Adds to what a key sent; the newest digests replace those before, at most twenty in all. */
  @SQL(
      "insert into key_use as u (name, first_at, last_at, accepted, refused, refused_at, refusal,"
          + " newest) values (:name, :at, :at, :accepted, :refused, cast(:refusedAt as timestamptz),"
          + " cast(:refusal as text), :newest) on conflict (name) do update set"
          + " last_at = greatest(u.last_at, excluded.last_at),"
          + " accepted = u.accepted + excluded.accepted, refused = u.refused + excluded.refused,"
          + " refused_at = coalesce(excluded.refused_at, u.refused_at),"
          + " refusal = coalesce(excluded.refusal, u.refusal),"
          + " newest = (excluded.newest || u.newest)[1:20]")
  int addUse(
      String name,
      Instant at,
      long accepted,
      long refused,
      @Nullable Instant refusedAt,
      @Nullable String refusal,
      byte[][] newest);

  @HQL(
      "select u.name, u.firstAt, u.lastAt, u.accepted, u.refused, u.refusedAt, u.refusal"
          + " from KeyUse u order by u.name")
  List<Use> uses();

  /** The events that a key sent last and that were applied, the newest first. */
  @SQL(
      "select encode(s.digest, 'hex'), e.block_id, e.position, e.received_at, e.type, e.about,"
          + " e.changed from key_use u cross join lateral unnest(u.newest) as n(digest)"
          + " join event_seen s on s.digest = n.digest join recent_event e"
          + " on e.block_id = s.block_id and e.position = s.position where u.name = :name"
          + " order by e.block_id desc, e.position desc")
  List<Sent> sentBy(String name);

  @SQL(
      "select source, sum(events)::bigint, max(received_at) from event_block"
          + " where source is not null and received_at > :since group by 1 order by 1")
  List<Source> sourcesSince(Instant since);

  // ------------------------------------------------------------------ readers

  @SQL(
      "insert into source_reader (name, settings, every_minutes, enabled, changed_by, changed_at)"
          + " values (:name, :settings, :every, :enabled, :by, :at) on conflict (name) do update"
          + " set settings = excluded.settings, every_minutes = excluded.every_minutes,"
          + " enabled = excluded.enabled, changed_by = excluded.changed_by,"
          + " changed_at = excluded.changed_at")
  int putReader(String name, String settings, int every, boolean enabled, String by, Instant at);

  @HQL("delete from SourceReader r where r.name = :name")
  int deleteReader(String name);

  @HQL(
      "select r.name, r.settings, r.everyMinutes, r.enabled, r.changedBy, r.changedAt, r.lastAt,"
          + " r.lastOkAt, r.outcome, r.problem from SourceReader r order by r.name")
  List<Reader> readers();

  /** Takes a reader that is due, or the one of this name, for as long as it may take. */
  @SQL(
      "with due as (select name from source_reader where (locked_until is null"
          + " or locked_until < :now) and ((:name = '' and enabled and (last_at is null or last_at"
          + " + make_interval(mins => every_minutes) <= :now)) or name = :name)"
          + " order by last_at nulls first limit 1 for update skip locked),"
          + " taken as (update source_reader r set locked_until = :until from due"
          + " where r.name = due.name returning r.name, r.settings, r.every_minutes, r.enabled,"
          + " r.changed_by, r.changed_at, r.last_at, r.last_ok_at, r.outcome, r.problem)"
          + " select * from taken")
  Optional<Reader> take(String name, Instant now, Instant until);

  @SQL("select state from source_reader where name = :name and state is not null")
  Optional<byte[]> state(String name);

  /** Keeps what a reading found, for the next one. */
  @SQL("update source_reader set state = :state where name = :name")
  int keepState(String name, byte[] state);

  /** Notes how a reading ended, and gives the reader free. */
  @SQL(
      "update source_reader set last_at = :at, last_ok_at = case when :ok then :at else last_ok_at"
          + " end, outcome = :outcome, problem = nullif(:problem, ''), locked_until = null"
          + " where name = :name")
  int ended(String name, Instant at, boolean ok, String outcome, String problem);
}
