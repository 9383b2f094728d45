package longthread.service.storage.facts;

import java.util.List;
import java.util.Map;
import java.util.Set;
import longthread.service.storage.Columns;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.HQL;
import org.hibernate.annotations.processing.SQL;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** Datasets that got another name or were dropped. */
@Repository
@Transactional
public interface RenameQueries {
  /** A rename at a moment. */
  record Rename(long from, long to, long atS, int atN) {}

  /** A rename by references; {@code alive} if the old name was used again after it. */
  record Named(String from, String to, long atS, int atN, boolean alive) {}

  /** A rename by references. */
  record NewName(String from, String to, long atS, int atN) {}

  StatelessSession session();

  /** Adds renames, each with the block that reported it. */
  default void add(Map<Rename, Long> renames) {
    if (!renames.isEmpty()) {
      Set<Rename> rows = renames.keySet();
      insert(
          Columns.longs(rows, Rename::from),
          Columns.longs(rows, Rename::to),
          Columns.longs(rows, Rename::atS),
          Columns.of(rows, Rename::atN, Integer[]::new),
          renames.values().toArray(Long[]::new));
    }
  }

  @SQL(
      "insert into renamed select * from unnest(:froms, :tos, :seconds, :nanos, :blocks)"
          + " on conflict do nothing")
  int insert(Long[] froms, Long[] tos, Long[] seconds, Integer[] nanos, Long[] blocks);

  /** The datasets that got another name. */
  @HQL("select distinct r.fromDataset from Renamed r")
  List<Long> oldNames();

  /** All renames that any of the datasets had a part in, oldest first. */
  @SQL(
      "select f.ref as old, t.ref as new, r.at_s, r.at_n,"
          + " exists (select from link l where l.to_dataset = r.from_dataset"
          + "   and l.evidence <> 'declared' and l.last_seen > to_timestamp(r.at_s) + r.at_n / 1000"
          + "   * interval '1 microsecond')"
          + " or exists (select from renamed n where n.to_dataset = r.from_dataset"
          + "   and (n.at_s, n.at_n) > (r.at_s, r.at_n))"
          + " or exists (select from facet c where c.subject_kind = 1"
          + "   and c.subject_id = r.from_dataset and c.key = 'lifecycleStateChange' and not c.far"
          + "   and (c.at_s, c.at_n) > (r.at_s, r.at_n)) as alive"
          + " from renamed r join dataset f on f.id = r.from_dataset"
          + " join dataset t on t.id = r.to_dataset"
          + " where r.from_dataset = any(:datasets) or r.to_dataset = any(:datasets)"
          + " order by r.at_s, r.at_n, t.ref, f.ref")
  List<Named> touching(Long[] datasets);

  /** All renames, oldest first. */
  @HQL(
      "select f.ref, t.ref, r.atS, r.atN from Renamed r join Dataset f on f.id = r.fromDataset"
          + " join Dataset t on t.id = r.toDataset order by r.atS, r.atN, t.ref")
  List<NewName> all();

  /** Those of some dropped datasets that a run wrote after the drop. */
  @SQL(
      "select f.subject_id from facet_now f where f.subject_kind = 1"
          + " and f.key = 'lifecycleStateChange' and f.subject_id = any(:datasets)"
          + " and exists (select from link l where l.to_dataset = f.subject_id"
          + " and l.evidence <> 'declared' and l.last_seen > to_timestamp(f.at_s) + f.at_n / 1000"
          + " * interval '1 microsecond')")
  List<Long> writtenSinceDropped(Long[] datasets);
}
