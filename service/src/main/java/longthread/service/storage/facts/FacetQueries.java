package longthread.service.storage.facts;

import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import longthread.service.storage.Columns;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.HQL;
import org.hibernate.annotations.processing.SQL;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** The facets of datasets and jobs: every value there was, and which one is current. */
@Repository
@Transactional
public interface FacetQueries {
  /** A value at a moment; {@code far} if its time is too far ahead to count. */
  record Reported(Subject subject, String key, long atS, int atN, String digest, boolean far) {}

  /** The current value of a facet; the digest in hexadecimal. */
  record Current(long subject, String key, long atS, int atN, String digest) {}

  /** A value by its digest in hexadecimal, compressed. */
  record Body(String digest, byte[] body) {}

  /** A value of a facet of the asset part with this reference. */
  record Value(String ref, String key, long atS, int atN, byte[] body) {}

  /** A value of a facet by its key. */
  record Keyed(String key, String digest) {}

  /** A value of one facet of one subject at a moment. */
  record Moment(long subject, long atS, int atN, String digest) {}

  /** A subject as the tables hold it. */
  record Stored(int kind, long id) {
    public Subject subject() {
      return new Subject(SubjectKind.of(kind), id);
    }
  }

  /** A current facet of a reference. */
  record Standing(String ref, String key, String digest) {}

  StatelessSession session();

  // ------------------------------------------------------------------ writing

  /** Adds values that no facet had before; those that are there stay. */
  default void addBodies(Map<String, byte[]> bodies) {
    if (!bodies.isEmpty()) {
      insertBodies(Columns.digests(bodies.keySet()), bodies.values().toArray(byte[][]::new));
    }
  }

  @SQL("insert into facet_body select * from unnest(:digests, :bodies) on conflict do nothing")
  int insertBodies(byte[][] digests, byte[][] bodies);

  /** Adds values of facets, each with the block that reported it. */
  default void add(Map<Reported, Long> facets) {
    if (!facets.isEmpty()) {
      Set<Reported> rows = facets.keySet();
      insert(
          Columns.of(rows, row -> row.subject().kindCode(), Short[]::new),
          Columns.longs(rows, row -> row.subject().id()),
          Columns.texts(rows, Reported::key),
          Columns.longs(rows, Reported::atS),
          Columns.of(rows, Reported::atN, Integer[]::new),
          Columns.digests(rows, Reported::digest),
          Columns.of(rows, Reported::far, Boolean[]::new),
          facets.values().toArray(Long[]::new));
    }
  }

  @SQL(
      "insert into facet select * from unnest(:kinds, :ids, :keys, :seconds, :nanos, :digests,"
          + " :far, :blocks) on conflict do nothing")
  int insert(
      Short[] kinds,
      Long[] ids,
      String[] keys,
      Long[] seconds,
      Integer[] nanos,
      byte[][] digests,
      Boolean[] far,
      Long[] blocks);

  /** Makes values the current ones; whoever calls has made sure that they win. */
  default void putCurrent(Collection<Reported> winners) {
    if (!winners.isEmpty()) {
      upsertCurrent(
          Columns.of(winners, row -> row.subject().kindCode(), Short[]::new),
          Columns.longs(winners, row -> row.subject().id()),
          Columns.texts(winners, Reported::key),
          Columns.longs(winners, Reported::atS),
          Columns.of(winners, Reported::atN, Integer[]::new),
          Columns.digests(winners, Reported::digest));
    }
  }

  @SQL(
      "insert into facet_now select * from unnest(:kinds, :ids, :keys, :seconds, :nanos, :digests)"
          + " on conflict (subject_kind, subject_id, key) do update"
          + " set at_s = excluded.at_s, at_n = excluded.at_n, digest = excluded.digest")
  int upsertCurrent(
      Short[] kinds, Long[] ids, String[] keys, Long[] seconds, Integer[] nanos, byte[][] digests);

  /** Notes that subjects are more than mentioned, each with the block that says so. */
  default void addDescribed(Map<Subject, Long> subjects) {
    if (!subjects.isEmpty()) {
      insertDescribed(
          Columns.of(subjects.keySet(), Subject::kindCode, Short[]::new),
          Columns.longs(subjects.keySet(), Subject::id),
          subjects.values().toArray(Long[]::new));
    }
  }

  @SQL("insert into described select * from unnest(:kinds, :ids, :blocks) on conflict do nothing")
  int insertDescribed(Short[] kinds, Long[] ids, Long[] blocks);

  // ------------------------------------------------------------------ reading for the applier

