package longthread.core.statement;

import java.time.Instant;
import java.time.OffsetDateTime;
import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.TreeSet;
import longthread.core.asset.ColumnName;
import longthread.core.asset.DatasetName;
import longthread.core.event.HandFacet;
import longthread.core.history.JobHistory;
import longthread.core.lineage.ColumnLink;
import longthread.core.lineage.Flow;
import longthread.core.lineage.ReportedLineage;
import longthread.core.lineage.ResolvedLineage;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;

/** Lineage that people recorded of a job, or of a dataset whose job nobody knows. */
public final class RecordedLineage {
  private RecordedLineage() {}

  /**
   * All that is recorded of an owner.
   *
   * @param facets its current facets
   * @param dataset the owner if it is a dataset, which then is what is written; null for a job
   */
  public static List<JobHistory.Recorded> of(
      Map<String, JsonNode> facets, @Nullable DatasetName dataset) {
    var recorded = new ArrayList<JobHistory.Recorded>();
    for (JsonNode facet : HandFacet.under(facets, HandFacet.RECORDED).values()) {
      JsonNode value = facet.path("value");
      recorded.add(
          new JobHistory.Recorded(
              time(value, "since"), end(value), ResolvedLineage.of(lineage(value, dataset))));
    }
    return recorded;
  }

  /** When a record ends: its end date, or when it was withdrawn; null while neither is given. */
  public static @Nullable Instant end(JsonNode value) {
    Instant until = value.has("until") ? time(value, "until") : null;
    Instant withdrawn = value.has("withdrawn") ? time(value, "withdrawn") : null;
    return until == null || (withdrawn != null && withdrawn.isBefore(until)) ? withdrawn : until;
  }

  static Instant time(JsonNode value, String member) {
    return OffsetDateTime.parse(value.path(member).stringValue("")).toInstant();
  }

  /** What a record says as lineage; its names were checked when it was taken in. */
  public static ReportedLineage lineage(JsonNode value, @Nullable DatasetName dataset) {
    var inputs = names(value.path("reads"));
    var outputs = names(value.path("writes"));
    if (dataset != null) {
      outputs.add(dataset);
    }
    var columns = new TreeSet<ColumnLink>();
    var described = new TreeSet<ColumnName>();
    for (JsonNode link : value.path("columns")) {
      ColumnName from = ColumnName.parse(link.path("from").stringValue(""));
      ColumnName to = ColumnName.parse(link.path("to").stringValue(""));
      inputs.add(from.dataset());
      outputs.add(to.dataset());
      columns.add(link(from, to, link));
      if (!to.isRows()) {
        described.add(to);
      }
    }
    return new ReportedLineage(inputs, outputs, columns, described, new TreeSet<>(), false);
  }

  private static ColumnLink link(ColumnName from, ColumnName to, JsonNode link) {
    Flow flow = flow(link.path("flow").stringValue("")).orElse(Flow.DIRECT);
    boolean masking = link.path("masking").booleanValue(false);
    if (from.isRows()) {
      return new ColumnLink(from, to, to.isRows() ? Flow.ROWS : Flow.ROWS_TO_VALUE, false);
    }
    return new ColumnLink(from, to, flow, masking);
  }

  /** A flow by its word; the words for links between rows are not for people. */
  static java.util.Optional<Flow> flow(String word) {
    return Flow.ofTransformation("", word.replace('-', '_'));
  }

  private static TreeSet<DatasetName> names(JsonNode refs) {
    var names = new TreeSet<DatasetName>();
    refs.forEach(ref -> names.add(DatasetName.parse(ref.stringValue(""))));
    return names;
  }

  /** Whether any of some facets records lineage. */
  public static boolean anyIn(Collection<String> keys) {
    return keys.stream().anyMatch(key -> key.startsWith(HandFacet.RECORDED));
  }
}
