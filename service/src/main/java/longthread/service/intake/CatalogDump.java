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
              + ", f.ref, l.from_column, t.ref, l.to_column, l.flow, l.masking, l.evidence,"
              + " l.version, l.first_seen, l.last_seen, l.until from link l"
              + " join dataset f on f.id = l.from_dataset join dataset t on t.id = l.to_dataset",
          "select 'version', j.ref, v.number, v.hash, v.first_run, v.last_run, array_to_string(v.changes, '; ') from job_version v"
              + " join job j on j.id = v.job_id",
          "select 'renamed', f.ref, t.ref, r.at_s, r.at_n from renamed r"
              + " join dataset f on f.id = r.from_dataset join dataset t on t.id = r.to_dataset",
          "select 'map', "
              + OWNER
              + ", array_to_string(described, ' '), gap,"
              + " array_to_string(constant_columns, ' '), array_to_string(constant_texts, ' ') from job_map");

  private static final List<String> QUESTIONS_AND_CARDS = new ArrayList<>(QUESTIONS);

  static {
    QUESTIONS_AND_CARDS.add("select 'card', ref, md5(body) from card");
  }

  private static final int SHOWN = 20;

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

  /**
   * The lines that only one of two catalogs has, the first of them, marked with {@code -} or {@code
   * +}; empty if the two are equal. Counted and summed up by the database, so it takes no memory to
   * speak of while they are equal.
   */
  static List<String> differences(JdbcTemplate jdbc, String one, String other) {
    var differences = new ArrayList<String>();
    String path = jdbc.queryForObject("show search_path", String.class);
    for (String question : QUESTIONS_AND_CARDS) {
      jdbc.execute("set local search_path to " + one + ", public");
      List<String> first = jdbc.queryForList(sum(question), String.class);
      jdbc.execute("set local search_path to " + other + ", public");
      List<String> second = jdbc.queryForList(sum(question), String.class);
      if (!first.equals(second)) {
        differ(jdbc, question, one, other, differences);
      }
    }
    jdbc.execute("set local search_path to " + path);
    return differences;
  }

  /** How many rows a question has, and the sum of their hashes. */
  private static String sum(String question) {
    return "select count(*) || ' ' || coalesce(sum(('x' || substr(md5(q::text), 1, 15))::bit(60)"
        + "::bigint), 0) from ("
        + question
        + ") q";
  }

  private static void differ(
      JdbcTemplate jdbc, String question, String one, String other, List<String> into) {
    String[] schemas = {one, other};
    var lines = new ArrayList<java.util.Set<String>>();
    for (String schema : schemas) {
      jdbc.execute("set local search_path to " + schema + ", public");
      lines.add(
          new java.util.TreeSet<>(
              jdbc.queryForList("select q::text from (" + question + ") q", String.class)));
    }
    for (int side = 0; side < 2; side++) {
      java.util.Set<String> theirs = lines.get(1 - side);
      String mark = side == 0 ? "- " : "+ ";
      lines.get(side).stream()
          .filter(line -> !theirs.contains(line))
          .limit(SHOWN)
          .forEach(line -> into.add(mark + line));
    }
  }
}