  @SQL(
      "select subject_id, key, at_s, at_n, encode(digest, 'hex') from facet_now"
          + " where subject_kind = :kind and subject_id = any(:ids)")
  List<Current> current(short kind, Long[] ids);

  @SQL("select encode(digest, 'hex'), body from facet_body where digest = any(:digests)")
  List<Body> bodies(byte[][] digests);

  /** Those of these subjects that are more than mentioned. */
  default Set<Subject> described(Collection<Subject> subjects) {
    return Set.copyOf(
        describedAmong(
                Columns.of(subjects, Subject::kindCode, Short[]::new),
                Columns.longs(subjects, Subject::id))
            .stream()
            .map(Stored::subject)
            .toList());
  }

  @SQL(
      "select cast(subject_kind as int), subject_id from described where (subject_kind, subject_id)"
          + " in (select * from unnest(:kinds, :ids))")
  List<Stored> describedAmong(Short[] kinds, Long[] ids);

  /** The moments at which a facet of subjects got another value, oldest first. */
  @SQL(
      "select subject_id, at_s, at_n, encode(digest, 'hex') from (select subject_id, at_s, at_n,"
          + " digest, lag(digest) over (partition by subject_id order by at_s, at_n, digest)"
          + " as before from facet where subject_kind = :kind and key = :key and not far"
          + " and subject_id = any(:ids)) reported where before is distinct from digest"
          + " order by subject_id, at_s, at_n, digest")
  List<Moment> changes(short kind, String key, Long[] ids);

  /** When a facet of a dataset was next reported after a moment. */
  @SQL(
      "select subject_id, at_s, at_n, encode(digest, 'hex') from facet where subject_kind = 1"
          + " and subject_id = :dataset and key = :key and not far"
          + " and (at_s, at_n) > (:second, :nano) order by at_s, at_n, digest limit 1")
  Optional<Moment> nextReport(long dataset, String key, long second, int nano);

  /** The current values of one facet, of all datasets. */
  @SQL(
      "select d.ref, f.key, f.at_s, f.at_n, b.body from facet_now f join facet_body b"
          + " using (digest) join dataset d on d.id = f.subject_id where f.subject_kind = 1"
          + " and f.key = :key order by d.ref")
  List<Value> allCurrent(String key);

  /** The datasets that were reported as created, dropped or the like. */
  @SQL("select subject_id from facet_now where subject_kind = 1 and key = 'lifecycleStateChange'")
  List<Long> withLifeCycle();

  /** All values of a facet of datasets, the newest first; each with when it was reported last. */
  @SQL(
      "select subject_id, at_s, at_n, encode(digest, 'hex') from (select distinct on (subject_id,"
          + " digest) subject_id, at_s, at_n, digest from facet where subject_kind = 1"
          + " and key = :key and not far and subject_id = any(:datasets)"
          + " order by subject_id, digest, at_s desc, at_n desc) newest"
          + " order by subject_id, at_s desc, at_n desc, digest desc")
  List<Moment> valuesEver(String key, Long[] datasets);

  /** The values that won among those of a dataset reported before a moment. */
  @SQL(
      "select distinct on (key) key, encode(digest, 'hex') from facet where subject_kind = 1"
          + " and subject_id = :dataset and not far and (at_s, at_n) < (:second, :nano)"
          + " order by key, at_s desc, at_n desc, digest desc")
  List<Keyed> winnersBefore(long dataset, long second, int nano);

  /** The values that won among those of a dataset reported at a moment or after it. */
  @SQL(
      "select distinct on (key) key, encode(digest, 'hex') from facet where subject_kind = 1"
          + " and subject_id = :dataset and not far and (at_s, at_n) >= (:second, :nano)"
          + " order by key, at_s desc, at_n desc, digest desc")
  List<Keyed> winnersSince(long dataset, long second, int nano);

  /** The jobs and views whose SQL touches any of these datasets. */
  @SQL(
      "select distinct cast(l.owner_kind as int), l.owner_id from link_row l"
          + " where (l.from_dataset = any(:datasets) or l.to_dataset = any(:datasets))"
          + " and ((l.owner_kind = 2 and exists (select from run_facet f where f.job_id = l.owner_id"
          + " and f.role = 3 and f.key = 'sql')) or exists (select from facet_now v"
          + " where v.subject_kind = l.owner_kind and v.subject_id = l.owner_id"
          + " and v.key = :viewKey))")
  List<Stored> sqlOwnersTouching(Long[] datasets, String viewKey);

