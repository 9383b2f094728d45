package longthread.service.storage.graph;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.HQL;
import org.hibernate.annotations.processing.SQL;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** The state of the graph and its numbered changes. */
@Repository
@Transactional
public interface HeadQueries {
  /** A numbered change and the references whose cards or links it changed. */
  record Change(long number, String[] refs) {}

  /**
   * What an applier is at, or was when it ended.
   *
   * @param block null if it is at nothing in particular
   * @param position the event of the block; null for the whole batch that begins with it
   * @param by whose mark it is
   * @param ends how many processes ended at it before
   */
  record Attempt(@Nullable Long block, @Nullable Integer position, @Nullable UUID by, int ends) {}

  /**
   * Which state of which database this is.
   *
   * @param epoch another after a rebuild
   * @param number of the newest change
   * @param changedAt when that was made
   */
  record Position(UUID epoch, long number, Instant changedAt) {}

  StatelessSession session();

  @HQL("select h.epoch, h.number, h.changedAt from GraphHead h")
  Position position();

  @HQL("select h.tryingBlock, h.tryingPosition, h.tryingBy, h.ends from GraphHead h")
  Attempt attempt();

  @SQL(
      "update graph_head set trying_block = :block, trying_position = cast(:position as integer),"
          + " trying_by = :by, ends = :ends")
  int noteAttempt(long block, @Nullable Integer position, UUID by, int ends);

  @HQL(
      "update GraphHead h set h.tryingBlock = null, h.tryingPosition = null, h.tryingBy = null,"
          + " h.ends = 0 where h.tryingBlock is not null")
  int clearAttempt();

  /** Takes an advisory lock of the connection, if nobody holds it. */
  @SQL("select pg_try_advisory_lock(:key)")
  boolean tryLock(long key);

  @HQL("select h.number from GraphHead h")
  long number();

  /** Locks the head until the transaction ends; returns the number of the newest change. */
  @SQL("select number from graph_head for update")
  long lock();

  /** Who applied last; null after a rebuild. */
  @HQL("select h.applier from GraphHead h")
  @Nullable UUID applier();

  /** Makes another the one who applies. */
  @HQL("update GraphHead h set h.applier = :applier, h.term = h.term + 1")
  int takeOver(UUID applier);

  /** Makes whoever applies forget what it remembers of the catalog. */
  @HQL("update GraphHead h set h.applier = null")
  int forgetApplier();

  /** Gives the next change its number. */
  @HQL("update GraphHead h set h.number = h.number + 1, h.changedAt = :at")
  int next(Instant at);

  /** Begins a new epoch, as after a rebuild: whoever follows loads everything anew. */
  @SQL(
      "update graph_head set number = number + 1000, epoch = gen_random_uuid(), applier = null,"
          + " changed_at = clock_timestamp()")
  int beginEpoch();

  @SQL("insert into graph_change (number, made_at, refs) values (:number, :at, :refs)")
  int addChange(long number, Instant at, String[] refs);

  /** When a change was made; empty if that is no longer kept. */
  @HQL("select c.madeAt from GraphChange c where c.number = :number")
  Optional<Instant> madeAt(long number);

  @HQL("select c.number, c.refs from GraphChange c where c.number > :after and c.number <= :until")
  List<Change> changes(long after, long until);

  @HQL("delete from GraphChange c where c.madeAt < :before")
  int deleteChangesBefore(Instant before);

  /** The version of the SQL reader behind the links. */
  @HQL("select h.sqlRules from GraphHead h")
  int sqlReaderVersion();

  @HQL("update GraphHead h set h.sqlRules = :version")
  int setSqlReaderVersion(int version);
}
