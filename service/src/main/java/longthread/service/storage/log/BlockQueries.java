package longthread.service.storage.log;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.HQL;
import org.hibernate.annotations.processing.SQL;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** The blocks of the log, and which events they hold. */
@Repository
@Transactional
public interface BlockQueries {
  /** A block by its size, in events and in bytes as it is stored. */
  record Size(long id, int events, int bytes) {}

  /** A block with its bytes. */
  record Body(long id, Instant receivedAt, byte[] body) {}

  /** A block whole; the bytes are null once they are aged. */
  record Block(
      long id, Instant receivedAt, int events, byte @Nullable [] body, @Nullable String source) {}

  /** Where an event was accepted first; the digest in hexadecimal. */
  record Seen(String digest, long block, int position) {}

  StatelessSession session();

  /** Appends a block; returns its id. */
  @SQL(
      "with added as (insert into event_block (received_at, events, body, reading, source) values"
          + " (:receivedAt, :events, :body, :readerVersion, cast(:source as text)) returning id)"
          + " select id from added")
  long append(
      Instant receivedAt, int events, byte[] body, int readerVersion, @Nullable String source);

  /** The oldest blocks that are not applied. */
  @SQL(
      "select id, events, octet_length(body) from event_block where applied_at is null"
          + " order by id limit :most")
  List<Size> unapplied(int most);

  /** The oldest applied blocks with a body that the rebuild in this schema has not read. */
  @SQL(
      "select id, events, octet_length(body) from event_block b where applied_at is not null and not aged"
          + " and not exists (select from rebuilt_block r where r.id = b.id) order by id limit :most")
  List<Size> notRebuilt(int most);

  @SQL("insert into rebuilt_block select unnest(:ids)")
  int markRebuilt(Long[] ids);

  /** Blocks with their bytes, in the order of their ids; aged ones are left out. */
  @SQL(
      "select id, received_at, body from event_block where id = any(:ids) and body is not null"
          + " order by id")
  List<Body> bodies(Long[] ids);

  @SQL("select id, received_at, events, body, source from event_block where id = :id")
  Optional<Block> block(long id);

  /** The graph change that made a block's events visible; empty while it waits. */
  @HQL("select b.changeNumber from EventBlock b where b.id = :id and b.changeNumber is not null")
  Optional<Long> changeNumber(long id);

  @SQL("update event_block set applied_at = :at, change_number = :change where id = any(:ids)")
  int markApplied(Instant at, long change, Long[] ids);

  @HQL("select count(b) from EventBlock b where b.appliedAt is not null")
  long appliedCount();

  /** Those of these digests that were accepted before. */
  @SQL(
      "select encode(digest, 'hex'), block_id, position from event_seen where digest = any(:digests)"
          + " order by block_id, position")
  List<Seen> seen(byte[][] digests);

  /** Notes digests as accepted; returns those, in hexadecimal, that were not before. */
  @SQL(
      "with added as (insert into event_seen select * from unnest(:digests, :blocks, :positions)"
          + " on conflict do nothing returning digest) select encode(digest, 'hex') from added")
  List<String> addSeen(byte[][] digests, Long[] blocks, Integer[] positions);

  /** Forgets an event, so that it may come again. */
  @SQL("delete from event_seen where digest = :digest")
  int forgetSeen(byte[] digest);

  /** Drops the bytes of applied blocks received before a time in which nothing open is refused. */
  @SQL(
      "update event_block b set body = null, aged = true where not aged and applied_at is not null"
          + " and received_at < :before and not exists (select from refused_event r"
          + " where r.block_id = b.id and (r.outcome is null or r.outcome <> 'accepted'))")
  int age(Instant before);

  /** Of applied blocks received before a time, some that still have all their bytes. */
  @SQL(
      "select id, received_at, body from event_block where not aged and applied_at is not null"
          + " and received_at < :before order by id limit :most")
  List<Body> notAged(Instant before, int most);

  /** The places in a block of refused events that were not accepted since. */
  @HQL(
      "select r.position from RefusedEvent r where r.blockId = :block"
          + " and (r.outcome is null or r.outcome <> 'accepted')")
  List<Integer> openRefusals(long block);

  /** The places in a block of events that were applied. */
  @HQL("select s.position from EventSeen s where s.blockId = :block")
  List<Integer> seenIn(long block);

  /** Leaves a block only these bytes. */
  @SQL("update event_block set body = :body, aged = true where id = :id")
  int ageTo(long id, byte[] body);

  /** Forgets which events aged blocks received before a time held; they may come again. */
  @SQL(
      "delete from event_seen s using event_block b where b.id = s.block_id and b.aged"
          + " and b.received_at < :before")
  int forgetSeenBefore(Instant before);
}
