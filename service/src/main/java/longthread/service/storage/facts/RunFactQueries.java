package longthread.service.storage.facts;

import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import longthread.service.storage.Columns;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.SQL;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** What events say of runs: facets, and the lineage that runs and declarations report. */
@Repository
@Transactional
public interface RunFactQueries {
  /** A value of a facet of a run; the dataset is 0 where there is none. */
  record Reported(
      RunKey run,
      FacetRole role,
      long dataset,
      String key,
      long atS,
      int atN,
      String digest,
      boolean far) {}

  /** The newest value of a facet of a run. */
  record Newest(
      UUID run, long job, int role, long dataset, String key, String digest, long atS, int atN) {}

  /** That a run reported a lineage. */
  record Lineage(RunKey run, String digest) {}

  /** A lineage that an owner declares at a moment. */
  record Declaration(Subject owner, long atS, int atN, String digest, boolean far) {}

  /** The digests of the lineage that a run reported. */
  record LineagesOfRun(long job, UUID run, String[] digests) {}

  /** The newest SQL that a run reported, by the digest of its facet. */
  record SqlOfRun(long job, UUID run, String digest) {}

  /** A lineage that an owner declared from a moment on, and when it declared anything last. */
  record Declared(long owner, long atS, int atN, long lastS, int lastN, String digest) {}

  /** A lineage by its digest in hexadecimal, compressed. */
  record Body(String digest, byte[] body) {}

  /**
   * A facet of a run as it is shown; the reference is of the dataset, empty where there is none.
   */
  record Shown(int role, String ref, String key, byte[] body) {}

  /** What a run measured of a dataset. */
  record Measure(int role, UUID run, long atS, int atN, byte[] body) {}

  StatelessSession session();

  // ------------------------------------------------------------------ writing

  /** Adds facets of runs, each with the block that reported it. */
  default void addFacets(Map<Reported, Long> facets) {
    if (!facets.isEmpty()) {
      Set<Reported> rows = facets.keySet();
      insertFacets(
          Columns.of(rows, row -> row.run().run(), UUID[]::new),
          Columns.longs(rows, row -> row.run().job()),
          Columns.of(rows, row -> row.role().code(), Short[]::new),
          Columns.longs(rows, Reported::dataset),
          Columns.texts(rows, Reported::key),
          Columns.longs(rows, Reported::atS),
          Columns.of(rows, Reported::atN, Integer[]::new),
          Columns.digests(rows, Reported::digest),
          Columns.of(rows, Reported::far, Boolean[]::new),
          facets.values().toArray(Long[]::new));
    }
  }

  @SQL(
      "insert into run_facet select * from unnest(:runs, :jobs, :roles, :datasets, :keys, :seconds,"
          + " :nanos, :digests, :far, :blocks) on conflict do nothing")
  int insertFacets(
      UUID[] runs,
      Long[] jobs,
      Short[] roles,
      Long[] datasets,
      String[] keys,
      Long[] seconds,
      Integer[] nanos,
      byte[][] digests,
      Boolean[] far,
      Long[] blocks);

  /** Adds lineages that are not stored yet, by digest. */
  default void addLineageBodies(Map<String, byte[]> bodies) {
    if (!bodies.isEmpty()) {
      insertLineageBodies(Columns.digests(bodies.keySet()), bodies.values().toArray(byte[][]::new));
    }
  }

  @SQL("insert into shape select * from unnest(:digests, :bodies) on conflict do nothing")
  int insertLineageBodies(byte[][] digests, byte[][] bodies);

  /** Adds which runs reported which lineage, each with the block that says so. */
  default void addLineages(Map<Lineage, Long> lineages) {
    if (!lineages.isEmpty()) {
      insertLineages(
          Columns.of(lineages.keySet(), row -> row.run().run(), UUID[]::new),
          Columns.longs(lineages.keySet(), row -> row.run().job()),
          Columns.digests(lineages.keySet(), Lineage::digest),
          lineages.values().toArray(Long[]::new));
    }
  }

  @SQL(
      "insert into run_shape select * from unnest(:runs, :jobs, :digests, :blocks)"
          + " on conflict do nothing")
  int insertLineages(UUID[] runs, Long[] jobs, byte[][] digests, Long[] blocks);

  /** Adds declarations, each with the block that says so. */
  default void addDeclarations(Map<Declaration, Long> declarations) {
    if (!declarations.isEmpty()) {
      Set<Declaration> rows = declarations.keySet();
      insertDeclarations(
          Columns.of(rows, row -> row.owner().kindCode(), Short[]::new),
          Columns.longs(rows, row -> row.owner().id()),
          Columns.longs(rows, Declaration::atS),
          Columns.of(rows, Declaration::atN, Integer[]::new),
          Columns.digests(rows, Declaration::digest),
          Columns.of(rows, Declaration::far, Boolean[]::new),
          declarations.values().toArray(Long[]::new));
    }
  }

  @SQL(
      "insert into declared select * from unnest(:kinds, :owners, :seconds, :nanos, :digests, :far,"
          + " :blocks) on conflict do nothing")
  int insertDeclarations(
      Short[] kinds,
      Long[] owners,
      Long[] seconds,
      Integer[] nanos,
      byte[][] digests,
      Boolean[] far,
      Long[] blocks);

