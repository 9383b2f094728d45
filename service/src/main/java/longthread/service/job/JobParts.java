package longthread.service.job;

import java.util.ArrayList;
import java.util.List;
import java.util.TreeSet;
import longthread.core.asset.ColumnName;
import longthread.core.asset.DatasetName;
import longthread.core.lineage.ColumnLink;
import longthread.core.lineage.Flow;
import longthread.core.lineage.LineageText;
import longthread.core.lineage.ReportedLineage;
import longthread.service.live.Catalog;
import longthread.service.storage.StoredText;
import longthread.service.storage.facts.RunFactQueries;
import longthread.service.storage.graph.AssetLinkQueries;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/**
 * What a job reads and writes now: the union of its newest runs' lineages, and what its SQL adds.
 */
@Component
public class JobParts {
  private static final int NEWEST_RUNS = 5;

  /**
   * What a job reads and writes.
   *
   * @param inputs references of the assets it reads
   * @param lineage what its runs reported, and what its SQL adds to that
   * @param reported what its runs reported
   */
  public record Parts(
      List<String> inputs,
      List<String> outputs,
      ReportedLineage lineage,
      ReportedLineage reported) {}

  private final RunFactQueries runFacts;
  private final AssetLinkQueries links;
  private final Catalog catalog;

  JobParts(RunFactQueries runFacts, AssetLinkQueries links, Catalog catalog) {
    this.runFacts = runFacts;
    this.links = links;
    this.catalog = catalog;
  }

  /** Returns the parts of the job with this reference. */
  @Transactional(readOnly = true)
  public Parts of(String job) {
    List<byte[]> stored = new ArrayList<>(runFacts.newestLineages(job, NEWEST_RUNS));
    stored.addAll(runFacts.declaredBy(job));
    ReportedLineage reported =
        ReportedLineage.union(
            stored.stream().map(body -> LineageText.read(StoredText.text(body))).toList());
    ReportedLineage all = ReportedLineage.union(List.of(reported, derived(job)));
    var inputs = new TreeSet<String>();
    all.inputs().forEach(name -> inputs.add(catalog.leadOf(name.reference())));
    var outputs = new TreeSet<String>();
    all.outputs().forEach(name -> outputs.add(catalog.leadOf(name.reference())));
    return new Parts(List.copyOf(inputs), List.copyOf(outputs), all, reported);
  }

  /** What was read out of the job's SQL when its events were applied. */
  private ReportedLineage derived(String job) {
    var inputs = new TreeSet<DatasetName>();
    var outputs = new TreeSet<DatasetName>();
    var columns = new TreeSet<ColumnLink>();
    for (AssetLinkQueries.ColumnPair row : links.derivedBy(job)) {
      ColumnLink link = link(row);
      inputs.add(link.from().dataset());
      outputs.add(link.to().dataset());
      // Those of rows follow from the others.
      if (link.flow().group() != Flow.Group.ROWS && link.flow() != Flow.READS) {
        columns.add(link);
      }
    }
    var described = new TreeSet<ColumnName>();
    if (!outputs.isEmpty()) {
      links.describedBy(job).forEach(column -> described.add(ColumnName.parse(column)));
    }
    return new ReportedLineage(inputs, outputs, columns, described, new TreeSet<>(), false);
  }

  private static ColumnLink link(AssetLinkQueries.ColumnPair row) {
    return new ColumnLink(
        new ColumnName(DatasetName.parse(row.from()), row.fromColumn()),
        new ColumnName(DatasetName.parse(row.to()), row.toColumn()),
        Flow.valueOf(row.flow()),
        row.masking());
  }
}
