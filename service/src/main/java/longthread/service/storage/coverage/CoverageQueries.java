package longthread.service.storage.coverage;

import java.time.Instant;
import java.time.LocalDate;
import java.util.Collection;
import java.util.List;
import longthread.service.storage.Columns;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.SQL;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** How well systems are covered, over days, and what the reckoning needs of links. */
@Repository
@Transactional
public interface CoverageQueries {
  /** How well a system was covered on a day. */
  record Day(
      LocalDate day,
      String system,
      String workspace,
      int assets,
      int columnLevel,
      int tableLevel,
      int noLineage) {}

  /** By what evidence an owner's current links are known, and when they were seen last. */
  record OwnerEvidence(String owner, String evidence, Instant lastSeen) {}

  /** Since when a reference is known to links. */
  record Since(String ref, Instant at) {}

  StatelessSession session();

  default void put(Collection<Day> days) {
    if (!days.isEmpty()) {
      upsert(
          Columns.of(days, Day::day, LocalDate[]::new),
          Columns.texts(days, Day::system),
          Columns.texts(days, Day::workspace),
          Columns.of(days, Day::assets, Integer[]::new),
          Columns.of(days, Day::columnLevel, Integer[]::new),
          Columns.of(days, Day::tableLevel, Integer[]::new),
          Columns.of(days, Day::noLineage, Integer[]::new));
    }
  }

  @SQL(
      "insert into coverage_day select * from unnest(:days, :systems, :workspaces, :assets,"
          + " :columns, :tables, :none) on conflict (day, system, workspace) do update set"
          + " assets = excluded.assets, column_level = excluded.column_level,"
          + " table_level = excluded.table_level, no_lineage = excluded.no_lineage")
  int upsert(
      LocalDate[] days,
      String[] systems,
      String[] workspaces,
      Integer[] assets,
      Integer[] columns,
      Integer[] tables,
      Integer[] none);

  @SQL(
      "select day, system, workspace, assets, column_level, table_level, no_lineage"
          + " from coverage_day where day >= :since order by day, system, workspace")
  List<Day> since(LocalDate since);

  @SQL(
      "select coalesce(j.ref, d.ref), s.evidence, max(s.last_seen) from link_span s"
          + " left join job j on s.owner_kind = 2 and j.id = s.owner_id"
          + " left join dataset d on s.owner_kind = 1 and d.id = s.owner_id"
          + " where s.until is null or s.until > now() group by 1, 2")
  List<OwnerEvidence> evidence();

  /** The owners whose newest version leaves a part of their lineage unknown. */
  @SQL(
      "select coalesce(j.ref, d.ref) from job_map m"
          + " left join job j on m.owner_kind = 2 and j.id = m.owner_id"
          + " left join dataset d on m.owner_kind = 1 and d.id = m.owner_id where m.gap order by 1")
  List<String> gaps();

  /** Since when links know these datasets. */
  @SQL(
      "select d.ref, min(l.first_seen) from dataset d join link_row l on l.from_dataset = d.id"
          + " or l.to_dataset = d.id where d.ref = any(:refs) group by 1")
  List<Since> knownSince(String[] refs);

  /** The jobs that ran and wrote nothing in their newest run, and since when they run. */
  @SQL(
      "select j.ref, min(r.started_at) from job j join run r on r.job_id = j.id"
          + " where not exists (select from check_result c where c.job_id = j.id)"
          + " and not exists (select from link_row l where l.owner_kind = 2"
          + " and l.owner_id = j.id and l.to_dataset in (select id from dataset"
          + " where ref not like '@%')) and not exists (select from run c"
          + " where c.parent_job = j.ref) group by 1 order by 1")
  List<Since> jobsWithoutOutputs();
}
