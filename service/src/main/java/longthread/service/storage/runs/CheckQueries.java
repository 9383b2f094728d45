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

/** The results of checks. */
@Repository
@Transactional
public interface CheckQueries {
  /** What names a result: at most one is stored for each. */
  record Key(RunKey run, long dataset, String name, String column) {}

  /** A result as the applier writes it; the content is compressed. */
  record Row(
      Key key,
      Instant at,
      String status,
      @Nullable String severity,
      @Nullable String detail,
      @Nullable String expected,
      @Nullable String actual,
      byte @Nullable [] content,
      @Nullable String contentType) {}

  /** A result as it is stored; the dataset is null where it is about no single one. */
  record Stored(
      String name,
      String column,
      String status,
      @Nullable String severity,
      @Nullable String detail,
      @Nullable String expected,
      @Nullable String actual,
      Instant at,
      String job,
      UUID run,
      @Nullable String dataset,
      byte @Nullable [] content,
      @Nullable String contentType) {}

  /** How many checks of a dataset there are, and how many of them failed last. */
  record Summary(String ref, long checks, long failed) {}

  StatelessSession session();

  /** Removes the results of runs, which report them anew. */
  default void deleteOf(Collection<RunKey> runs) {
    if (!runs.isEmpty()) {
      delete(Columns.of(runs, RunKey::run, UUID[]::new), Columns.longs(runs, RunKey::job));
    }
  }

  @SQL("delete from check_result where (run_id, job_id) in (select * from unnest(:runs, :jobs))")
  int delete(UUID[] runs, Long[] jobs);

  default void add(Collection<Row> results) {
    if (!results.isEmpty()) {
      insert(
          Columns.of(results, row -> row.key().run().run(), UUID[]::new),
          Columns.longs(results, row -> row.key().run().job()),
          Columns.longs(results, row -> row.key().dataset()),
          Columns.texts(results, row -> row.key().name()),
          Columns.texts(results, row -> row.key().column()),
          Columns.of(results, Row::at, Instant[]::new),
          Columns.texts(results, Row::status),
          Columns.texts(results, Row::severity),
          Columns.texts(results, Row::detail),
          Columns.texts(results, Row::expected),
          Columns.texts(results, Row::actual),
          Columns.of(results, Row::content, byte[][]::new),
          Columns.texts(results, Row::contentType));
    }
  }

  @SQL(
      "insert into check_result (run_id, job_id, dataset_id, name, column_path, at, status,"
          + " severity, detail, expected, actual, content, content_type)"
          + " select * from unnest(:runs, :jobs, :datasets, :names, :columns, :times, :statuses,"
          + " :severities, :details, :expected, :actual, :contents, :contentTypes)")
  int insert(
      UUID[] runs,
      Long[] jobs,
      Long[] datasets,
      String[] names,
      String[] columns,
      Instant[] times,
      String[] statuses,
      String[] severities,
      String[] details,
      String[] expected,
      String[] actual,
      byte[][] contents,
      String[] contentTypes);

  /** The results on any of the datasets up to a moment, newest first. */
  @SQL(
      "select c.name, c.column_path, c.status, c.severity, c.detail, c.expected, c.actual, c.at,"
          + " j.ref as job, c.run_id, d.ref, c.content, c.content_type"
          + " from check_result c left join dataset d on d.id = c.dataset_id"
          + " join job j on j.id = c.job_id"
          + " where d.ref = any(:datasets) and c.at <= :until order by c.at desc, c.name limit :most")
  List<Stored> onDatasets(String[] datasets, Instant until, int most);

  /** The newest result of every check of datasets, counted. */
  @SQL(
      "select ref, count(*), count(*) filter (where status = 'fail') from (select distinct on"
          + " (d.ref, c.name, c.column_path) d.ref, c.status from check_result c"
          + " join dataset d on d.id = c.dataset_id where d.ref = any(:datasets)"
          + " order by d.ref, c.name, c.column_path, c.at desc) latest group by ref")
  List<Summary> summaries(String[] datasets);

  /** The results that a job reported, newest first. */
  @SQL(
      "select c.name, c.column_path, c.status, c.severity, c.detail, c.expected, c.actual, c.at,"
          + " j.ref as job, c.run_id, d.ref, c.content, c.content_type"
          + " from check_result c left join dataset d on d.id = c.dataset_id"
          + " join job j on j.id = c.job_id"
          + " where j.ref = :job order by c.at desc, c.name limit :most")
  List<Stored> ofJob(String job, int most);
}
