package longthread.service.storage.runs;

import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.SQL;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/**
 * Drops the details of runs that are long over: their counts, errors, checks and facets. That they
 * ran, when, in which version and what they read and wrote stays, since the history of links rests
 * on it.
 */
@Repository
@Transactional
public interface RunRetentionQueries {
  StatelessSession session();

  /**
   * Drops the facets of runs last reported before a time; those stay that say which code ran, as
   * part of what, for which period, and which data they read and wrote.
   */
  @SQL(
      "delete from run_facet f using run r where r.run_id = f.run_id and r.job_id = f.job_id"
          + " and r.heard_s < :before and f.key not in ('sql', 'sourceCode', 'sourceCodeLocation',"
          + " 'parent', 'nominalTime', 'jobType', 'lineage', 'subset', 'outputSubset', 'version',"
          + " 'lifecycleStateChange', 'icebergScanReport', 'icebergCommitReport')")
  int dropFacets(long before);

  @SQL(
      "delete from check_result c using run r where r.run_id = c.run_id and r.job_id = c.job_id"
          + " and r.heard_s < :before")
  int dropChecks(long before);

  /** Clears what was counted of them, as if it had not been reported. */
  @SQL(
      "update run set error = null, rows_read = null, rows_written = null, bytes_written = null"
          + " where heard_s < :before and (error is not null or rows_read is not null"
          + " or rows_written is not null or bytes_written is not null)")
  int dropCounts(long before);

  /**
   * Drops values of facets that nothing has any more. Whoever writes the catalog must be kept away,
   * and made to forget which values it knows.
   */
  @SQL(
      "delete from facet_body b where not exists (select from facet f where f.digest = b.digest)"
          + " and not exists (select from run_facet r where r.digest = b.digest)")
  int dropUnusedValues();
}
