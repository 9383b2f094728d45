package longthread.core.lineage;

import java.util.Collections;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.SortedSet;
import java.util.TreeSet;
import longthread.core.asset.ColumnName;
import longthread.core.asset.DatasetName;

/**
 * A lineage with what is worked out of it once: runs of one job mostly share theirs, and are
 * compared fastest when they share the object too.
 *
 * @param hash SHA-256 of the text of what the run reported, in hex
 * @param links the links it amounts to
 * @param derived those of the links that only the run's SQL reports
 * @param confirmed those of the links that the run reported and its SQL confirms
 * @param constants what columns are set to on branches that no link can show
 */
public record ResolvedLineage(
    ReportedLineage lineage,
    String hash,
    List<ColumnLink> links,
    Set<ColumnLink> derived,
    Set<ColumnLink> confirmed,
    SortedSet<ColumnConstant> constants) {
  public static final ResolvedLineage NONE = ResolvedLineage.of(ReportedLineage.EMPTY);

  public static ResolvedLineage of(ReportedLineage lineage) {
    return new ResolvedLineage(
        lineage,
        EncodedLineage.of(lineage).digest(),
        List.copyOf(lineage.links()),
        Set.of(),
        Set.of(),
        Collections.emptySortedSet());
  }

  /**
   * This lineage with what the run's SQL says: of an output that the run reported the sources of,
   * that confirms what it reported; of any other, it is how its columns are made.
   */
  public ResolvedLineage with(ReportedLineage sql, SortedSet<ColumnConstant> sqlConstants) {
    Set<DatasetName> silent = new HashSet<>(sql.outputs());
    silent.removeAll(lineage.detailed());
    lineage.described().forEach(column -> silent.remove(column.dataset()));
    var columns = new TreeSet<>(sql.columns());
    // What the text names and the map shows nowhere is needed all the same.
    Set<ColumnName> mapped = new HashSet<>();
    lineage.columns().forEach(link -> mapped.add(link.from()));
    columns.removeIf(
        link ->
            !silent.contains(link.to().dataset())
                && (link.flow() != Flow.READS || mapped.contains(link.from())));
    var described = new TreeSet<>(sql.described());
    described.removeIf(column -> !silent.contains(column.dataset()));
    boolean gap = sql.gap() && !silent.isEmpty();
    var detailed = new TreeSet<DatasetName>(gap ? Set.of() : sql.detailed());
    detailed.retainAll(silent);
    ReportedLineage added =
        new ReportedLineage(sql.inputs(), sql.outputs(), columns, described, detailed, gap);
    ReportedLineage all = ReportedLineage.union(List.of(lineage, added));
    List<ColumnLink> allLinks = List.copyOf(all.links());
    var derivedLinks = new HashSet<>(allLinks);
    links.forEach(derivedLinks::remove);
    var confirmedLinks = new HashSet<>(lineage.columns());
    confirmedLinks.retainAll(sql.columns());
    return new ResolvedLineage(
        all, hash, allLinks, Set.copyOf(derivedLinks), Set.copyOf(confirmedLinks), sqlConstants);
  }

  /** Why one of the links is believed. */
  public Evidence evidence(ColumnLink link) {
    return derived.contains(link)
        ? Evidence.DERIVED
        : confirmed.contains(link) ? Evidence.CONFIRMED : Evidence.OBSERVED;
  }
}
