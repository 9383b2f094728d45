package longthread.service.runs;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.UUID;
import longthread.core.asset.DatasetName;
import longthread.core.json.CanonicalJson;
import longthread.core.lineage.LineageText;
import longthread.core.lineage.ReportedLineage;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.storage.StoredText;
import longthread.service.storage.facts.FacetRole;
import longthread.service.storage.facts.RunFactQueries;
import longthread.service.storage.runs.RunSearch;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.MissingNode;

/** One run opened: the runs it started, what it read and wrote, all facets it carried. */
@Service
class RunDetails {
  private static final int MAX_TASKS = 500;

  /**
   * A dataset that a run read or wrote.
   *
   * @param subset which part of it, in words; null if all of it, or nothing was said
   */
  record Part(
      String ref,
      String name,
      String kind,
      boolean written,
      @Nullable Long rows,
      @Nullable Long bytes,
      @Nullable String subset) {}

  /** One run with the runs it started, what it touched, and all facets it carried. */
  record RunDetail(
      RunReader.RunRow run,
      List<RunReader.RunRow> tasks,
      List<Part> parts,
      Map<String, Object> facets) {}

  private final RunReader runs;
  private final RunFactQueries runFacts;
  private final Catalog catalog;

  RunDetails(RunReader runs, RunFactQueries runFacts, Catalog catalog) {
    this.runs = runs;
    this.runFacts = runFacts;
    this.catalog = catalog;
  }

  /** The run with an id; empty if no event of it was taken in. */
  @Transactional(readOnly = true)
  public Optional<RunDetail> of(UUID id) {
    return runs.run(id).stream().findFirst().map(run -> detail(run, id));
  }

  private RunDetail detail(RunReader.RunRow run, UUID id) {
    var facets = new TreeMap<String, Object>();
    var statistics = new HashMap<Touched, JsonNode>();
    var subsets = new HashMap<Touched, String>();
    for (RunFactQueries.Shown row : runFacts.facetsOf(id)) {
      JsonNode value = StoredText.json(row.body());
      FacetRole role = FacetRole.of(row.role());
      if (role == FacetRole.RUN) {
        facets.put(row.key(), value);
      } else if (row.key().endsWith("putStatistics")) {
        statistics.put(new Touched(row.ref(), role == FacetRole.OUTPUT), value);
      } else if (row.key().equals("subset")) {
        subsets.put(new Touched(row.ref(), false), SubsetWords.of(value.path("inputCondition")));
      } else if (row.key().equals("outputSubset")) {
        subsets.put(new Touched(row.ref(), true), SubsetWords.of(value.path("outputCondition")));
      }
    }
    ReportedLineage lineage =
        ReportedLineage.union(
            runFacts.lineageOf(id).stream()
                .map(body -> LineageText.read(StoredText.text(body)))
                .toList());
    var parts = new ArrayList<Part>();
    for (DatasetName input : lineage.inputs()) {
      parts.add(part(new Touched(input.reference(), false), statistics, subsets));
    }
    for (DatasetName output : lineage.outputs()) {
      parts.add(part(new Touched(output.reference(), true), statistics, subsets));
    }
    return new RunDetail(run, runs.runs(RunSearch.Filter.startedBy(id), MAX_TASKS), parts, facets);
  }

  /** A dataset as a run read or wrote it. */
  private record Touched(String ref, boolean written) {}

  private Part part(
      Touched touched, Map<Touched, JsonNode> statistics, Map<Touched, String> subsets) {
    JsonNode measured = statistics.getOrDefault(touched, MissingNode.getInstance());
    Asset asset = catalog.asset(touched.ref()).orElse(null);
    return new Part(
        touched.ref(),
        asset == null ? touched.ref() : asset.shown(),
        asset == null ? "dataset" : asset.kind().word(),
        touched.written(),
        CanonicalJson.whole(measured.path("rowCount")),
        CanonicalJson.whole(measured.path("size")),
        subsets.get(touched));
  }
}
