package longthread.service.storage.runs;

import java.time.Instant;
import java.util.List;
import java.util.UUID;
import longthread.service.storage.StoredTime;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.SQL;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** How many jobs and datasets did, each read at once for all of them. */
@Repository
@Transactional(readOnly = true)
public interface HealthQueries {
  /** A run of one of the jobs, and the job that started it. */
  record JobRun(
      String job,
      UUID run,
      long startS,
      int startN,
      @Nullable Long endS,
      @Nullable Integer endN,
      String state,
      @Nullable String error,
      @Nullable Long rows,
      @Nullable Instant nominalAt,
      @Nullable String pipeline) {
    public Instant start() {
      return StoredTime.clamped(Instant.ofEpochSecond(startS, startN));
    }

    public @Nullable Instant end() {
      return endS == null
          ? null
          : StoredTime.clamped(Instant.ofEpochSecond(endS, endN == null ? 0 : endN));
    }
  }

  /** What a run measured of a dataset as it read (1) or wrote (2) it; compressed. */
  record Measured(String ref, int role, long atS, int atN, byte[] body) {}

  /** A schema as it was first reported after another, perhaps by a reader; compressed. */
  record Schema(String ref, String key, long atS, int atN, byte[] body) {}

  /** A version of a job and what differs from the one before. */
  record Version(String job, int number, Instant firstRun, String[] changes) {}

  StatelessSession session();

  /** The newest runs of each job that began by a moment, newest first within a job. */
  @SQL(
      "select j.ref, r.run_id, r.start_s, r.start_n,"
          + " coalesce(r.failed_s, r.aborted_s, r.completed_s) as end_s,"
          + " case when r.failed_s is not null then r.failed_n when r.aborted_s is not null"
          + " then r.aborted_n else r.completed_n end as end_n,"
          + " r.state, r.error, r.rows_written, r.nominal_at, r.parent_job"
          + " from job j cross join lateral (select * from run where job_id = j.id"
          + " and started_at <= :until order by started_at desc, run_id desc limit :each) r"
          + " where j.ref = any(:jobs) order by j.ref, r.started_at desc, r.run_id desc")
  List<JobRun> runs(String[] jobs, Instant until, int each);

  /**
   * What runs measured of the columns of datasets up to a moment, newest first: of what they wrote
   * when they said so, of what they read as it was when they began.
   */
  @SQL(
      "select d.ref, cast(f.role as int), case when f.role = 1 then coalesce(r.start_s, f.at_s)"
          + " else f.at_s end as at_s, case when f.role = 1 then coalesce(r.start_n, f.at_n)"
          + " else f.at_n end as at_n, b.body from dataset d cross join lateral"
          + " (select * from run_facet where dataset_id = d.id and dataset_id > 0"
          + " and key = 'dataQualityMetrics'"
          + " and not far and at_s <= :until order by at_s desc, at_n desc limit :each) f"
          + " join facet_body b using (digest)"
          + " left join run r on r.run_id = f.run_id and r.job_id = f.job_id"
          + " where d.ref = any(:datasets)"
          + " order by d.ref, f.at_s desc, f.at_n desc")
  List<Measured> measured(String[] datasets, long until, int each);

  /**
   * Those datasets that ever had more than one schema: few, so they are found by an index alone.
   */
  @SQL(
      "select d.ref from dataset d where d.ref = any(:datasets) and (select count(distinct f.digest)"
          + " from facet f where f.subject_kind = 1 and f.subject_id = d.id"
          + " and f.key in ('schema', 'schema (as read)') and f.at_s <= :until) > 1")
  List<String> withSeveralSchemas(String[] datasets, long until);

  /** The schemas of datasets, where they became others, oldest first. */
  @SQL(
      "select ref, key, at_s, at_n, body from (select d.ref, f.key, f.at_s, f.at_n, f.digest,"
          + " lag(f.digest) over (partition by d.id, f.key order by f.at_s, f.at_n, f.digest)"
          + " as before from facet f join dataset d on f.subject_kind = 1 and d.id = f.subject_id"
          + " where f.key in ('schema', 'schema (as read)') and not f.far and f.at_s <= :until and d.ref = any(:datasets)) changed"
          + " join facet_body b using (digest) where changed.before is distinct from digest"
          + " order by ref, at_s, at_n")
  List<Schema> schemas(String[] datasets, long until);

  /** The versions of jobs but their first, newest first. */
  @SQL(
      "select j.ref, v.number, v.first_run, v.changes from job_version v join job j"
          + " on j.id = v.job_id where j.ref = any(:jobs) and v.first_run <= :until"
          + " and v.first_run > (select min(o.first_run) from job_version o"
          + " where o.job_id = v.job_id) order by j.ref, v.first_run desc")
  List<Version> versions(String[] jobs, Instant until);

  /** Jobs that ran, in the order of their references, from the one after {@code after}. */
  @SQL(
      "select j.ref from job j where j.ref > :after and exists (select 1 from run r"
          + " where r.job_id = j.id) order by j.ref limit :most")
  List<String> jobsAfter(String after, int most);

  /** Datasets of which anything was checked or measured, in the order of their references. */
  @SQL(
      "select d.ref from dataset d where d.ref > :after and (exists (select 1 from check_result c"
          + " where c.dataset_id = d.id) or exists (select 1 from run_facet f"
          + " where f.dataset_id = d.id and f.dataset_id > 0 and f.key = 'dataQualityMetrics'))"
          + " order by d.ref limit :most")
  List<String> datasetsAfter(String after, int most);

  /** What the newest runs of jobs checked or measured. */
  @SQL(
      "select distinct d.ref from job j cross join lateral (select run_id, job_id from run"
          + " where job_id = j.id order by started_at desc limit 3) r cross join lateral"
          + " (select c.dataset_id from check_result c where c.run_id = r.run_id"
          + " and c.job_id = r.job_id union select f.dataset_id from run_facet f"
          + " where f.run_id = r.run_id and f.job_id = r.job_id"
          + " and f.key = 'dataQualityMetrics') of join dataset d on d.id = of.dataset_id"
          + " where j.ref = any(:jobs)")
  List<String> datasetsOf(String[] jobs);
}
