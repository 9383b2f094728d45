package longthread.service.storage.log;

import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import longthread.service.storage.Columns;
import longthread.service.storage.StoredText;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.HQL;
import org.hibernate.annotations.processing.SQL;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** Events that were refused, why, and what became of a retry. */
@Repository
@Transactional
public interface RefusalQueries {
  /** An entry of a block that is refused. */
  record Refusal(int position, String problem, String reason) {}

  /** A refusal as it is stored. */
  record Stored(
      long id,
      Instant receivedAt,
      String problem,
      String reason,
      @Nullable String source,
      @Nullable Instant retriedAt,
      @Nullable String outcome) {}

  /** Where the bytes of a refused event lie. */
  record Place(long id, int position, long block, byte[] body) {}

  /** How many open refusals have a problem. */
  record Count(String problem, long count) {}

  /** What a retry of a refused event led to. */
  record Outcome(long id, String outcome) {}

  StatelessSession session();

  /** Adds refusals of one block; their source is the block's. */
  default void add(long block, Instant receivedAt, Collection<Refusal> refusals) {
    if (!refusals.isEmpty()) {
      insert(
          block,
          receivedAt,
          Columns.of(refusals, Refusal::position, Integer[]::new),
          Columns.texts(refusals, Refusal::problem),
          Columns.texts(refusals, refusal -> StoredText.clean(refusal.reason())));
    }
  }

  @SQL(
      "insert into refused_event (block_id, position, received_at, problem, reason, source)"
          + " select :block, r.position, :receivedAt, r.problem, r.reason,"
          + " (select source from event_block where id = :block)"
          + " from unnest(:positions, :problems, :reasons) as r (position, problem, reason)")
  int insert(
      long block, Instant receivedAt, Integer[] positions, String[] problems, String[] reasons);

  @HQL(
      "select r.id, r.receivedAt, r.problem, r.reason, r.source, r.retriedAt, r.outcome"
          + " from RefusedEvent r where r.id = :id")
  Optional<Stored> refusal(long id);

  /** The newest refusals: all, or only those that no retry fixed. */
  @HQL(
      "select r.id, r.receivedAt, r.problem, r.reason, r.source, r.retriedAt, r.outcome"
          + " from RefusedEvent r where (cast(:problem as String) is null or r.problem = :problem)"
          + " and (cast(:source as String) is null or r.source = :source)"
          + " and (:fixed = true or r.outcome is null or r.outcome <> 'accepted')"
          + " order by r.id desc limit :most")
  List<Stored> newest(@Nullable String problem, @Nullable String source, boolean fixed, int most);

  /** The open refusals with a problem or from a source, oldest first. */
  @HQL(
      "select r.id from RefusedEvent r where (r.outcome is null or r.outcome <> 'accepted')"
          + " and (cast(:problem as String) is null or r.problem = :problem)"
          + " and (cast(:source as String) is null or r.source = :source) order by r.id")
  List<Long> openIds(@Nullable String problem, @Nullable String source);

  @HQL(
      "select r.problem, count(r) from RefusedEvent r where r.outcome is null"
          + " or r.outcome <> 'accepted' group by r.problem order by r.problem")
  List<Count> openByProblem();

  /** Where the bytes of refused events lie; aged ones are left out. */
  @SQL(
      "select r.id, r.position, b.id as block, b.body from refused_event r join event_block b"
          + " on b.id = r.block_id where r.id = any(:ids) and b.body is not null")
  List<Place> places(Long[] ids);

  /** Notes what retries led to. */
  default void retried(Instant at, Collection<Outcome> outcomes) {
    if (!outcomes.isEmpty()) {
      update(
          at,
          Columns.longs(outcomes, Outcome::id),
          Columns.texts(outcomes, outcome -> StoredText.clean(outcome.outcome())));
    }
  }

  @SQL(
      "update refused_event r set retried_at = :at, outcome = o.outcome"
          + " from unnest(:ids, :outcomes) as o (id, outcome) where r.id = o.id")
  int update(Instant at, Long[] ids, String[] outcomes);

  @HQL("delete from RefusedEvent r where r.receivedAt < :before")
  int deleteBefore(Instant before);
}
