package longthread.service.apply;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;
import java.util.stream.Collectors;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import longthread.core.history.Fingerprint;
import longthread.core.history.RunState;
import longthread.core.json.CanonicalJson;
import longthread.service.storage.StoredText;
import longthread.service.storage.StoredTime;
import longthread.service.storage.Stores;
import longthread.service.storage.facts.FacetRole;
import longthread.service.storage.facts.RunFactQueries;
import longthread.service.storage.facts.RunKey;
import longthread.service.storage.runs.CheckQueries;
import longthread.service.storage.runs.RunQueries;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;

/** Computes runs and check results from the facts of the runs that some events touched. */
final class RunWriter {
  private static final Set<String> STANDARD_RUN_FACETS =
      Set.of(
          "parent",
          "nominalTime",
          "errorMessage",
          "processing_engine",
          "externalQuery",
          "extractionError",
          "jobDependencies",
          "test",
          "tags",
          "environmentVariables",
          "executionParameters");

  private static final int MAX_KEY_LENGTH = 300;

  private final Stores stores;
  private final NameIds ids;
  private final CurrentFacets current;

  RunWriter(Stores stores, NameIds ids, CurrentFacets current) {
    this.stores = stores;
    this.ids = ids;
    this.current = current;
  }

  /** A run as far as the history of its job needs it. */
  record Outline(
      Instant start,
      @Nullable String code,
      boolean completed,
      boolean reported,
      @Nullable UUID parent) {}

  /**
   * What was written of runs.
   *
   * @param texts the digests of the SQL facets of those that reported one
   * @param parents the jobs that started any of them
   */
  record Written(Map<RunKey, Outline> runs, Map<RunKey, String> texts, Set<String> parents) {}

  private record FacetOfRun(
      FacetRole role, long dataset, String key, JsonNode value, String digest, Instant at) {}

  /** All that is known of one run. */
  static final class RunFacts {
    private final RunTimestamps times = new RunTimestamps();
    private final List<FacetOfRun> facets = new ArrayList<>();

    boolean hasChecks() {
      return facets.stream()
          .anyMatch(f -> f.key().equals("dataQualityAssertions") || f.key().equals("test"));
    }

    private Optional<FacetOfRun> newest(FacetRole role, String key) {
      return facets.stream().filter(f -> f.role() == role && f.key().equals(key)).findFirst();
    }

    @Nullable JsonNode facet(FacetRole role, String key) {
      return newest(role, key).map(FacetOfRun::value).orElse(null);
    }

    /** The SQL that the run ran; null if it reported none. */
    RunSql.@Nullable Text sql() {
      return newest(FacetRole.CODE, "sql")
          .map(f -> RunSql.Text.of(f.value(), f.digest()))
          .orElse(null);
    }
  }

  /** The facts of some runs as they stand now, without those known by far-future events alone. */
  Map<RunKey, RunFacts> read(Map<RunKey, RunTimestamps> reported) {
    Map<RunKey, RunFacts> found = runFacts(reported.keySet());
    reported.forEach((key, times) -> found.get(key).times.add(times));
    found.values().removeIf(run -> run.times.start() == null);
    return found;
  }

  private Map<RunKey, RunFacts> runFacts(Collection<RunKey> keys) {
    var found = new LinkedHashMap<RunKey, RunFacts>();
    if (keys.isEmpty()) {
      return found;
    }
    UUID[] runs = keys.stream().map(RunKey::run).toArray(UUID[]::new);
    keys.forEach(key -> found.put(key, new RunFacts()));
    for (RunQueries.StoredTimes row : stores.runs().times(runs)) {
      RunFacts run = found.get(row.key());
      if (run != null) {
        run.times.add(row.times());
      }
    }
    List<RunFactQueries.Newest> rows = stores.runFacts().newestFacets(runs);
    Map<String, JsonNode> values =
        current.values(
            rows.stream().map(RunFactQueries.Newest::digest).collect(Collectors.toSet()));
    for (RunFactQueries.Newest row : rows) {
      RunFacts run = found.get(new RunKey(row.run(), row.job()));
      if (run != null) {
        run.facets.add(
            new FacetOfRun(
                FacetRole.of(row.role()),
                row.dataset(),
                row.key(),
                values.get(row.digest()),
                row.digest(),
                Instant.ofEpochSecond(row.atS(), row.atN())));
      }
    }
    return found;
  }

