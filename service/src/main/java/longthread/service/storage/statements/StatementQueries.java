package longthread.service.storage.statements;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.SQL;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** What people stated, and what they set that stands. */
@Repository
@Transactional
public interface StatementQueries {
  /**
   * A statement.
   *
   * @param about the references that it sets something of
   * @param body JSON, compressed
   * @param undoneBy the statement that took it back
   */
  record Row(
      String id,
      Instant at,
      String by,
      String reason,
      String[] about,
      byte[] body,
      @Nullable String undoes,
      @Nullable String undoneBy) {}

  /** A facet that people set, as it stands. */
  record Set(String ref, String key, long atS, int atN, byte[] body) {}

  StatelessSession session();

  @SQL(
      "insert into statement (id, at, by, reason, about, body, undoes) values (:id, :at, :by,"
          + " :reason, :about, :body, nullif(:undoes, '')) on conflict do nothing")
  int add(
      String id, Instant at, String by, String reason, String[] about, byte[] body, String undoes);

  /** Statements, the newest first; an empty text leaves a condition out. */
  @SQL(
      "select s.id, s.at, s.by, s.reason, s.about, s.body, s.undoes,"
          + " (select min(u.id) from statement u where u.undoes = s.id) as undone_by"
          + " from statement s where (:about = '' or s.about @> array[cast(:about as text)])"
          + " and (:by = '' or s.by = :by) order by s.at desc, s.id limit :most offset :skip")
  List<Row> newest(String about, String by, int most, long skip);

  @SQL(
      "select s.id, s.at, s.by, s.reason, s.about, s.body, s.undoes,"
          + " (select min(u.id) from statement u where u.undoes = s.id) as undone_by"
          + " from statement s where s.id = :id")
  Optional<Row> byId(String id);

  /** What stands of the facets whose keys begin like this, by reference and key. */
  @SQL(
      "select coalesce(d.ref, j.ref) as ref, f.key, f.at_s, f.at_n, b.body from facet_now f"
          + " join facet_body b using (digest)"
          + " left join dataset d on f.subject_kind = 1 and d.id = f.subject_id"
          + " left join job j on f.subject_kind = 2 and j.id = f.subject_id"
          + " where f.key like 'hand:%' and f.key like :pattern order by 1, 2")
  List<Set> standing(String pattern);

  /** What a facet of a reference was before a moment. */
  @SQL(
      "select coalesce(d.ref, j.ref) as ref, f.key, f.at_s, f.at_n, b.body from facet f"
          + " join facet_body b using (digest)"
          + " left join dataset d on f.subject_kind = 1 and d.id = f.subject_id"
          + " left join job j on f.subject_kind = 2 and j.id = f.subject_id"
          + " where f.key = :key and ((f.subject_kind = 1 and d.ref = :ref)"
          + " or (f.subject_kind = 2 and j.ref = :ref)) and not f.far"
          + " and (f.at_s, f.at_n) < (:second, :nano)"
          + " order by f.at_s desc, f.at_n desc, f.digest desc limit 1")
  Optional<Set> before(String ref, String key, long second, int nano);
}
