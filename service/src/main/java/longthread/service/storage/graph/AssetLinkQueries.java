package longthread.service.storage.graph;

import java.time.Instant;
import java.util.List;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.SQL;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** What the page of one asset or job shows of its links. */
@Repository
@Transactional
public interface AssetLinkQueries {
  /** How many current links there are by evidence, and when they were seen. */
  record EvidenceCounts(
      long observed,
      long confirmed,
      long derived,
      long declared,
      long recorded,
      @Nullable Instant firstSeen,
      @Nullable Instant lastSeen) {}

  /** A constant that an owner sets a column to; the column is a whole reference. */
  record Constant(String column, String text, String owner) {}

  /** A link by references of its ends. */
  record ColumnPair(
      String from, String fromColumn, String to, String toColumn, String flow, boolean masking) {}

  /** When a link from or to a dataset was seen last. */
  record LastSeen(String ref, Instant at) {}

  /** A job that writes a dataset. */
  record Writer(String dataset, String job) {}

  StatelessSession session();

  /** The evidence of the current links into assets, or of jobs. */
  @SQL(
      "select count(*) filter (where l.evidence in ('observed', 'confirmed')) as observed,"
          + " count(*) filter (where l.evidence = 'confirmed') as confirmed,"
          + " count(*) filter (where l.evidence = 'derived') as derived,"
          + " count(*) filter (where l.evidence = 'declared') as declared,"
          + " count(*) filter (where l.evidence = 'recorded') as recorded,"
          + " min(l.first_seen), max(l.last_seen) from (select l.* from dataset d"
          + " join link l on l.to_dataset = d.id where d.ref = any(:refs) union all"
          + " select l.* from job j join link l on l.owner_kind = 2 and l.owner_id = j.id"
          + " where j.ref = any(:refs)) l where (l.until is null or l.until > now())")
  EvidenceCounts evidence(String[] refs);

  /** The constants that current links' owners set columns of these datasets to. */
  @SQL(
      "select c.col, c.text, coalesce(j.ref, v.ref) as owner from (select distinct l.owner_kind,"
          + " l.owner_id from link l join dataset d on d.id = l.to_dataset"
          + " where d.ref = any(:datasets) and (l.until is null or l.until > now())) o join job_map m using (owner_kind,"
          + " owner_id) cross join lateral unnest(m.constant_columns, m.constant_texts)"
          + " as c(col, text) left join job j on o.owner_kind = 2 and j.id = o.owner_id"
          + " left join dataset v on o.owner_kind = 1 and v.id = o.owner_id"
          + " where split_part(c.col, '#', 1) = any(:datasets) order by 3, 1, 2")
  List<Constant> constants(String[] datasets);

  /** The constants that jobs set columns to, whichever dataset these belong to. */
  @SQL(
      "select c.col, c.text, j.ref from job j join job_map m on m.owner_kind = 2"
          + " and m.owner_id = j.id cross join lateral unnest(m.constant_columns, m.constant_texts)"
          + " as c(col, text) where j.ref = any(:jobs) order by 3, 1, 2")
  List<Constant> constantsSetBy(String[] jobs);

  /** The current links that were read out of a job's SQL. */
  @SQL(
      "select f.ref as source, l.from_column, t.ref as target, l.to_column, l.flow, l.masking"
          + " from link l join job j on l.owner_kind = 2 and j.id = l.owner_id"
          + " join dataset f on f.id = l.from_dataset join dataset t on t.id = l.to_dataset"
          + " where j.ref = :job and (l.until is null or l.until > now()) and l.evidence = 'derived'")
  List<ColumnPair> derivedBy(String job);

  /** The current links into datasets that programs report, not people. */
  @SQL(
      "select distinct f.ref as source, l.from_column, t.ref as target, l.to_column, l.flow,"
          + " l.masking from link l join dataset f on f.id = l.from_dataset"
          + " join dataset t on t.id = l.to_dataset where t.ref = any(:refs)"
          + " and (l.until is null or l.until > now()) and l.evidence <> 'recorded'")
  List<ColumnPair> reportedInto(String[] refs);

  /** The columns that a job reports the sources of. */
  @SQL(
      "select unnest(m.described) from job_map m join job j on m.owner_kind = 2"
          + " and j.id = m.owner_id where j.ref = :job")
  List<String> describedBy(String job);

  /** When links into datasets were seen last. */
  @SQL(
      "select d.ref, max(l.last_seen) from link l join dataset d on d.id = l.to_dataset"
          + " where d.ref = any(:datasets) group by 1")
  List<LastSeen> lastWritten(String[] datasets);

  /** When links from datasets were seen last. */
  @SQL(
      "select d.ref, max(l.last_seen) from link l join dataset d on d.id = l.from_dataset"
          + " where d.ref = any(:datasets) group by 1")
  List<LastSeen> lastRead(String[] datasets);

  @SQL(
      "select distinct d.ref, j.ref as job from link_row l join dataset d on d.id = l.to_dataset"
          + " join job j on l.owner_kind = 2 and j.id = l.owner_id where d.ref = any(:datasets)")
  List<Writer> writers(String[] datasets);
}
