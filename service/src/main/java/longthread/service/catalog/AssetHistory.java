package longthread.service.catalog;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import longthread.core.compare.SchemaDifference;
import longthread.core.event.FacetFact;
import longthread.core.history.Fingerprint;
import longthread.core.json.CanonicalJson;
import longthread.core.workspace.ItemWords;
import longthread.core.workspace.WorkspaceEvents;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.runs.RunReader;
import longthread.service.storage.StoredText;
import longthread.service.storage.facts.FacetQueries;
import longthread.service.storage.facts.FacetRole;
import longthread.service.storage.facts.RunFactQueries;
import longthread.service.storage.runs.JobVersionQueries;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.JsonNode;

/** What changed of an asset and when, its checks over time, and what was measured of it. */
@Service
class AssetHistory {
  private static final int MAX_ENTRIES = 2_000;
  private static final int MAX_MEASURES = 500;

  /**
   * A change.
   *
   * @param kind schema, life, version, renamed, or the key of the facet that changed
   * @param words what changed, a line each
   */
  record Entry(Instant at, String kind, String part, List<String> words) {}

  /** A check with its results, the newest first. */
  record CheckLine(
      String name,
      @Nullable String column,
      @Nullable String dataset,
      String job,
      String status,
      @Nullable String severity,
      @Nullable String content,
      @Nullable String contentType,
      List<Result> results) {}

  record Result(
      Instant at,
      String status,
      @Nullable String expected,
      @Nullable String actual,
      @Nullable String detail,
      String run) {}

  record Checks(String ref, List<CheckLine> checks, @Nullable String cursor) {}

  /**
   * What was measured of a dataset at one moment.
   *
   * @param reportedBy who measured it: a run as it read or wrote, or the dataset's own description
   */
  record Statistic(
      Instant at,
      String reportedBy,
      @Nullable String run,
      @Nullable Long rows,
      @Nullable Long bytes,
      @Nullable Long files,
      Map<String, Object> columns) {}

  record StatisticList(String ref, List<Statistic> statistics, @Nullable String cursor) {}

  private final Catalog catalog;
  private final RunReader runs;
  private final FacetQueries facets;
  private final RunFactQueries runFacts;
  private final JobVersionQueries versions;

  AssetHistory(
      Catalog catalog,
      RunReader runs,
      FacetQueries facets,
      RunFactQueries runFacts,
      JobVersionQueries versions) {
    this.catalog = catalog;
    this.runs = runs;
    this.facets = facets;
    this.runFacts = runFacts;
    this.versions = versions;
  }

  /** What changed of an asset, the newest first. */
  @Transactional(readOnly = true)
  public List<Entry> changes(Asset asset) {
    String[] parts = asset.parts().toArray(String[]::new);
    var entries = new ArrayList<Entry>();
    var before = new LinkedHashMap<String, JsonNode>();
    for (FacetQueries.Value row :
        winners(asset.isJob() ? facets.historyOfJobs(parts) : facets.historyOfDatasets(parts))) {
      if (row.key().equals(WorkspaceEvents.USAGE)) {
        continue; // it changes with every look, and has a table of its own
      }
      JsonNode value = StoredText.json(row.body());
      JsonNode old = before.put(row.ref() + "\n" + row.key(), value);
      if (!same(row.key(), value, old) && !FacetFact.tellsNothing(row.key(), value)) {
        Instant at = Instant.ofEpochSecond(row.atS(), row.atN());
        entries.add(entry(at, row.ref(), row.key(), old, value));
      } else if (old != null) {
        before.put(row.ref() + "\n" + row.key(), old);
      }
    }
    if (asset.isJob()) {
      for (JobVersionQueries.Stored version : versions.of(asset.ref())) {
        var words = new ArrayList<>(List.of(version.changes()));
        words.add(0, "version " + version.number());
        entries.add(new Entry(version.firstRun(), "version", asset.ref(), words));
      }
    }
    asset
        .card()
        .formerly()
        .forEach(
            former ->
                entries.add(
                    new Entry(
                        former.until(),
                        "renamed",
                        former.ref(),
                        List.of("was called " + former.ref() + " before"))));
    entries.sort(Comparator.comparing(Entry::at).reversed());
    return entries.size() > MAX_ENTRIES ? entries.subList(0, MAX_ENTRIES) : entries;
  }

  /** Of the values of one facet at one moment the last, which is the one that counts. */
  private static Collection<FacetQueries.Value> winners(List<FacetQueries.Value> oldestFirst) {
    var winners = new LinkedHashMap<String, FacetQueries.Value>();
    for (FacetQueries.Value row : oldestFirst) {
      winners.put(row.ref() + "\n" + row.key() + "\n" + row.atS() + "\n" + row.atN(), row);
    }
    return winners.values();
  }

