package longthread.service.health;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.stream.Collectors;
import longthread.core.cause.CauseSearch;
import longthread.core.cause.Health;
import longthread.core.history.RunState;
import longthread.core.trust.Usual;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.runs.RunReader;
import longthread.service.storage.StoredText;
import longthread.service.storage.runs.HealthQueries;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;

/** Health by what is stored of runs, checks, figures and versions, read for many at once. */
public final class StoredHealth implements Health {
  private static final int MAX_CHECKS = 5_000;
  private static final int MAX_WORDS = 4; // of a change that are shown
  private static final int MEASURES = 60; // of each dataset
  private static final Comparator<Usual.Sample> NEWEST_FIRST =
      Comparator.comparing(Usual.Sample::at).reversed();

  private final HealthQueries stored;
  private final RunReader reader;
  private final Catalog catalog;
  private final Instant moment;
  private final Map<String, List<Run>> runs = new HashMap<>();
  private final Map<String, String> pipelineOf = new HashMap<>();
  private final Map<String, Map<String, List<CheckResult>>> checks = new HashMap<>();
  private final Map<String, Map<String, Series>> series = new HashMap<>();
  private final Map<String, List<Change>> schemaChanges = new HashMap<>();
  private final Map<String, List<Change>> codeChanges = new HashMap<>();

  /**
   * @param moment as of which things are read
   */
  public StoredHealth(HealthQueries stored, RunReader reader, Catalog catalog, Instant moment) {
    this.stored = stored;
    this.reader = reader;
    this.catalog = catalog;
    this.moment = moment;
  }

  @Override
  public void prepare(Collection<String> jobs, Collection<String> datasets) {
    String[] wanted = jobs.stream().filter(job -> !runs.containsKey(job)).toArray(String[]::new);
    readRuns(wanted);
    for (HealthQueries.Version row : stored.versions(wanted, moment)) {
      codeChanges
          .computeIfAbsent(row.job(), k -> new ArrayList<>())
          .add(new Change(row.firstRun(), words(row)));
    }
    Map<String, String> leads = leads(datasets);
    readContent(leads);
    readSchemas(
        stored
            .withSeveralSchemas(leads.keySet().toArray(String[]::new), moment.getEpochSecond())
            .toArray(String[]::new),
        leads);
  }

  /** Reads what the present state needs: runs, checks and figures, but no changes. */
  void prepareState(Collection<String> jobs, Collection<String> datasets) {
    readRuns(jobs.toArray(String[]::new));
    readContent(leads(datasets));
  }

  private void readRuns(String[] jobs) {
    for (HealthQueries.JobRun row : stored.runs(jobs, moment, CauseSearch.RUNS_WANTED)) {
      runs.computeIfAbsent(row.job(), k -> new ArrayList<>()).add(run(row));
      if (row.pipeline() != null) {
        pipelineOf.putIfAbsent(row.job(), row.pipeline());
      }
    }
  }

  /** The leading name of each part of some datasets. */
  private Map<String, String> leads(Collection<String> datasets) {
    var leads = new HashMap<String, String>();
    for (String dataset : datasets) {
      catalog
          .known(dataset)
          .map(Asset::parts)
          .orElse(List.of(dataset))
          .forEach(part -> leads.put(part, dataset));
    }
    return leads;
  }

  private void readContent(Map<String, String> leads) {
    String[] parts = leads.keySet().toArray(String[]::new);
    readChecks(parts, leads);
    for (HealthQueries.Measured row : stored.measured(parts, moment.getEpochSecond(), MEASURES)) {
      measure(Objects.requireNonNull(leads.get(row.ref())), row);
    }
    // An asset of many parts, such as a file for each day, has its figures in the order of these.
    series
        .values()
        .forEach(
            ofColumns -> ofColumns.values().forEach(one -> one.newestFirst().sort(NEWEST_FIRST)));
  }

  private Run run(HealthQueries.JobRun row) {
    Instant end = row.end();
    boolean ended = end != null && !end.isAfter(moment);
    RunState state =
        ended || end == null ? RunState.of(row.state()).orElseThrow() : RunState.RUNNING;
    return new Run(
        row.run(),
        row.start(),
        ended ? end : null,
        state,
        row.error(),
        row.rows(),
        row.nominalAt());
  }

  private static String words(HealthQueries.Version row) {
    List<String> changes = List.of(row.changes());
    return "version "
        + row.number()
        + (changes.isEmpty()
            ? ": its code changed"
            : ": " + String.join(", ", changes.subList(0, Math.min(MAX_WORDS, changes.size()))));
  }

  private void readChecks(String[] parts, Map<String, String> leads) {
    for (RunReader.CheckRow row : reader.checks(List.of(parts), moment, MAX_CHECKS)) {
      String lead = row.dataset() == null ? null : leads.get(row.dataset());
      if (lead != null && !row.status().equals("skip")) { // a skip says nothing about the data
        checks
            .computeIfAbsent(lead, k -> new LinkedHashMap<>())
            .computeIfAbsent(row.name() + "\n" + row.column(), k -> new ArrayList<>())
            .add(new CheckResult(row.name(), row.at(), row.passed(), row.column(), row.detail()));
      }
    }
  }

