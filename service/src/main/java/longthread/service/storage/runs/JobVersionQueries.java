package longthread.service.storage.runs;

import java.time.Instant;
import java.util.Collection;
import java.util.List;
import longthread.service.storage.Columns;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.SQL;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** The versions of jobs. */
@Repository
@Transactional
public interface JobVersionQueries {
  /** A version as the applier writes it. */
  record Row(
      long job, int number, String hash, Instant firstRun, Instant lastRun, List<String> changes) {}

  /** A version as it is stored. */
  record Stored(int number, String hash, Instant firstRun, Instant lastRun, String[] changes) {}

  /** A version as the applier compares it. */
  record Held(
      long job, int number, String hash, Instant firstRun, Instant lastRun, String[] changes) {}

  StatelessSession session();

  /** The versions of jobs. */
  @SQL(
      "select job_id, number, hash, first_run, last_run, changes from job_version"
          + " where job_id = any(:jobs)")
  List<Held> held(Long[] jobs);

  default void put(Collection<Row> versions) {
    if (!versions.isEmpty()) {
      upsert(
          Columns.longs(versions, Row::job),
          Columns.of(versions, Row::number, Integer[]::new),
          Columns.texts(versions, Row::hash),
          Columns.of(versions, Row::firstRun, Instant[]::new),
          Columns.of(versions, Row::lastRun, Instant[]::new),
          Columns.texts(versions, row -> Columns.joined(row.changes())));
    }
  }

  @SQL(
      "insert into job_version (job_id, number, hash, first_run, last_run, changes)"
          + " select v.job, v.number, v.hash, v.first, v.last, string_to_array(v.changes, chr(31))"
          + " from unnest(:jobs, :numbers, :hashes, :firsts, :lasts, :changes)"
          + " as v (job, number, hash, first, last, changes) on conflict (job_id, hash) do update"
          + " set number = excluded.number, first_run = excluded.first_run,"
          + " last_run = excluded.last_run, changes = excluded.changes")
  int upsert(
      Long[] jobs,
      Integer[] numbers,
      String[] hashes,
      Instant[] firsts,
      Instant[] lasts,
      String[] changes);

  @SQL("delete from job_version where job_id = any(:jobs)")
  int deleteOf(Long[] jobs);

  /** The number of a version by its job and hash. */
  record Numbered(String job, String hash, int number) {}

  /** The versions of all these jobs. */
  @SQL(
      "select j.ref, v.hash, v.number from job_version v join job j on j.id = v.job_id"
          + " where j.ref = any(:jobs)")
  List<Numbered> ofAll(String[] jobs);

  /** The versions of a job, the newest first. */
  @SQL(
      "select v.number, v.hash, v.first_run, v.last_run, v.changes from job_version v"
          + " join job j on j.id = v.job_id where j.ref = :job order by v.first_run desc")
  List<Stored> of(String job);
}