  /** Program text is the same if only its dates, comments or spacing differ. */
  private static boolean same(String key, JsonNode value, @Nullable JsonNode old) {
    String text = key.equals("sql") ? "query" : key.equals("sourceCode") ? "sourceCode" : "";
    if (old != null && value.path(text).isString() && old.path(text).isString()) {
      return Fingerprint.of(value.path(text).stringValue())
          .equals(Fingerprint.of(old.path(text).stringValue()));
    }
    return value.equals(old);
  }

  private static Entry entry(
      Instant at, String part, String key, @Nullable JsonNode old, JsonNode value) {
    if (value.path("_deleted").booleanValue(false)) {
      return new Entry(at, key, part, List.of(key + " removed"));
    }
    if (key.equals(WorkspaceEvents.ITEM)) {
      return new Entry(at, "description", part, ItemWords.changes(old, value));
    }
    if (key.equals("schema")) {
      return new Entry(at, "schema", part, schemaWords(old, value));
    }
    if (key.equals("lifecycleStateChange")) {
      String word = value.path("lifecycleStateChange").stringValue("changed");
      String from = value.path("previousIdentifier").path("name").stringValue("");
      return new Entry(
          at, "life", part, List.of(from.isEmpty() ? word : word + ", before " + from));
    }
    return new Entry(
        at, key, part, List.of(ItemWords.of(key) + (old == null ? " added" : " changed")));
  }

  private static List<String> schemaWords(@Nullable JsonNode old, JsonNode value) {
    Map<String, String> now = SchemaDifference.columns(value);
    if (old == null) {
      return List.of("first reported, with " + now.size() + " columns");
    }
    Map<String, String> then = SchemaDifference.columns(old);
    var words = new ArrayList<String>();
    now.forEach(
        (name, type) -> {
          if (!then.containsKey(name)) {
            words.add("column " + name + " is new" + (type.isEmpty() ? "" : ", " + type));
          } else if (!Objects.equals(type, then.get(name))) {
            words.add("column " + name + " is " + type + " now, was " + then.get(name));
          }
        });
    then.keySet().stream()
        .filter(name -> !now.containsKey(name))
        .forEach(name -> words.add("column " + name + " is gone"));
    return words.isEmpty() ? List.of("descriptions or order changed") : words;
  }

  /** The checks of an asset with their results, the newest first. */
  @Transactional(readOnly = true)
  public List<CheckLine> checks(Asset asset) {
    boolean job = asset.isJob();
    var lines = new LinkedHashMap<String, List<RunReader.CheckRow>>();
    for (RunReader.CheckRow row :
        job
            ? runs.checksOf(asset.ref(), MAX_ENTRIES)
            : runs.checks(asset.parts(), null, MAX_ENTRIES)) {
      lines
          .computeIfAbsent(
              row.name() + "\n" + row.column() + "\n" + row.dataset(), k -> new ArrayList<>())
          .add(row);
    }
    return lines.values().stream()
        .map(
            rows -> {
              RunReader.CheckRow newest = rows.get(0);
              return new CheckLine(
                  newest.name(),
                  newest.column(),
                  newest.dataset() == null ? null : catalog.leadOf(newest.dataset()),
                  newest.job(),
                  newest.status(),
                  newest.severity(),
                  newest.content(),
                  newest.contentType(),
                  rows.stream()
                      .map(
                          r ->
                              new Result(
                                  r.at(),
                                  r.status(),
                                  r.expected(),
                                  r.actual(),
                                  r.detail(),
                                  r.run()))
                      .toList());
            })
        .toList();
  }

  /** What runs and descriptions measured of a dataset, the newest first. */
  @Transactional(readOnly = true)
  public List<Statistic> statistics(Asset asset) {
    String[] parts = asset.parts().toArray(String[]::new);
    var statistics = new ArrayList<Statistic>();
    for (RunFactQueries.Measure row : runFacts.measures(parts, MAX_MEASURES)) {
      statistics.add(
          statistic(
              Instant.ofEpochSecond(row.atS(), row.atN()),
              FacetRole.of(row.role()) == FacetRole.INPUT ? "read" : "written",
              "run:" + row.run(),
              StoredText.json(row.body())));
    }
    for (FacetQueries.Value row :
        facets.valuesOfDatasets(parts, "dataQualityMetrics", MAX_MEASURES)) {
      statistics.add(
          statistic(
              Instant.ofEpochSecond(row.atS(), row.atN()),
              "dataset",
              null,
              StoredText.json(row.body())));
    }
    statistics.sort(Comparator.comparing(Statistic::at).reversed());
    return statistics;
  }

  private static Statistic statistic(
      Instant at, String reportedBy, @Nullable String run, JsonNode value) {
    var columns = new LinkedHashMap<String, Object>();
    value
        .path("columnMetrics")
        .properties()
        .forEach(column -> columns.put(column.getKey(), column.getValue()));
    JsonNode bytes = value.has("size") ? value.path("size") : value.path("bytes");
    return new Statistic(
        at,
        reportedBy,
        run,
        CanonicalJson.whole(value.path("rowCount")),
        CanonicalJson.whole(bytes),
        CanonicalJson.whole(value.path("fileCount")),
        columns);
  }
}
