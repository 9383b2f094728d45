package longthread.service.intake;

import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import longthread.service.web.StoredText;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.stereotype.Component;

/**
 * The whole catalog as text that is equal for equal catalogs, whatever order their events came in:
 * one fact a line, by reference, in order. Received times, log positions, internal ids and counters
 * are left out.
 */
@Component
public class CatalogDump {
  private static final String OWNER =
      "case when owner_kind = 2 then (select ref from job where id = owner_id)"
          + " else (select ref from dataset where id = owner_id) end";
  private static final List<String> QUESTIONS =
      List.of(
          "select 'facet', coalesce(d.ref, j.ref), f.key, f.at_s, f.at_n, encode(f.digest, 'hex')"
              + " from facet_now f left join dataset d on f.subject_kind = 1 and d.id = f.subject_id"
              + " left join job j on f.subject_kind = 2 and j.id = f.subject_id",
          "select 'facet value', f.subject_kind, coalesce(d.ref, j.ref), f.key, f.at_s, f.at_n,"
              + " encode(f.digest, 'hex'), f.far from facet f"
              + " left join dataset d on f.subject_kind = 1 and d.id = f.subject_id"
              + " left join job j on f.subject_kind = 2 and j.id = f.subject_id",
          "select 'run', r.run_id, j.ref, r.state, r.started_at, r.ended_at, r.parent_run,"
              + " r.parent_job, r.nominal_at, r.error, r.rows_read, r.rows_written,"
              + " r.bytes_written, r.code, r.start_s, r.start_n, r.heard_s, r.heard_n, r.running_s,"
              + " r.running_n, r.completed_s, r.completed_n, r.aborted_s, r.aborted_n, r.failed_s,"
              + " r.failed_n, r.root_run, r.root_job, r.nominal_end"
              + " from run r join job j on j.id = r.job_id",
          "select 'check', c.run_id, j.ref, d.ref, c.name, c.column_path, c.at, c.status,"
              + " c.severity, c.detail, c.expected, c.actual, c.content_type, encode(c.content, 'hex') from check_result c join job j on j.id = c.job_id"
              + ""
              + " left join dataset d on d.id = c.dataset_id",
          "select 'link', "
              + OWNER
              + ", f.ref, l.from_column, t.ref, l.to_column, l.flow, l.masking, l.declared,"
              + " l.version, l.first_seen, l.last_seen, l.until from link l"
              + " join dataset f on f.id = l.from_dataset join dataset t on t.id = l.to_dataset",
          "select 'version', j.ref, v.number, v.hash, v.first_run, v.last_run, array_to_string(v.changes, '; ') from job_version v"
              + " join job j on j.id = v.job_id",
          "select 'renamed', f.ref, t.ref, r.at_s, r.at_n from renamed r"
              + " join dataset f on f.id = r.from_dataset join dataset t on t.id = r.to_dataset",
          "select 'map', " + OWNER + ", array_to_string(described, ' '), gap from job_map");

  private final JdbcTemplate jdbc;

  CatalogDump(JdbcTemplate jdbc) {
    this.jdbc = jdbc;
  }

  /** The dump; takes time and space linear in the catalog. */
  public String text() {
    var lines = new ArrayList<String>();
    for (String question : QUESTIONS) {
      lines.addAll(
          jdbc.query(
              question,
              (row, n) -> {
                var line = new ArrayList<String>();
                for (int i = 1; i <= row.getMetaData().getColumnCount(); i++) {
                  line.add(String.valueOf(row.getString(i)));
                }
                return String.join("\t", line);
              }));
    }
    lines.addAll(
        jdbc.query(
            "select body from card", (row, n) -> "card\t" + StoredText.text(row.getBytes(1))));
    Collections.sort(lines);
    return String.join("\n", lines);
  }
}