  // ------------------------------------------------------------------ figures of columns

  private void measure(String dataset, HealthQueries.Measured row) {
    JsonNode value = StoredText.json(row.body());
    Instant at = Instant.ofEpochSecond(row.atS(), row.atN());
    double rows = value.path("rowCount").doubleValue(-1);
    for (Map.Entry<String, JsonNode> column : value.path("columnMetrics").properties()) {
      JsonNode metrics = column.getValue();
      double count = metrics.path("count").doubleValue(-1);
      double nulls = metrics.path("nullCount").doubleValue(-1);
      double all = rows > 0 ? rows : count + Math.max(0, nulls);
      if (nulls >= 0 && all > 0) {
        add(dataset, row.role(), column.getKey(), "null share", at, nulls / all);
      }
      double filled = count > 0 ? count : all - Math.max(0, nulls);
      if (metrics.path("sum").isNumber() && filled > 0) {
        add(
            dataset,
            row.role(),
            column.getKey(),
            "mean",
            at,
            metrics.path("sum").doubleValue() / filled);
      } else if (median(metrics) != null) {
        add(dataset, row.role(), column.getKey(), "median", at, median(metrics));
      } else {
        for (String figure : new String[] {"min", "max"}) {
          if (metrics.path(figure).isNumber()) {
            double found = metrics.path(figure).doubleValue();
            add(dataset, row.role(), column.getKey(), figure, at, found);
          }
        }
      }
    }
  }

  private static @Nullable Double median(JsonNode metrics) {
    JsonNode median = metrics.path("quantiles").path("0.5");
    return median.isNumber() ? median.doubleValue() : null;
  }

  private void add(
      String dataset, int role, String column, String figure, Instant at, double value) {
    Series found =
        series
            .computeIfAbsent(dataset, k -> new LinkedHashMap<>())
            .computeIfAbsent(
                role + column + "\n" + figure, k -> new Series(column, figure, new ArrayList<>()));
    found.newestFirst().add(new Usual.Sample(at, value));
  }

  // ------------------------------------------------------------------ schemas

  private void readSchemas(String[] parts, Map<String, String> leads) {
    var before = new HashMap<String, Map<String, String>>();
    var read = new HashMap<String, Map<String, String>>(); // all that readers ever listed
    for (HealthQueries.Schema row : stored.schemas(parts, moment.getEpochSecond())) {
      Map<String, String> now = fields(StoredText.json(row.body()));
      if (!row.key().equals("schema")) {
        // Readers list what they use, each another part: that makes no change of its own.
        read.computeIfAbsent(row.ref(), k -> new LinkedHashMap<>()).putAll(now);
        continue;
      }
      Map<String, String> then = before.put(row.ref(), now);
      boolean onlyRead = then == null;
      then = onlyRead ? read.get(row.ref()) : then;
      if (then != null) {
        Change change = change(then, now, Instant.ofEpochSecond(row.atS(), row.atN()));
        if (change != null && !(onlyRead && change.harmless())) {
          schemaChanges
              .computeIfAbsent(Objects.requireNonNull(leads.get(row.ref())), k -> new ArrayList<>())
              .add(0, change);
        }
      }
    }
  }

  private static Map<String, String> fields(JsonNode schema) {
    var fields = new LinkedHashMap<String, String>();
    for (JsonNode field : schema.path("fields")) {
      fields.put(field.path("name").stringValue(""), field.path("type").stringValue(""));
    }
    return fields;
  }

  private static @Nullable Change change(
      Map<String, String> then, Map<String, String> now, Instant at) {
    var words = new ArrayList<String>();
    then.forEach(
        (name, type) -> {
          if (!now.containsKey(name)) {
            words.add("column " + name + " is gone");
          } else if (!type.isEmpty()
              && !now.get(name).isEmpty()
              && !type.equalsIgnoreCase(now.get(name))) {
            words.add("column " + name + " is " + now.get(name) + ", was " + type);
          }
        });
    boolean harmless = words.isEmpty();
    List<String> added = now.keySet().stream().filter(name -> !then.containsKey(name)).toList();
    added.forEach(name -> words.add("column " + name + " is new"));
    return words.isEmpty()
        ? null
        : new Change(
            at, words.stream().limit(MAX_WORDS).collect(Collectors.joining(", ")), harmless);
  }

  // ------------------------------------------------------------------ as the search asks

  /** The jobs that started the newest runs of those that were read, by what they started. */
  Map<String, String> pipelineOf() {
    return pipelineOf;
  }

  @Override
  public List<Run> runs(String job) {
    return runs.getOrDefault(job, List.of());
  }

  @Override
  public Collection<List<CheckResult>> checks(String dataset) {
    return checks.getOrDefault(dataset, Map.of()).values();
  }

  @Override
  public Collection<Series> series(String dataset) {
    return series.getOrDefault(dataset, Map.of()).values();
  }

  @Override
  public List<Change> schemaChanges(String dataset) {
    return schemaChanges.getOrDefault(dataset, List.of());
  }

  @Override
  public List<Change> codeChanges(String job) {
    return codeChanges.getOrDefault(job, List.of());
  }
}
