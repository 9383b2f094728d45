package longthread.service.storage.runs;

import java.time.Instant;
import java.util.List;
import java.util.UUID;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.SQL;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** Runs by what they may have read or written, with what says so. */
@Repository
@Transactional(readOnly = true)
public interface ExactQueries {
  /** A run, before it is known what it read and wrote. */
  record Row(
      UUID run,
      long job,
      String ref,
      long startS,
      int startN,
      @Nullable Long endS,
      @Nullable Integer endN,
      String state,
      @Nullable String code) {
    public Instant start() {
      return Instant.ofEpochSecond(startS, startN);
    }

    /** When it ended; null if no event said so. */
    public @Nullable Instant end() {
      return endS == null ? null : Instant.ofEpochSecond(endS, endN == null ? 0 : endN);
    }
  }

  /** A lineage that a run reported, by the digest of its text. */
  record Shape(UUID run, long job, String digest) {}

  /** The newest value of a facet of a run, by its digest. */
  record RunValue(UUID run, long job, int role, String dataset, String key, String digest) {}

  StatelessSession session();

  String COLUMNS =
      "r.run_id, r.job_id, j.ref, r.start_s, r.start_n,"
          + " coalesce(r.failed_s, r.aborted_s, r.completed_s),"
          + " case when r.failed_s is not null then r.failed_n when r.aborted_s is not null"
          + " then r.aborted_n else r.completed_n end, r.state, r.code";

  String ROW = "select " + COLUMNS + " from run r join job j on j.id = r.job_id";

  /**
   * The runs of the jobs whose links, at any time, led to datasets: those that have not ended
   * first, then those that ended last.
   */
  @SQL(
      ROW
          + " where r.job_id in (select l.owner_id from link_row l join dataset d"
          + " on d.id = l.to_dataset where l.owner_kind = 2 and d.ref = any(:datasets))"
          + " order by r.ended_at desc nulls first, r.run_id, r.job_id offset :skipped limit :most")
  List<Row> mayHaveWritten(String[] datasets, int skipped, int most);

  /** A run that may have written one of several assets, with the number of that. */
  record Written(
      int asset,
      UUID run,
      long job,
      String ref,
      long startS,
      int startN,
      @Nullable Long endS,
      @Nullable Integer endN,
      String state,
      @Nullable String code) {
    public Row row() {
      return new Row(run, job, ref, startS, startN, endS, endN, state, code);
    }
  }

  /**
   * For each of some assets what {@link #mayHaveWritten} begins with, in its order.
   *
   * @param assets a number for each dataset, of the asset that it is a part of
   */
  @SQL(
      "with part as (select * from unnest(:assets, :datasets) as p (asset, ref)),"
          + " owner as (select distinct p.asset, l.owner_id from part p join dataset d"
          + " on d.ref = p.ref join link_row l on l.to_dataset = d.id and l.owner_kind = 2)"
          + " select a.asset, "
          + COLUMNS
          + " from (select distinct asset from owner) a cross join lateral"
          + " (select * from run where job_id in"
          + " (select o.owner_id from owner o where o.asset = a.asset)"
          + " order by ended_at desc nulls first, run_id, job_id limit :most) r"
          + " join job j on j.id = r.job_id"
          + " order by a.asset, r.ended_at desc nulls first, r.run_id, r.job_id")
  List<Written> mayHaveWrittenEach(Integer[] assets, String[] datasets, int most);

  /**
   * The oldest runs of the jobs whose links, at any time, led from datasets, of those that ended at
   * a moment, later, or not yet.
   */
  @SQL(
      ROW
          + " where r.job_id in (select l.owner_id from link_row l join dataset d"
          + " on d.id = l.from_dataset where l.owner_kind = 2 and d.ref = any(:datasets))"
          + " and (r.ended_at is null or r.ended_at >= :since)"
          + " order by r.started_at, r.run_id limit :most")
  List<Row> mayHaveRead(String[] datasets, Instant since, int most);

  /** The run with an id, once for each job that reported under it. */
  @SQL(ROW + " where r.run_id = :run")
  List<Row> run(UUID run);

  /** Of each of these jobs the run that started last by a moment. */
  @SQL(
      "select "
          + COLUMNS
          + " from job j cross join lateral (select * from run where job_id = j.id"
          + " and started_at <= :until order by started_at desc, run_id desc limit 1) r"
          + " where j.ref = any(:jobs)")
  List<Row> newest(String[] jobs, Instant until);

  /** Those of these jobs of which any run is known. */
  @SQL(
      "select j.ref from job j where j.ref = any(:jobs) and exists (select from run r where r.job_id = j.id)")
  List<String> withRuns(String[] jobs);

  @SQL("select run_id, job_id, encode(digest, 'hex') from run_shape where run_id = any(:runs)")
  List<Shape> shapes(UUID[] runs);

  /** The newest values of facets of runs; the dataset is empty where there is none. */
  @SQL(
      "select distinct on (f.run_id, f.job_id, f.role, f.dataset_id, f.key) f.run_id, f.job_id,"
          + " cast(f.role as int), coalesce(d.ref, ''), f.key, encode(f.digest, 'hex')"
          + " from run_facet f left join dataset d on d.id = f.dataset_id"
          + " where f.run_id = any(:runs) and f.key = any(:keys) and not f.far"
          + " order by f.run_id, f.job_id, f.role, f.dataset_id, f.key,"
          + " f.at_s desc, f.at_n desc, f.digest desc")
  List<RunValue> values(UUID[] runs, String[] keys);

  /** The blocks of the log that reported anything of runs. */
  @SQL(
      "select distinct block from (select block from run where run_id = any(:runs)"
          + " union all select last_block from run where run_id = any(:runs)"
          + " union all select block from run_shape where run_id = any(:runs)"
          + " union all select block from run_facet where run_id = any(:runs)) reported"
          + " where block > 0 order by block")
  List<Long> blocksOf(UUID[] runs);
}
