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
import longthread.service.live.Sight;
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
   * @param facets what the run reported of its reading or writing, by key
   */
  record Part(
      String ref,
      String name,
      String kind,
      boolean written,
      @Nullable Long rows,
      @Nullable Long bytes,
      @Nullable String subset,
      Map<String, Object> facets) {}

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
    var ofParts = new HashMap<Touched, TreeMap<String, Object>>();
    // Facets may hold whatever an emitter sends, the names of hidden assets too.
    List<RunFactQueries.Shown> carried = Sight.now().isWhole() ? runFacts.facetsOf(id) : List.of();
    for (RunFactQueries.Shown row : carried) {
      JsonNode value = StoredText.json(row.body());
      FacetRole role = FacetRole.of(row.role());
      if (role == FacetRole.RUN) {
        facets.put(row.key(), value);
      } else if (row.ref() != null) {
        ofParts
            .computeIfAbsent(new Touched(row.ref(), role == FacetRole.OUTPUT), k -> new TreeMap<>())
            .put(row.key(), value);
      }
    }
    ReportedLineage lineage =
        ReportedLineage.union(
            runFacts.lineageOf(id).stream()
                .map(body -> LineageText.read(StoredText.text(body)))
                .toList());
    var parts = new ArrayList<Part>();
    for (DatasetName input : lineage.inputs()) {
      parts.add(part(new Touched(input.reference(), false), ofParts));
    }
    for (DatasetName output : lineage.outputs()) {
      parts.add(part(new Touched(output.reference(), true), ofParts));
    }
    return new RunDetail(run, runs.runs(RunSearch.Filter.startedBy(id), MAX_TASKS), parts, facets);
  }

  /** A dataset as a run read or wrote it. */
  private record Touched(String ref, boolean written) {}

  private Part part(Touched touched, Map<Touched, TreeMap<String, Object>> ofParts) {
    TreeMap<String, Object> facets = ofParts.getOrDefault(touched, new TreeMap<>());
    JsonNode measured = facet(facets, touched.written() ? "outputStatistics" : "inputStatistics");
    JsonNode subset =
        touched.written()
            ? facet(facets, "outputSubset").path("outputCondition")
            : facet(facets, "subset").path("inputCondition");
    Asset asset = catalog.asset(touched.ref()).orElse(null);
    return new Part(
        touched.ref(),
        asset == null ? touched.ref() : asset.shown(),
        asset == null ? "dataset" : asset.kind().word(),
        touched.written(),
        CanonicalJson.whole(measured.path("rowCount")),
        CanonicalJson.whole(measured.path("size")),
        subset.isMissingNode() ? null : SubsetWords.of(subset),
        facets);
  }

  private static JsonNode facet(Map<String, Object> facets, String key) {
    return facets.get(key) instanceof JsonNode value ? value : MissingNode.getInstance();
  }
}
