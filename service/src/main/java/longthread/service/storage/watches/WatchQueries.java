package longthread.service.storage.watches;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.SQL;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** Watches, and the messages that they sent or have to send. */
@Repository
@Transactional
public interface WatchQueries {
  /** A watch; its secret is never listed. */
  record Watch(
      String id,
      String owner,
      String title,
      String targetKind,
      String target,
      String[] about,
      String channel,
      String address,
      @Nullable String secret,
      String digest,
      @Nullable String digestAt,
      @Nullable String quietFrom,
      @Nullable String quietUntil,
      String zone,
      Instant madeAt) {}

  /** A message; {@code message} is a CloudEvent as JSON. */
  record Delivery(
      String id,
      String watchId,
      Instant madeAt,
      String message,
      String subject,
      String state,
      int tries,
      Instant nextAt,
      @Nullable Instant sentAt,
      @Nullable String problem) {}

  /** A cause that a watch knows. */
  record Known(String watchId, String cause) {}

  StatelessSession session();

  @SQL(
      "select id, owner, title, target_kind, target, about, channel, address, secret, digest,"
          + " digest_at, quiet_from, quiet_until, zone, made_at from watch order by made_at, id")
  List<Watch> all();

  @SQL(
      "select id, owner, title, target_kind, target, about, channel, address, secret, digest,"
          + " digest_at, quiet_from, quiet_until, zone, made_at from watch where id = :id")
  Optional<Watch> byId(String id);

  @SQL(
      "insert into watch (id, owner, title, target_kind, target, about, channel, address, secret,"
          + " digest, digest_at, quiet_from, quiet_until, zone, made_at) values (:id, :owner,"
          + " :title, :targetKind, :target, :about, :channel, :address, nullif(:secret, ''),"
          + " :digest, nullif(:digestAt, ''), nullif(:quietFrom, ''), nullif(:quietUntil, ''),"
          + " :zone, :at)")
  int add(
      String id,
      String owner,
      String title,
      String targetKind,
      String target,
      String[] about,
      String channel,
      String address,
      String secret,
      String digest,
      String digestAt,
      String quietFrom,
      String quietUntil,
      String zone,
      Instant at);

  /** Whether the account of that name is disabled; a key has none. */
  @SQL("select exists (select 1 from account where name = :owner and disabled_at is not null)")
  boolean isSuspended(String owner);

  @SQL("delete from watch where id = :id")
  int delete(String id);

  /** Notes that a watch knows a cause; 0 if it did before. */
  @SQL(
      "insert into watch_cause (watch_id, cause, seen_at) select :watch, :cause, :at"
          + " where exists (select 1 from watch where id = :watch) on conflict do nothing")
  int know(String watch, String cause, Instant at);

  /** The causes that have not ended, as far as watches know. */
  @SQL("select watch_id, cause from watch_cause where ended_at is null")
  List<Known> open();

  /** Notes that a cause ended; 0 if somebody noted it before. */
  @SQL(
      "update watch_cause set ended_at = :at where watch_id = :watch and cause = :cause"
          + " and ended_at is null")
  int end(String watch, String cause, Instant at);

  @SQL(
      "insert into delivery (id, watch_id, made_at, message, subject, state, tries, next_at)"
          + " select :id, id, :at, :message, :subject, 'waiting', 0, :due from watch"
          + " where id = :watch")
  int send(String id, String watch, Instant at, String message, String subject, Instant due);

  /** Takes what is due, so that no other replica sends it within a minute. */
  @SQL(
      "with taken as (update delivery set next_at = :until where id in (select id from delivery"
          + " where state = 'waiting' and next_at <= :now order by made_at limit :most"
          + " for update skip locked) returning id, watch_id, made_at, message, subject, state,"
          + " tries, next_at, sent_at, problem) select * from taken order by made_at, id")
  List<Delivery> take(Instant now, Instant until, int most);

  @SQL(
      "update delivery set state = :state, tries = tries + 1, next_at = :next,"
          + " sent_at = cast(:sentAt as timestamptz), problem = :problem where id = :id")
  int done(
      String id, String state, Instant next, @Nullable Instant sentAt, @Nullable String problem);

  /** Makes a message that was given up wait again; 0 if it was not given up. */
  @SQL(
      "update delivery set state = 'waiting', tries = 0, next_at = :now"
          + " where id = :id and state = 'dead'")
  int retry(String id, Instant now);

  /** Messages, the newest first; an empty text leaves a condition out. */
  @SQL(
      "select id, watch_id, made_at, message, subject, state, tries, next_at, sent_at, problem"
          + " from delivery where (:watch = '' or watch_id = :watch)"
          + " and (:state = '' or state = :state) order by made_at desc, id limit :most")
  List<Delivery> deliveries(String watch, String state, int most);

  @SQL("delete from delivery where state = 'sent' and made_at < :before")
  int forget(Instant before);
}