  /** Writes the rows of these runs. */
  Written writeRuns(Map<RunKey, RunFacts> runs) {
    var rows = new ArrayList<RunQueries.Row>();
    var written = new LinkedHashMap<RunKey, Outline>();
    var texts = new HashMap<RunKey, String>();
    var parents = new HashSet<String>();
    runs.forEach(
        (key, run) -> {
          RunQueries.Row row = row(key, run);
          rows.add(row);
          written.put(
              key,
              new Outline(
                  Objects.requireNonNull(run.times.start()),
                  row.code(),
                  run.times.state() == RunState.COMPLETED,
                  run.times.reportedRunning(),
                  row.parentRun()));
          run.newest(FacetRole.CODE, "sql").ifPresent(sql -> texts.put(key, sql.digest()));
          if (row.parentJob() != null) {
            parents.add(row.parentJob());
          }
        });
    stores.runs().put(rows);
    return new Written(written, texts, parents);
  }

  private static RunQueries.Row row(RunKey key, RunFacts run) {
    JsonNode parent = run.facet(FacetRole.RUN, "parent");
    JsonNode root = parent == null ? null : parent.path("root");
    JsonNode nominal = run.facet(FacetRole.RUN, "nominalTime");
    return new RunQueries.Row(
        key,
        run.times.state().word(),
        StoredTime.clamped(Objects.requireNonNull(run.times.start())),
        StoredTime.of(run.times.end()),
        parentRun(parent),
        parentJob(parent),
        parentRun(root),
        parentJob(root),
        StoredTime.of(nominal == null ? null : time(nominal.path("nominalStartTime"))),
        StoredTime.of(nominal == null ? null : time(nominal.path("nominalEndTime"))),
        error(run),
        total(run, FacetRole.INPUT, "inputStatistics", "rowCount"),
        total(run, FacetRole.OUTPUT, "outputStatistics", "rowCount"),
        total(run, FacetRole.OUTPUT, "outputStatistics", "size"),
        code(run),
        StoredTime.clamped(Objects.requireNonNull(run.times.lastReported())),
        run.times.times());
  }

  private static @Nullable UUID parentRun(@Nullable JsonNode parent) {
    String id = parent == null ? "" : parent.path("run").path("runId").stringValue("");
    try {
      return id.length() == 36 ? UUID.fromString(id) : null;
    } catch (IllegalArgumentException e) {
      return null;
    }
  }

  private static @Nullable String parentJob(@Nullable JsonNode parent) {
    JsonNode job = parent == null ? null : parent.path("job");
    if (job == null || !job.path("namespace").isString() || !job.path("name").isString()) {
      return null;
    }
    return new JobName(job.path("namespace").stringValue(), job.path("name").stringValue())
        .reference();
  }

  private static @Nullable Instant time(JsonNode text) {
    try {
      return text.isString()
          ? java.time.OffsetDateTime.parse(text.stringValue()).toInstant()
          : null;
    } catch (java.time.DateTimeException e) {
      return null;
    }
  }

  /**
   * What the run said of its failure: the standard's facet, else the first custom one that does.
   */
  private static @Nullable String error(RunFacts run) {
    JsonNode standard = run.facet(FacetRole.RUN, "errorMessage");
    if (standard != null && standard.path("message").isString()) {
      return StoredText.clean(standard.path("message").stringValue());
    }
    var custom = new TreeMap<String, String>();
    for (FacetOfRun facet : run.facets) {
      if (facet.role() == FacetRole.RUN && !STANDARD_RUN_FACETS.contains(facet.key())) {
        for (String member : List.of("message", "exception", "error")) {
          if (facet.value().path(member).isString()) {
            custom.putIfAbsent(facet.key(), facet.value().path(member).stringValue());
          }
        }
      }
    }
    return custom.isEmpty() ? null : StoredText.clean(custom.firstEntry().getValue());
  }

