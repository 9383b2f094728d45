package longthread.service.job;

import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.TreeSet;
import longthread.core.asset.ColumnName;
import longthread.core.asset.DatasetName;
import longthread.core.event.HandFacet;
import longthread.core.lineage.ColumnLink;
import longthread.core.lineage.Flow;
import longthread.core.lineage.LineageText;
import longthread.core.lineage.ReportedLineage;
import longthread.core.statement.RecordedLineage;
import longthread.service.live.Catalog;
import longthread.service.storage.StoredText;
import longthread.service.storage.facts.FacetQueries;
import longthread.service.storage.facts.RunFactQueries;
import longthread.service.storage.graph.AssetLinkQueries;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.JsonNode;

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
   * @param lineage what its runs reported or people recorded, and what its SQL adds to that
   * @param reported what its runs reported or people recorded
   */
  public record Parts(
      List<String> inputs,
      List<String> outputs,
      ReportedLineage lineage,
      ReportedLineage reported) {}

  private final RunFactQueries runFacts;
  private final AssetLinkQueries links;
  private final Catalog catalog;
  private final FacetQueries facets;
  private final Clock clock;

  JobParts(
      RunFactQueries runFacts,
      AssetLinkQueries links,
      Catalog catalog,
      FacetQueries facets,
      Clock clock) {
    this.facets = facets;
    this.clock = clock;
    this.runFacts = runFacts;
    this.links = links;
    this.catalog = catalog;
  }

  /** Returns the parts of the job with this reference. */
  @Transactional(readOnly = true)
  public Parts of(String job) {
    List<byte[]> stored = new ArrayList<>(runFacts.newestLineages(job, NEWEST_RUNS));
    stored.addAll(runFacts.declaredBy(job));
    var lineages = new ArrayList<>(recorded(job));
    stored.forEach(body -> lineages.add(LineageText.read(StoredText.text(body))));
    ReportedLineage reported = ReportedLineage.union(lineages);
    ReportedLineage all = ReportedLineage.union(List.of(reported, derived(job)));
    return new Parts(leads(all.inputs()), leads(all.outputs()), all, reported);
  }

  /** The assets that names mean. A job that only reads is itself where its links end. */
  private List<String> leads(Collection<DatasetName> names) {
    return names.stream()
        .filter(name -> !name.isJob())
        .map(name -> catalog.leadOf(name.reference()))
        .sorted()
        .distinct()
        .toList();
  }

  /** What people recorded of the job and what has not ended. */
  private List<ReportedLineage> recorded(String job) {
    var recorded = new ArrayList<ReportedLineage>();
    for (FacetQueries.Value row : facets.currentOf(new String[] {job})) {
      if (row.key().startsWith(HandFacet.RECORDED)) {
        JsonNode value = StoredText.json(row.body()).path("value");
        Instant end = RecordedLineage.end(value);
        if (end == null || end.isAfter(clock.instant())) {
          recorded.add(RecordedLineage.lineage(value, null));
        }
      }
    }
    return recorded;
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
      links.describedBy(job).forEach(column -> described.add(ColumnName.parseEnd(column)));
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
