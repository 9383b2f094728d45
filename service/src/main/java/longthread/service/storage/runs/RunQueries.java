package longthread.service.storage.runs;

import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.UUID;
import longthread.service.storage.Columns;
import longthread.service.storage.facts.RunKey;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.SQL;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** Runs as the applier keeps them; {@link RunSearch} lists them for answers. */
@Repository
@Transactional
public interface RunQueries {
  /** A run as the applier writes it. */
  record Row(
      RunKey key,
      String state,
      Instant startedAt,
      @Nullable Instant endedAt,
      @Nullable UUID parentRun,
      @Nullable String parentJob,
      @Nullable UUID rootRun,
      @Nullable String rootJob,
      @Nullable Instant nominalAt,
      @Nullable Instant nominalEnd,
      @Nullable String error,
      @Nullable Long rowsRead,
      @Nullable Long rowsWritten,
      @Nullable Long bytesWritten,
      @Nullable String code,
      Instant lastReportedAt,
      Times times) {}

  /** The times that the events of a run report, and the oldest and newest block that report any. */
  record Times(
      @Nullable Instant start,
      @Nullable Instant lastReported,
      @Nullable Instant begun,
      @Nullable Instant running,
      @Nullable Instant completed,
      @Nullable Instant aborted,
      @Nullable Instant failed,
      long block,
      long lastBlock) {}

  /** The times of a run as the tables hold them. */
  record StoredTimes(
      UUID run,
      long job,
      long startS,
      int startN,
      long reportedS,
      int reportedN,
      @Nullable Long begunS,
      @Nullable Integer begunN,
      @Nullable Long runningS,
      @Nullable Integer runningN,
      @Nullable Long completedS,
      @Nullable Integer completedN,
      @Nullable Long abortedS,
      @Nullable Integer abortedN,
      @Nullable Long failedS,
      @Nullable Integer failedN,
      long block,
      long lastBlock) {
    public RunKey key() {
      return new RunKey(run, job);
    }

    public Times times() {
      return new Times(
          Instant.ofEpochSecond(startS, startN),
          Instant.ofEpochSecond(reportedS, reportedN),
          instant(begunS, begunN),
          instant(runningS, runningN),
          instant(completedS, completedN),
          instant(abortedS, abortedN),
          instant(failedS, failedN),
          block,
          lastBlock);
    }

    private static @Nullable Instant instant(@Nullable Long second, @Nullable Integer nano) {
      return second == null ? null : Instant.ofEpochSecond(second, nano == null ? 0 : nano);
    }
  }

  /** A run as far as the history of its job needs it. */
  record Outline(
      long job,
      UUID run,
      long startS,
      int startN,
      @Nullable String code,
      String state,
      boolean reportedRunning,
      @Nullable UUID parent) {}

  /** The newest run of a job; when one completed last, and how many rows that wrote. */
  record NewestRun(
      String job,
      String state,
      Instant startedAt,
      @Nullable Instant endedAt,
      @Nullable String error,
      @Nullable Instant completedAt,
      @Nullable Long rowsWritten) {}

  StatelessSession session();

  /** Writes runs in the place of what was stored of them. */
  default void put(Collection<Row> runs) {
    if (runs.isEmpty()) {
      return;
    }
    upsert(
        Columns.of(runs, row -> row.key().run(), UUID[]::new),
        Columns.longs(runs, row -> row.key().job()),
        Columns.texts(runs, Row::state),
        Columns.of(runs, Row::startedAt, Instant[]::new),
        Columns.of(runs, Row::endedAt, Instant[]::new),
        Columns.of(runs, Row::parentRun, UUID[]::new),
        Columns.texts(runs, Row::parentJob),
        Columns.of(runs, Row::nominalAt, Instant[]::new),
        Columns.texts(runs, Row::error),
        Columns.longs(runs, Row::rowsRead),
        Columns.longs(runs, Row::rowsWritten),
        Columns.longs(runs, Row::bytesWritten),
        Columns.texts(runs, Row::code),
        seconds(runs, row -> row.times().start()),
        nanos(runs, row -> row.times().start()),
        seconds(runs, row -> row.times().lastReported()),
        nanos(runs, row -> row.times().lastReported()),
        seconds(runs, row -> row.times().begun()),
        nanos(runs, row -> row.times().begun()),
        seconds(runs, row -> row.times().running()),
        nanos(runs, row -> row.times().running()),
        seconds(runs, row -> row.times().completed()),
        nanos(runs, row -> row.times().completed()),
        seconds(runs, row -> row.times().aborted()),
        nanos(runs, row -> row.times().aborted()),
        seconds(runs, row -> row.times().failed()),
        nanos(runs, row -> row.times().failed()),
        Columns.longs(runs, row -> row.times().block()),
        Columns.longs(runs, row -> row.times().lastBlock()),
        Columns.of(runs, Row::lastReportedAt, Instant[]::new),
        Columns.of(runs, Row::rootRun, UUID[]::new),
        Columns.texts(runs, Row::rootJob),
        Columns.of(runs, Row::nominalEnd, Instant[]::new));
  }