  /** All jobs that ran SQL, and all views. */
  @SQL(
      "select distinct 2, job_id from run_facet where role = 3 and key = 'sql' union"
          + " select cast(subject_kind as int), subject_id from facet_now"
          + " where key = :viewKey order by 1, 2")
  List<Stored> sqlOwners(String viewKey);

  // ------------------------------------------------------------------ reading for answers

  /** The current facets of references, by reference and key. */
  @SQL(
      "select s.ref, f.key, f.at_s, f.at_n, b.body from (select cast(1 as smallint) as kind, id,"
          + " ref from dataset where ref = any(:refs) union all select cast(2 as smallint), id, ref"
          + " from job where ref = any(:refs)) s"
          + " join facet_now f on f.subject_kind = s.kind and f.subject_id = s.id"
          + " join facet_body b using (digest) order by 1, 2")
  List<Value> currentOf(String[] refs);

  /** All values that facets of datasets ever had, oldest first. */
  @SQL(
      "select s.ref, f.key, f.at_s, f.at_n, b.body from facet f join facet_body b using (digest)"
          + " join dataset s on s.id = f.subject_id where f.subject_kind = 1 and s.ref = any(:refs)"
          + " and not f.far order by f.at_s, f.at_n, f.digest")
  List<Value> historyOfDatasets(String[] refs);

  /** All values that facets of jobs ever had, oldest first. */
  @SQL(
      "select s.ref, f.key, f.at_s, f.at_n, b.body from facet f join facet_body b using (digest)"
          + " join job s on s.id = f.subject_id where f.subject_kind = 2 and s.ref = any(:refs)"
          + " and not f.far order by f.at_s, f.at_n, f.digest")
  List<Value> historyOfJobs(String[] refs);

  /** The values of one facet of datasets, newest first. */
  @SQL(
      "select d.ref, f.key, f.at_s, f.at_n, b.body from facet f join facet_body b using (digest)"
          + " join dataset d on d.id = f.subject_id where f.subject_kind = 1 and f.key = :key"
          + " and not f.far and d.ref = any(:refs) order by f.at_s desc, f.at_n desc limit :most")
  List<Value> valuesOfDatasets(String[] refs, String key, int most);

  /** Of each dataset the newest value of one facet by a moment, the newest of all first. */
  @SQL(
      "select d.ref, f.key, f.at_s, f.at_n, b.body from (select distinct on (subject_id)"
          + " subject_id, key, at_s, at_n, digest from facet where subject_kind = 1 and key = :key"
          + " and not far and (at_s, at_n) <= (:second, :nano)"
          + " and subject_id in (select id from dataset where ref = any(:refs))"
          + " order by subject_id, at_s desc, at_n desc, digest desc) f join facet_body b"
          + " using (digest) join dataset d on d.id = f.subject_id order by f.at_s desc, f.at_n desc")
  List<Value> valuesUntil(String[] refs, String key, long second, int nano);

  /** Of each job the newest value of one facet by a moment. */
  @SQL(
      "select j.ref, f.key, f.at_s, f.at_n, b.body from (select distinct on (subject_id)"
          + " subject_id, key, at_s, at_n, digest from facet where subject_kind = 2 and key = :key"
          + " and not far and (at_s, at_n) <= (:second, :nano)"
          + " and subject_id in (select id from job where ref = any(:refs))"
          + " order by subject_id, at_s desc, at_n desc, digest desc) f join facet_body b"
          + " using (digest) join job j on j.id = f.subject_id order by f.at_s desc, f.at_n desc")
  List<Value> jobValuesUntil(String[] refs, String key, long second, int nano);

  /** The current value of one facet of a job. */
  @SQL(
      "select b.body from facet_now f join facet_body b using (digest) join job j"
          + " on f.subject_kind = 2 and j.id = f.subject_id where j.ref = any(:refs)"
          + " and f.key = :key order by f.at_s desc, f.at_n desc limit 1")
  Optional<byte[]> currentOfJob(String[] refs, String key);

  /** The current facets of datasets and jobs, by digest. */
  @SQL(
      "select d.ref, f.key, encode(f.digest, 'hex') as digest from facet_now f"
          + " join dataset d on f.subject_kind = 1 and d.id = f.subject_id"
          + " where d.ref = any(:datasets) union all"
          + " select j.ref, f.key, encode(f.digest, 'hex') from facet_now f"
          + " join job j on f.subject_kind = 2 and j.id = f.subject_id where j.ref = any(:jobs)")
  List<Standing> standing(String[] datasets, String[] jobs);

  @HQL("select count(f) from Facet f")
  long count();
}