  private static @Nullable Long total(RunFacts run, FacetRole role, String key, String member) {
    Long total = null;
    for (FacetOfRun facet : run.facets) {
      JsonNode number = facet.value().path(member);
      Long whole =
          facet.role() == role && facet.key().equals(key) ? CanonicalJson.whole(number) : null;
      if (whole != null) {
        total = (total == null ? 0 : total) + whole;
      }
    }
    return total;
  }

  private static @Nullable String code(RunFacts run) {
    RunSql.Text sql = run.sql();
    if (sql != null) {
      return Fingerprint.of(sql.query());
    }
    JsonNode source = run.facet(FacetRole.CODE, "sourceCode");
    if (source != null && source.path("sourceCode").isString()) {
      return Fingerprint.of(source.path("sourceCode").stringValue());
    }
    JsonNode location = run.facet(FacetRole.CODE, "sourceCodeLocation");
    if (location != null && location.path("version").isString()) {
      return CanonicalJson.digest(
          location.path("path").stringValue("") + "\n" + location.path("version").stringValue());
    }
    return null;
  }

  /**
   * Writes the results of the checks that these runs carried: with an input that a run read, or as
   * the tests of a run. Tests of a run that read one dataset are about that dataset; else they are
   * the job's own.
   *
   * @param onlyInputs the dataset that a run reads, of those runs that read one
   */
  void writeChecks(Map<RunKey, RunFacts> runs, Map<RunKey, DatasetName> onlyInputs) {
    ids.internDatasets(onlyInputs.values());
    var rows = new LinkedHashMap<CheckQueries.Key, CheckQueries.Row>();
    runs.forEach(
        (key, run) -> {
          for (FacetOfRun facet : run.facets) {
            boolean onInput =
                facet.role() == FacetRole.INPUT && facet.key().equals("dataQualityAssertions");
            boolean ofRun = facet.role() == FacetRole.RUN && facet.key().equals("test");
            for (JsonNode check : facet.value().path(onInput ? "assertions" : "tests")) {
              if (onInput || ofRun) {
                DatasetName only = onlyInputs.get(key);
                long dataset = onInput ? facet.dataset() : only == null ? 0 : ids.id(only);
                CheckQueries.Row row = checkRow(key, dataset, facet, check);
                rows.put(row.key(), row);
              }
            }
          }
        });
    // A run whose newest word on its checks is another one has those, and no others.
    stores
        .checks()
        .deleteOf(
            runs.entrySet().stream()
                .filter(run -> run.getValue().hasChecks())
                .map(Map.Entry::getKey)
                .toList());
    stores.checks().add(rows.values());
  }

  private static CheckQueries.Row checkRow(
      RunKey run, long dataset, FacetOfRun facet, JsonNode check) {
    String assertion = check.path("assertion").stringValue(check.path("type").stringValue("check"));
    String column =
        check.path("column").stringValue(check.path("params").path("column").stringValue(""));
    String content = check.path("content").stringValue(null);
    return new CheckQueries.Row(
        new CheckQueries.Key(
            run,
            dataset,
            StoredText.clean(check.path("name").stringValue(assertion), MAX_KEY_LENGTH),
            StoredText.clean(column, MAX_KEY_LENGTH)),
        StoredTime.clamped(facet.at()),
        status(check),
        cleaned(check.path("severity").stringValue(null)),
        cleaned(check.path("description").stringValue(null)),
        cleaned(check.path("expected").stringValue(null)),
        cleaned(check.path("actual").stringValue(null)),
        content == null ? null : StoredText.packed(content),
        cleaned(check.path("contentType").stringValue(null)));
  }

  /** Passed, failed or skipped; a word that the standard does not have counts as skipped. */
  private static String status(JsonNode check) {
    if (check.path("success").isBoolean()) {
      return check.path("success").booleanValue() ? "pass" : "fail";
    }
    String word = check.path("status").stringValue("skip").toLowerCase(Locale.ROOT);
    return word.startsWith("pass") ? "pass" : word.startsWith("fail") ? "fail" : "skip";
  }

  private static @Nullable String cleaned(@Nullable String text) {
    return text == null ? null : StoredText.clean(text);
  }
}
