package longthread.service.storage.rebuild;

/**
 * What makes up a catalog, table by table, by reference and without internal ids, log positions and
 * counters: two catalogs are equal when all of these give the same rows.
 */
public enum CatalogQuery {
  CURRENT_FACETS(
      "select 'facet', coalesce(d.ref, j.ref), f.key, f.at_s, f.at_n, encode(f.digest, 'hex')"
          + " from facet_now f left join dataset d on f.subject_kind = 1 and d.id = f.subject_id"
          + " left join job j on f.subject_kind = 2 and j.id = f.subject_id"),
  FACETS(
      "select 'facet value', f.subject_kind, coalesce(d.ref, j.ref), f.key, f.at_s, f.at_n,"
          + " encode(f.digest, 'hex'), f.far from facet f"
          + " left join dataset d on f.subject_kind = 1 and d.id = f.subject_id"
          + " left join job j on f.subject_kind = 2 and j.id = f.subject_id"),
  RUNS(
      "select 'run', r.run_id, j.ref, r.state, r.started_at, r.ended_at, r.parent_run,"
          + " r.parent_job, r.nominal_at, r.error, r.rows_read, r.rows_written,"
          + " r.bytes_written, r.code, r.start_s, r.start_n, r.heard_s, r.heard_n, r.begun_s, r.begun_n, r.running_s,"
          + " r.running_n, r.completed_s, r.completed_n, r.aborted_s, r.aborted_n, r.failed_s,"
          + " r.failed_n, r.root_run, r.root_job, r.nominal_end"
          + " from run r join job j on j.id = r.job_id"),
  CHECKS(
      "select 'check', c.run_id, j.ref, d.ref, c.name, c.column_path, c.at, c.status,"
          + " c.severity, c.detail, c.expected, c.actual, c.content_type,"
          + " encode(c.content, 'hex') from check_result c join job j on j.id = c.job_id"
          + " left join dataset d on d.id = c.dataset_id"),
  LINKS(
      "select 'link', "
          + Sql.OWNER
          + ", f.ref, l.from_column, t.ref, l.to_column, l.flow, l.masking, l.evidence,"
          + " l.version, l.first_seen, l.last_seen, l.until from link l"
          + " join dataset f on f.id = l.from_dataset join dataset t on t.id = l.to_dataset"),
  VERSIONS(
      "select 'version', j.ref, v.number, v.hash, v.first_run, v.last_run,"
          + " array_to_string(v.changes, '; ') from job_version v join job j on j.id = v.job_id"),
  RENAMES(
      "select 'renamed', f.ref, t.ref, r.at_s, r.at_n from renamed r"
          + " join dataset f on f.id = r.from_dataset join dataset t on t.id = r.to_dataset"),
  MAPS(
      "select 'map', "
          + Sql.OWNER
          + ", array_to_string(described, ' '), gap,"
          + " array_to_string(constant_columns, ' '), array_to_string(constant_texts, ' ')"
          + " from job_map"),
  CARDS("select 'card', ref, md5(body) from card");

  private final String sql;

  CatalogQuery(String sql) {
    this.sql = sql;
  }

  String sql() {
    return sql;
  }

  private static final class Sql {
    private static final String OWNER =
        "case when owner_kind = 2 then (select ref from job where id = owner_id)"
            + " else (select ref from dataset where id = owner_id) end";
  }
}
