package longthread.service.catalog;

import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Timestamp;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import java.util.UUID;
import longthread.service.web.StoredText;
import org.jspecify.annotations.Nullable;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.stereotype.Component;

/** Reads runs and the results of checks. */
@Component
public class RunReader {
  /**
   * A run as it is listed.
   *
   * @param state completed, failed, aborted or running
   * @param seconds how long it took; null while no end is known
   * @param heard when it reported last
   * @param noEnd whether it should have ended by now and never said so; one that goes on reporting,
   *     such as a stream, is alive however old it is
   * @param root the outermost run of its tree, where it named one
   */
  public record RunRow(
      String ref,
      String job,
      @Nullable String pipeline,
      String state,
      Instant start,
      @Nullable Instant end,
      @Nullable Double seconds,
      @Nullable Instant nominal,
      @Nullable Long rowsRead,
      @Nullable Long rowsWritten,
      @Nullable Long bytesWritten,
      @Nullable String error,
      @Nullable String parent,
      boolean hasTasks,
      Instant heard,
      boolean noEnd,
      @Nullable String root) {}

  /**
   * The result of a check.
   *
   * @param status pass, fail or skip
   * @param dataset what it was about; null if it was about no single dataset
   * @param content the check itself, such as its SQL
   */
  public record CheckRow(
      String name,
      @Nullable String column,
      boolean passed,
      String status,
      @Nullable String severity,
      @Nullable String detail,
      @Nullable String expected,
      @Nullable String actual,
      Instant at,
      String job,
      String run,
      @Nullable String dataset,
      @Nullable String content,
      @Nullable String contentType) {}

  private static final String RUN =
      "select r.run_id, j.ref, r.parent_job, r.state, r.started_at, r.ended_at, r.nominal_at,"
          + " r.rows_read, r.rows_written, r.bytes_written, r.error, r.parent_run,"
          + " exists (select from run c where c.parent_run = r.run_id and c.job_id <> r.job_id),"
          + " r.heard_at, case when r.state = 'running' then (select extract(epoch from"
          + " percentile_cont(0.9) within group (order by u.ended_at - u.started_at))::float8 from"
          + " (select ended_at, started_at from run where job_id = r.job_id and state = 'completed'"
          + " order by started_at desc limit 30) u) end, r.root_run"
          + " from run r join job j on j.id = r.job_id";

  private static final Duration OPEN_TOO_LONG = Duration.ofDays(1);
  private static final Duration ALIVE = Duration.ofHours(1);

  private final JdbcTemplate jdbc;
  private final Clock clock;

  RunReader(JdbcTemplate jdbc, Clock clock) {
    this.jdbc = jdbc;
    this.clock = clock;
  }

  /** What runs to list; every part may be null. */
  public record Wanted(
      @Nullable String job,
      @Nullable String pipeline,
      @Nullable String state,
      @Nullable String system,
      @Nullable UUID parent,
      @Nullable Instant before,
      boolean outermost) {}

  /** Returns runs newest first. */
  public List<RunRow> runs(Wanted wanted, int limit) {
    var sql = new StringBuilder(RUN).append(" where true");
    var parameters = new ArrayList<Object>();
    add(sql, parameters, " and j.ref = ?", wanted.job());
    if (wanted.pipeline() != null) {
      sql.append(" and (r.parent_job = ? or j.ref = ?)");
      parameters.add(wanted.pipeline());
      parameters.add(wanted.pipeline());
    }
    add(sql, parameters, " and r.state = ?", wanted.state());
    add(
        sql,
        parameters,
        " and starts_with(j.ref, ?)",
        wanted.system() == null ? null : "@" + wanted.system() + "/");
    add(sql, parameters, " and r.parent_run = ?", wanted.parent());
    if (wanted.before() != null) {
      add(sql, parameters, " and r.started_at <= ?", Timestamp.from(wanted.before()));
    }
    if (wanted.outermost()) {
      sql.append(" and r.parent_run is null");
    }
    sql.append(" order by r.started_at desc, r.run_id desc limit ?");
    parameters.add(limit);
    return jdbc.query(sql.toString(), (row, n) -> run(row), parameters.toArray());
  }

  /** Returns the run with this id, once for each job that reported under it. */
  public List<RunRow> run(UUID id) {
    return jdbc.query(RUN + " where r.run_id = ?", (row, n) -> run(row), id);
  }

