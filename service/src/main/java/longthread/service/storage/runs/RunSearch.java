package longthread.service.storage.runs;

import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import longthread.core.asset.Reference;
import longthread.service.storage.StoredTime;
import org.hibernate.StatelessSession;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/**
 * Lists runs by conditions that are put together at run time: a condition that is not asked for
 * must not be in the statement, or the database would plan without it.
 */
@Repository
@Transactional(readOnly = true)
public class RunSearch {
  /**
   * A run as it is listed.
   *
   * @param hasTasks whether it started runs of other jobs
   * @param usualSeconds how long nine of ten completed runs of the job take at the most; null for a
   *     run that is not running, and while none is completed
   */
  public record Listed(
      UUID run,
      String job,
      @Nullable String parentJob,
      String state,
      Instant startedAt,
      @Nullable Instant endedAt,
      @Nullable Instant nominalAt,
      @Nullable Long rowsRead,
      @Nullable Long rowsWritten,
      @Nullable Long bytesWritten,
      @Nullable String error,
      @Nullable UUID parentRun,
      boolean hasTasks,
      Instant lastReportedAt,
      @Nullable Double usualSeconds,
      @Nullable UUID rootRun,
      long startS,
      int startN,
      @Nullable Long endS,
      @Nullable Integer endN) {
    /** When it started, to the nanosecond; the tables sort by microseconds. */
    public Instant start() {
      return StoredTime.clamped(Instant.ofEpochSecond(startS, startN));
    }

    /** When it ended, to the nanosecond; null while it did not. */
    public @Nullable Instant end() {
      return endS == null
          ? null
          : StoredTime.clamped(Instant.ofEpochSecond(endS, endN == null ? 0 : endN));
    }
  }

  /** What runs to list; every part may be null. */
  public record Filter(
      @Nullable String job,
      @Nullable String pipeline,
      @Nullable String state,
      @Nullable String system,
      @Nullable UUID parent,
      @Nullable Instant before,
      boolean outermost) {
    /** All runs of a job. */
    public static Filter ofJob(String job) {
      return new Filter(job, null, null, null, null, null, false);
    }

    /** All runs that a run started. */
    public static Filter startedBy(UUID run) {
      return new Filter(null, null, null, null, run, null, false);
    }

    /** The runs of a job that started before a moment, or at it. */
    public static Filter ofJobBefore(String job, Instant moment) {
      return new Filter(job, null, null, null, null, moment, false);
    }
  }

  private static final String LISTED =
      "select r.run_id, j.ref, r.parent_job, r.state, r.started_at, r.ended_at, r.nominal_at,"
          + " r.rows_read, r.rows_written, r.bytes_written, r.error, r.parent_run,"
          + " exists (select from run c where c.parent_run = r.run_id and c.job_id <> r.job_id),"
          + " r.heard_at, case when r.state = 'running' then (select cast(extract(epoch from"
          + " percentile_cont(0.9) within group (order by u.ended_at - u.started_at)) as float8)"
          + " from (select ended_at, started_at from run where job_id = r.job_id"
          + " and state = 'completed' order by started_at desc limit 30) u) end, r.root_run,"
          + " r.start_s, r.start_n, coalesce(r.failed_s, r.aborted_s, r.completed_s) as end_s,"
          + " case when r.failed_s is not null then r.failed_n when r.aborted_s is not null"
          + " then r.aborted_n else r.completed_n end as end_n"
          + " from run r join job j on j.id = r.job_id";

  private static final String NEWEST_FIRST =
      " order by r.started_at desc, r.run_id desc limit :most";

  /** A run of a job, before anything else of it is read. */
  public record Key(UUID run, long job) {
    /** The runs of keys. */
    public static UUID[] runs(List<Key> keys) {
      return keys.stream().map(Key::run).toArray(UUID[]::new);
    }

    /** The jobs of keys. */
    public static Long[] jobs(List<Key> keys) {
      return keys.stream().map(Key::job).toArray(Long[]::new);
    }
  }

  private final StatelessSession session;

  RunSearch(StatelessSession session) {
    this.session = session;
  }

  /** Returns the runs that pass the filter, newest first. */
  public List<Listed> newest(Filter filter, int most) {
    var parameters = new LinkedHashMap<String, Object>();
    String keys = keysSql(filter, most, parameters);
    return list(
        LISTED
            + " join ("
            + keys
            + ") k on k.run_id = r.run_id and k.job_id = r.job_id"
            + " order by r.started_at desc, r.run_id desc",
        parameters);
  }

  /** Returns what is known of runs, in the order of their keys; each is a run and a job. */
  public List<Listed> listed(UUID[] runs, Long[] jobs) {
    return list(
        LISTED
            + " join unnest(:runs, :jobs) with ordinality as k (run, job, place)"
            + " on k.run = r.run_id and k.job = r.job_id order by k.place",
        Map.of("runs", runs, "jobs", jobs));
  }

  /** Returns which runs pass the filter, newest first. */
  public List<Key> keys(Filter filter, int most) {
    var parameters = new LinkedHashMap<String, Object>();
    var query = session.createNativeQuery(keysSql(filter, most, parameters), Key.class);
    parameters.forEach(query::setParameter);
    return query.getResultList();
  }

  private static String keysSql(Filter filter, int most, Map<String, Object> parameters) {
    var sql = new StringBuilder("select r.run_id, r.job_id from run r where true");
    add(
        sql,
        parameters,
        " and r.job_id = (select id from job where ref = :job)",
        "job",
        filter.job());
    add(
        sql,
        parameters,
        " and (r.parent_job = :pipeline or r.job_id = (select id from job where ref = :pipeline))",
        "pipeline",
        filter.pipeline());
    add(sql, parameters, " and r.state = :state", "state", filter.state());
    String prefix =
        filter.system() == null
            ? null
            : Reference.JOB_PREFIX + Reference.encode(filter.system(), "");
    add(
        sql,
        parameters,
        " and exists (select from job j where j.id = r.job_id and starts_with(j.ref, :prefix))",
        "prefix",
        prefix);
    add(sql, parameters, " and r.parent_run = :parent", "parent", filter.parent());
    add(sql, parameters, " and r.started_at <= :before", "before", filter.before());
    if (filter.outermost()) {
      // One whose parent was only named is the outermost that is known.
      sql.append(
          " and (r.parent_run is null or not exists (select from run p"
              + " where p.run_id = r.parent_run and p.run_id <> r.run_id))");
    }
    parameters.put("most", most);
    return sql.append(NEWEST_FIRST).toString();
  }

  /** Returns the run with this id, once for each job that reported under it. */
  public List<Listed> run(UUID id) {
    return list(LISTED + " where r.run_id = :run", Map.of("run", id));
  }

  /** Returns the newest runs that wrote any of the datasets. */
  public List<Listed> writing(String[] datasets, int most) {
    return list(
        LISTED
            + " where r.job_id in (select l.owner_id from link l join dataset d on d.id ="
            + " l.to_dataset where l.owner_kind = 2 and d.ref = any(:datasets))"
            + NEWEST_FIRST,
        Map.of("datasets", datasets, "most", most));
  }

  private static void add(
      StringBuilder sql,
      Map<String, Object> parameters,
      String condition,
      String name,
      @Nullable Object value) {
    if (value != null) {
      sql.append(condition);
      parameters.put(name, value);
    }
  }

  private List<Listed> list(String sql, Map<String, Object> parameters) {
    var query = session.createNativeQuery(sql, Listed.class);
    parameters.forEach(query::setParameter);
    return query.getResultList();
  }
}
