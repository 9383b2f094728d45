package longthread.service.storage.planned;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.SQL;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** Planned changes and answers to them. */
@Repository
@Transactional
public interface PlannedQueries {
  /** A planned change; the steps are JSON, what it was judged to do is compressed JSON. */
  record Plan(
      String id,
      String title,
      @Nullable String reason,
      String author,
      @Nullable Instant plannedAt,
      String steps,
      String state,
      String madeBy,
      Instant madeAt,
      String changedBy,
      Instant changedAt,
      @Nullable Instant doneAt,
      @Nullable Instant judgedAt,
      long graph,
      byte @Nullable [] judged,
      byte @Nullable [] first) {}

  /** What an owner answered. */
  record Answer(
      String change, String owner, String answer, @Nullable String note, String by, Instant at) {}

  StatelessSession session();

  String PLAN =
      "select id, title, reason, author, planned_at, steps, state, made_by, made_at, changed_by,"
          + " changed_at, done_at, judged_at, graph, judged, first from planned_change";

  @SQL(
      "insert into planned_change (id, title, reason, author, planned_at, steps, state, made_by,"
          + " made_at, changed_by, changed_at, judged_at, graph, judged, first) values (:id, :title,"
          + " cast(:reason as text), :author, cast(:plannedAt as timestamptz), :steps, 'proposed',"
          + " :by, :at, :by, :at, :at, :graph, :judged, :judged)")
  int add(
      String id,
      String title,
      @Nullable String reason,
      String author,
      @Nullable Instant plannedAt,
      String steps,
      String by,
      Instant at,
      long graph,
      byte[] judged);

  /** All planned changes, the newest first. */
  @SQL(PLAN + " order by made_at desc, id")
  List<Plan> all();

  /** Those in any of these states. */
  @SQL(PLAN + " where state = any(:states) order by made_at desc, id")
  List<Plan> in(String[] states);

  @SQL(PLAN + " where id = :id")
  Optional<Plan> plan(String id);

  /** Moves a change from one state to another; 0 if it is in another one by now. */
  @SQL(
      "update planned_change set state = :to, changed_by = :by, changed_at = :at,"
          + " done_at = case when :to = 'done' then cast(:at as timestamptz) else done_at end"
          + " where id = :id and state = :from")
  int move(String id, String from, String to, String by, Instant at);

  /** Notes what an open change was judged to do as of a graph change. */
  @SQL(
      "update planned_change set judged = :judged, judged_at = :at, graph = :graph where id = :id"
          + " and state in ('proposed', 'agreed')")
  int judge(String id, byte[] judged, Instant at, long graph);

  /** The answers to changes. */
  @SQL(
      "select change_id, owner, answer, note, by, at from planned_answer"
          + " where change_id = any(:changes) order by change_id, owner")
  List<Answer> answers(String[] changes);

  @SQL(
      "insert into planned_answer (change_id, owner, answer, note, by, at) values (:change, :owner,"
          + " :answer, cast(:note as text), :by, :at) on conflict (change_id, owner) do update"
          + " set answer = excluded.answer, note = excluded.note, by = excluded.by,"
          + " at = excluded.at")
  int answer(
      String change, String owner, String answer, @Nullable String note, String by, Instant at);
}