  /** Returns the newest runs that wrote any of the datasets. */
  public List<RunRow> runsWriting(List<String> datasets, int limit) {
    return jdbc.query(
        RUN
            + " where r.job_id in (select l.owner_id from link l join dataset d on d.id ="
            + " l.to_dataset where l.owner_kind = 2 and d.ref = any(?))"
            + " order by r.started_at desc, r.run_id desc limit ?",
        (row, n) -> run(row),
        datasets.toArray(String[]::new),
        limit);
  }

  private static void add(
      StringBuilder sql, List<Object> parameters, String condition, @Nullable Object value) {
    if (value != null) {
      sql.append(condition);
      parameters.add(value);
    }
  }

  private RunRow run(ResultSet row) throws SQLException {
    Instant start = row.getTimestamp(5).toInstant();
    Instant end = instant(row.getTimestamp(6));
    UUID parent = row.getObject(12, UUID.class);
    Instant heard = row.getTimestamp(14).toInstant();
    return new RunRow(
        "run:" + row.getObject(1, UUID.class),
        row.getString(2),
        row.getString(3),
        row.getString(4),
        start,
        end,
        end == null ? null : Duration.between(start, end).toMillis() / 1000.0,
        instant(row.getTimestamp(7)),
        row.getObject(8, Long.class),
        row.getObject(9, Long.class),
        row.getObject(10, Long.class),
        row.getString(11),
        parent == null ? null : "run:" + parent,
        row.getBoolean(13),
        heard,
        noEnd(row.getString(4), start, heard, row.getObject(15, Double.class)),
        row.getString(16) == null ? null : "run:" + row.getString(16));
  }

  private boolean noEnd(String state, Instant start, Instant heard, @Nullable Double usualSeconds) {
    Duration patience =
        usualSeconds == null
            ? OPEN_TOO_LONG
            : Duration.ofSeconds((long) (3 * usualSeconds)).plus(ALIVE);
    Instant now = clock.instant();
    return state.equals("running")
        && start.plus(patience).isBefore(now)
        && heard.plus(ALIVE).isBefore(now);
  }

  private static @Nullable Instant instant(@Nullable Timestamp at) {
    return at == null ? null : at.toInstant();
  }

  private static final String CHECK =
      "select c.name, c.column_path, c.status, c.severity, c.detail, c.expected, c.actual, c.at,"
          + " j.ref, c.run_id, d.ref, c.content, c.content_type"
          + " from check_result c left join dataset d on d.id = c.dataset_id"
          + " join job j on j.id = c.job_id";

  /** Returns the results of the checks on any of the datasets, newest first. */
  public List<CheckRow> checks(List<String> datasets, @Nullable Instant before, int limit) {
    return jdbc.query(
        CHECK + " where d.ref = any(?) and c.at <= ? order by c.at desc, c.name limit ?",
        (row, n) -> check(row),
        datasets.toArray(String[]::new),
        Timestamp.from(before == null ? Instant.parse("9999-01-01T00:00:00Z") : before),
        limit);
  }

  /** Returns the results of the checks that a job carried out, newest first. */
  public List<CheckRow> checksOf(String job, int limit) {
    return jdbc.query(
        CHECK + " where j.ref = ? order by c.at desc, c.name limit ?",
        (row, n) -> check(row),
        job,
        limit);
  }

  private static CheckRow check(ResultSet row) throws SQLException {
    String expected = row.getString(6);
    String actual = row.getString(7);
    byte[] content = row.getBytes(12);
    String detail =
        expected == null && actual == null
            ? row.getString(5)
            : "expected "
                + (expected == null ? "nothing said" : expected)
                + ", found "
                + (actual == null ? "nothing said" : actual);
    return new CheckRow(
        row.getString(1),
        row.getString(2).isEmpty() ? null : row.getString(2),
        row.getString(3).equals("pass"),
        row.getString(3),
        row.getString(4),
        detail,
        expected,
        actual,
        Objects.requireNonNull(row.getTimestamp(8)).toInstant(),
        row.getString(9),
        "run:" + row.getObject(10, UUID.class),
        row.getString(11),
        content == null ? null : StoredText.text(content),
        row.getString(13));
  }
}