  // ------------------------------------------------------------------ reading for the applier

  /** The newest value of each facet of these runs, far-future ones left out. */
  @SQL(
      "select distinct on (f.run_id, f.job_id, f.role, f.dataset_id, f.key) f.run_id, f.job_id,"
          + " cast(f.role as int), f.dataset_id, f.key, encode(f.digest, 'hex'), f.at_s, f.at_n"
          + " from run_facet f where f.run_id = any(:runs) and not f.far"
          + " order by f.run_id, f.job_id, f.role, f.dataset_id, f.key,"
          + " f.at_s desc, f.at_n desc, f.digest desc")
  List<Newest> newestFacets(UUID[] runs);

  @SQL(
      "select job_id, run_id, array_agg(encode(digest, 'hex')) from run_shape"
          + " where job_id = any(:jobs) group by 1, 2")
  List<LineagesOfRun> lineages(Long[] jobs);

  @SQL(
      "select distinct on (run_id, job_id) job_id, run_id, encode(digest, 'hex')"
          + " from run_facet where job_id = any(:jobs) and role = 3 and key = 'sql' and not far"
          + " order by run_id, job_id, at_s desc, at_n desc, digest desc")
  List<SqlOfRun> sql(Long[] jobs);

  /** The moments at which owners declared another lineage than before, oldest first. */
  @SQL(
      "select owner_id, at_s, at_n, last_s, last_n, encode(digest, 'hex') from (select owner_id,"
          + " at_s, at_n, digest, lag(digest) over oldest as before,"
          + " first_value(at_s) over newest as last_s, first_value(at_n) over newest as last_n"
          + " from declared where owner_kind = :kind and owner_id = any(:owners) and not far"
          + " window oldest as (partition by owner_id order by at_s, at_n, digest),"
          + " newest as (partition by owner_id order by at_s desc, at_n desc)) stated"
          + " where before is distinct from digest order by owner_id, at_s, at_n, digest")
  List<Declared> declared(short kind, Long[] owners);

  @SQL("select encode(digest, 'hex'), body from shape where digest = any(:digests)")
  List<Body> lineageBodies(byte[][] digests);

  // ------------------------------------------------------------------ reading for answers

  /** The facets of a run, oldest value first. */
  @SQL(
      "select cast(f.role as int), coalesce(d.ref, ''), f.key, b.body from run_facet f"
          + " join facet_body b using (digest) left join dataset d on d.id = f.dataset_id"
          + " where f.run_id = :run order by f.at_s, f.at_n, f.digest")
  List<Shown> facetsOf(UUID run);

  @SQL("select s.body from run_shape r join shape s using (digest) where r.run_id = :run")
  List<byte[]> lineageOf(UUID run);

  /** The lineages that the newest runs of a job reported. */
  @SQL(
      "select distinct on (digest) s.body from run_shape rs join shape s using (digest)"
          + " join (select r.run_id, r.job_id from run r join job j on j.id = r.job_id"
          + " where j.ref = :job order by r.started_at desc limit :runs) newest"
          + " on newest.run_id = rs.run_id and newest.job_id = rs.job_id")
  List<byte[]> newestLineages(String job, int runs);

  /** The lineage that the run reported whose code stands for the job: its newest completed one. */
  @SQL(
      "select s.body from run_shape rs join shape s using (digest) where (rs.run_id, rs.job_id)"
          + " = (select r.run_id, r.job_id from run r join job j on j.id = r.job_id"
          + " where j.ref = any(:jobs) order by r.state = 'completed' desc, r.started_at desc,"
          + " r.run_id limit 1)")
  List<byte[]> lineageOfLastRun(String[] jobs);

  /** The lineage that a job declares; empty if it declares none. */
  @SQL(
      "select s.body from declared d join shape s using (digest) join job j on"
          + " d.owner_kind = 2 and j.id = d.owner_id where j.ref = :job and not d.far"
          + " order by d.at_s desc, d.at_n desc, d.digest desc limit 1")
  List<byte[]> declaredBy(String job);

  /** What runs measured of datasets as they read or wrote them, newest first. */
  @SQL(
      "select cast(f.role as int), f.run_id, f.at_s, f.at_n, b.body from run_facet f"
          + " join facet_body b using (digest) join dataset d on d.id = f.dataset_id"
          + " where d.ref = any(:refs) and f.dataset_id > 0"
          + " and f.key in ('inputStatistics', 'outputStatistics', 'dataQualityMetrics')"
          + " and not f.far order by f.at_s desc, f.at_n desc limit :most")
  List<Measure> measures(String[] refs, int most);

  /** What the emitter of a job's newest run with a gap could not read. */
  @SQL(
      "select b.body from job_map m join job j on m.owner_kind = 2 and j.id = m.owner_id"
          + " join run r on r.job_id = j.id join run_facet f on f.run_id = r.run_id"
          + " and f.job_id = r.job_id and f.key = 'extractionError'"
          + " join facet_body b using (digest)"
          + " where j.ref = :job and m.gap order by r.started_at desc limit 1")
  Optional<byte[]> newestGap(String job);
}