  private static Long[] seconds(
      Collection<Row> runs, java.util.function.Function<Row, @Nullable Instant> time) {
    return Columns.longs(
        runs,
        row -> {
          Instant at = time.apply(row);
          return at == null ? null : at.getEpochSecond();
        });
  }

  private static Integer[] nanos(
      Collection<Row> runs, java.util.function.Function<Row, @Nullable Instant> time) {
    return Columns.of(
        runs,
        row -> {
          Instant at = time.apply(row);
          return at == null ? null : at.getNano();
        },
        Integer[]::new);
  }

  @SQL(
      "insert into run (run_id, job_id, state, started_at, ended_at, parent_run, parent_job,"
          + " nominal_at, error, rows_read, rows_written, bytes_written, code, start_s, start_n,"
          + " heard_s, heard_n, begun_s, begun_n, running_s, running_n, completed_s, completed_n,"
          + " aborted_s, aborted_n, failed_s, failed_n, block, last_block, heard_at,"
          + " root_run, root_job, nominal_end)"
          + " select * from unnest(:runs, :jobs, :states, :starts, :ends, :parentRuns, :parentJobs,"
          + " :nominalStarts, :errors, :rowsRead, :rowsWritten, :bytesWritten, :codes, :startS,"
          + " :startN, :reportedS, :reportedN, :begunS, :begunN, :runningS, :runningN, :completedS, :completedN,"
          + " :abortedS, :abortedN, :failedS, :failedN, :blocks, :lastBlocks, :reports, :rootRuns, :rootJobs,"
          + " :nominalEnds) on conflict (run_id, job_id) do update set state = excluded.state,"
          + " started_at = excluded.started_at, ended_at = excluded.ended_at,"
          + " parent_run = excluded.parent_run, parent_job = excluded.parent_job,"
          + " nominal_at = excluded.nominal_at, error = excluded.error,"
          + " rows_read = excluded.rows_read, rows_written = excluded.rows_written,"
          + " bytes_written = excluded.bytes_written, code = excluded.code,"
          + " start_s = excluded.start_s, start_n = excluded.start_n,"
          + " heard_s = excluded.heard_s, heard_n = excluded.heard_n,"
          + " begun_s = excluded.begun_s, begun_n = excluded.begun_n,"
          + " running_s = excluded.running_s, running_n = excluded.running_n,"
          + " completed_s = excluded.completed_s, completed_n = excluded.completed_n,"
          + " aborted_s = excluded.aborted_s, aborted_n = excluded.aborted_n,"
          + " failed_s = excluded.failed_s, failed_n = excluded.failed_n, block = excluded.block,"
          + " last_block = excluded.last_block,"
          + " heard_at = excluded.heard_at, root_run = excluded.root_run,"
          + " root_job = excluded.root_job, nominal_end = excluded.nominal_end")
  int upsert(
      UUID[] runs,
      Long[] jobs,
      String[] states,
      Instant[] starts,
      Instant[] ends,
      UUID[] parentRuns,
      String[] parentJobs,
      Instant[] nominalStarts,
      String[] errors,
      Long[] rowsRead,
      Long[] rowsWritten,
      Long[] bytesWritten,
      String[] codes,
      Long[] startS,
      Integer[] startN,
      Long[] reportedS,
      Integer[] reportedN,
      Long[] begunS,
      Integer[] begunN,
      Long[] runningS,
      Integer[] runningN,
      Long[] completedS,
      Integer[] completedN,
      Long[] abortedS,
      Integer[] abortedN,
      Long[] failedS,
      Integer[] failedN,
      Long[] blocks,
      Long[] lastBlocks,
      Instant[] reports,
      UUID[] rootRuns,
      String[] rootJobs,
      Instant[] nominalEnds);

  @SQL(
      "select run_id, job_id, start_s, start_n, heard_s, heard_n, begun_s, begun_n, running_s,"
          + " running_n,"
          + " completed_s, completed_n, aborted_s, aborted_n, failed_s, failed_n, block,"
          + " last_block from run where run_id = any(:runs)")
  List<StoredTimes> times(UUID[] runs);

  @SQL(
      "select job_id, run_id, start_s, start_n, code, state, running_s is not null, parent_run"
          + " from run where job_id = any(:jobs)")
  List<Outline> outlines(Long[] jobs);

  /** Those of these jobs that started others. */
  @SQL("select distinct parent_job from run where parent_job = any(:jobs)")
  List<String> parentsAmong(String[] jobs);

  @SQL(
      "select distinct on (j.ref) j.ref, r.state, r.started_at, r.ended_at, r.error,"
          + " max(r.ended_at) filter (where r.state = 'completed') over (partition by j.ref),"
          + " first_value(r.rows_written) over (partition by j.ref"
          + " order by r.state = 'completed' desc, r.started_at desc)"
          + " from run r join job j on j.id = r.job_id"
          + " where j.ref = any(:jobs) order by j.ref, r.started_at desc")
  List<NewestRun> newestRuns(String[] jobs);
}
