package longthread.service.exact;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeSet;
import java.util.UUID;
import java.util.stream.Collectors;
import longthread.core.asset.FoldingRules;
import longthread.core.asset.Kind;
import longthread.core.asset.Reference;
import longthread.core.exact.Execution;
import longthread.core.exact.Part;
import longthread.core.exact.PartReader;
import longthread.core.exact.WriteMode;
import longthread.core.exact.WriteModes;
import longthread.core.history.RunState;
import longthread.core.json.CanonicalJson;
import longthread.core.lineage.LineageText;
import longthread.core.lineage.ReportedLineage;
import longthread.core.sql.Dialect;
import longthread.core.sql.TableChange;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.storage.StoredText;
import longthread.service.storage.facts.FacetRole;
import longthread.service.storage.graph.LinkQueries;
import longthread.service.storage.runs.ExactQueries;
import longthread.service.storage.runs.JobVersionQueries;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.MissingNode;

/** What each run read and wrote, and how, put together from what is stored of it. */
final class Executions {
  private static final String[] KEYS = {
    "subset",
    "outputSubset",
    "version",
    "lifecycleStateChange",
    "outputStatistics",
    "icebergScanReport",
    "icebergCommitReport",
    "sql"
  };

  private record Key(UUID run, long job) {}

  /** What is known of a job's runs taken together. */
  private record JobFacts(List<JobVersionQueries.Held> versions, List<LinkQueries.Stretch> links) {}

  private final StoredRuns.Tables tables;
  private final Catalog catalog;
  private final Map<Key, Execution> known = new HashMap<>();
  private final Map<Long, JobFacts> jobs = new HashMap<>();
  private final Map<String, Long> jobIds = new HashMap<>();
  private final Map<String, JsonNode> bodies = new HashMap<>();
  private final Map<String, ReportedLineage> lineages = new HashMap<>();
  private final Map<String, List<TableChange>> changes = new HashMap<>();

  Executions(StoredRuns.Tables tables, Catalog catalog) {
    this.tables = tables;
    this.catalog = catalog;
  }

  /** The versions of a job whose runs were looked up. */
  List<JobVersionQueries.Held> versions(String job) {
    Long id = jobIds.get(job);
    JobFacts facts = id == null ? null : jobs.get(id);
    return facts == null ? List.of() : facts.versions();
  }

  /** The runs of rows, in their order. */
  List<Execution> of(List<ExactQueries.Row> rows) {
    List<ExactQueries.Row> missing =
        rows.stream().filter(row -> !known.containsKey(new Key(row.run(), row.job()))).toList();
    if (!missing.isEmpty()) {
      read(missing);
    }
    return rows.stream()
        .map(row -> Objects.requireNonNull(known.get(new Key(row.run(), row.job()))))
        .toList();
  }

  private void read(List<ExactQueries.Row> rows) {
    UUID[] runs = rows.stream().map(ExactQueries.Row::run).distinct().toArray(UUID[]::new);
    var shapes = new HashMap<Key, List<String>>();
    tables
        .runs()
        .shapes(runs)
        .forEach(
            shape ->
                shapes
                    .computeIfAbsent(new Key(shape.run(), shape.job()), k -> new ArrayList<>())
                    .add(shape.digest()));
    List<ExactQueries.RunValue> values = tables.runs().values(runs, KEYS);
    readLineages(shapes.values().stream().flatMap(List::stream).collect(Collectors.toSet()));
    readBodies(values.stream().map(ExactQueries.RunValue::digest).collect(Collectors.toSet()));
    readJobs(rows);
    var valuesOf = new HashMap<Key, List<ExactQueries.RunValue>>();
    values.forEach(
        value ->
            valuesOf
                .computeIfAbsent(new Key(value.run(), value.job()), k -> new ArrayList<>())
                .add(value));
    for (ExactQueries.Row row : rows) {
      var key = new Key(row.run(), row.job());
      ReportedLineage lineage =
          ReportedLineage.union(
              shapes.getOrDefault(key, List.of()).stream().map(lineages::get).toList());
      known.put(key, execution(row, lineage, valuesOf.getOrDefault(key, List.of())));
    }
  }

  private void readLineages(Set<String> digests) {
    byte[][] missing = digests(digests, lineages.keySet());
    if (missing.length > 0) {
      tables
          .facts()
          .lineageBodies(missing)
          .forEach(
              body -> lineages.put(body.digest(), LineageText.read(StoredText.text(body.body()))));
    }
  }

  private void readBodies(Set<String> digests) {
    byte[][] missing = digests(digests, bodies.keySet());
    if (missing.length > 0) {
      tables
          .facets()
          .bodies(missing)
          .forEach(body -> bodies.put(body.digest(), StoredText.json(body.body())));
    }
  }

  private static byte[][] digests(Collection<String> wanted, Set<String> have) {
    return wanted.stream()
        .filter(digest -> !have.contains(digest))
        .map(java.util.HexFormat.of()::parseHex)
        .toArray(byte[][]::new);
  }

  private void readJobs(List<ExactQueries.Row> rows) {
    var missing = new HashMap<Long, String>();
    for (ExactQueries.Row row : rows) {
      jobIds.put(row.ref(), row.job());
      if (!jobs.containsKey(row.job())) {
        missing.put(row.job(), row.ref());
      }
    }
    if (missing.isEmpty()) {
      return;
    }
    var versions =
        tables.versions().held(missing.keySet().toArray(Long[]::new)).stream()
            .collect(Collectors.groupingBy(JobVersionQueries.Held::job));
    var links =
        tables.links().stretches(missing.values().toArray(String[]::new)).stream()
            .collect(Collectors.groupingBy(LinkQueries.Stretch::owner));
    missing.forEach(
        (job, ref) ->
            jobs.put(
                job,
                new JobFacts(
                    versions.getOrDefault(job, List.of()), links.getOrDefault(ref, List.of()))));
  }

  private Execution execution(
      ExactQueries.Row row, ReportedLineage lineage, List<ExactQueries.RunValue> values) {
    JobFacts job = Objects.requireNonNull(jobs.get(row.job()));
    var inputs = new TreeSet<String>();
    lineage.inputs().forEach(name -> inputs.add(name.reference()));
    var outputs = new TreeSet<String>();
    lineage.outputs().forEach(name -> outputs.add(name.reference()));
    if (inputs.isEmpty() || outputs.isEmpty()) {
      // A run that names only its SQL: what its job's links of that time say, stands in.
      for (LinkQueries.Stretch pair : linksAt(job, row.start())) {
        addIf(inputs, lineage.inputs().isEmpty(), pair.from());
        addIf(outputs, lineage.outputs().isEmpty(), pair.to());
      }
    }
    var reads = new LinkedHashMap<List<Object>, Execution.Read>();
    for (String ref : inputs) {
      Execution.Read read = read(ref, values);
      reads.merge(Arrays.asList(read.asset(), read.version()), read, Executions::together);
    }
    List<TableChange> sql =
        values.stream()
            .filter(v -> v.key().equals("sql") && v.role() == FacetRole.CODE.code())
            .findFirst()
            .map(v -> changes.computeIfAbsent(v.digest(), this::changesOf))
            .orElse(List.of());
    var writes = new LinkedHashMap<List<Object>, Execution.Write>();
    for (String ref : outputs) {
      Execution.Write write = write(row.ref(), ref, values, sql, outputs.size() == 1);
      writes.merge(
          Arrays.asList(write.asset(), write.mode(), write.version()), write, Executions::together);
    }
    return new Execution(
        row.run(),
        row.ref(),
        row.start(),
        row.end(),
        RunState.of(row.state()).orElse(RunState.UNKNOWN),
        version(job.versions(), row),
        List.copyOf(reads.values()),
        List.copyOf(writes.values()));
  }

  /** Readings of several partitions of one asset are one reading. */
  private static Execution.Read together(Execution.Read one, Execution.Read other) {
    return new Execution.Read(one.asset(), one.part().or(other.part()), one.version());
  }

  private static Execution.Write together(Execution.Write one, Execution.Write other) {
    Long rows = one.rows() == null || other.rows() == null ? null : one.rows() + other.rows();
    return new Execution.Write(
        one.asset(), one.part().or(other.part()), one.mode(), one.version(), rows);
  }

  private static void addIf(Set<String> names, boolean wanted, String ref) {
    if (wanted && !Reference.isJob(ref)) {
      names.add(ref);
    }
  }

  private static List<LinkQueries.Stretch> linksAt(JobFacts job, Instant at) {
    return job.links().stream()
        .filter(l -> !l.since().isAfter(at) && (l.until() == null || l.until().isAfter(at)))
        .toList();
  }

  private List<TableChange> changesOf(String digest) {
    JsonNode sql = bodies.getOrDefault(digest, MissingNode.getInstance());
    return TableChange.of(
        sql.path("query").stringValue(""),
        Dialect.of(sql.path("dialect").stringValue("")).orElse(Dialect.ANSI));
  }

  /** The version of the job that a run was of; null where the tables leave several. */
  static @Nullable Integer version(List<JobVersionQueries.Held> versions, ExactQueries.Row row) {
    if (row.code() != null) {
      return versions.stream()
          .filter(version -> version.hash().equals(row.code()))
          .map(JobVersionQueries.Held::number)
          .findFirst()
          .orElse(null);
    }
    List<Integer> then =
        versions.stream()
            .filter(v -> !v.firstRun().isAfter(row.start()) && !v.lastRun().isBefore(row.start()))
            .map(JobVersionQueries.Held::number)
            .toList();
    return then.size() == 1 ? then.get(0) : null;
  }

  private JsonNode value(
      List<ExactQueries.RunValue> values, String ref, FacetRole role, String key) {
    for (ExactQueries.RunValue value : values) {
      if (value.role() == role.code() && value.dataset().equals(ref) && value.key().equals(key)) {
        return bodies.getOrDefault(value.digest(), MissingNode.getInstance());
      }
    }
    return MissingNode.getInstance();
  }

  private Execution.Read read(String ref, List<ExactQueries.RunValue> values) {
    Part part =
        PartReader.read(value(values, ref, FacetRole.INPUT, "subset").path("inputCondition"));
    String version = text(value(values, ref, FacetRole.INPUT, "version").path("datasetVersion"));
    if (version == null) {
      version = text(value(values, ref, FacetRole.INPUT, "icebergScanReport").path("snapshotId"));
    }
    return new Execution.Read(catalog.leadOf(ref), within(ref, part), version);
  }

  private Execution.Write write(
      String job,
      String ref,
      List<ExactQueries.RunValue> values,
      List<TableChange> sql,
      boolean only) {
    JsonNode subset = value(values, ref, FacetRole.OUTPUT, "outputSubset").path("outputCondition");
    Part reported = PartReader.read(subset);
    JsonNode commit = value(values, ref, FacetRole.OUTPUT, "icebergCommitReport");
    String version = text(value(values, ref, FacetRole.OUTPUT, "version").path("datasetVersion"));
    String lifecycle =
        value(values, ref, FacetRole.OUTPUT, "lifecycleStateChange")
            .path("lifecycleStateChange")
            .stringValue("");
    WriteMode mode = WriteModes.ofCommit(commit.path("operation").stringValue(""));
    mode = mode == null ? WriteModes.ofLifecycle(lifecycle) : mode;
    boolean partOnly = false;
    if (mode == null) {
      WriteModes.BySql bySql = WriteModes.of(sql, ref, only);
      mode = bySql == null ? byKind(job, ref) : bySql.mode();
      partOnly = bySql != null && bySql.part();
    }
    boolean whole = mode == WriteMode.REPLACES || mode == WriteMode.UNKNOWN;
    Part part = subset.isMissingNode() && (!whole || partOnly) ? Part.SOMETHING : reported;
    return new Execution.Write(
        catalog.leadOf(ref),
        within(ref, part),
        mode,
        version == null ? text(commit.path("snapshotId")) : version,
        CanonicalJson.whole(
            value(values, ref, FacetRole.OUTPUT, "outputStatistics").path("rowCount")));
  }

  /**
   * A model, and a preparation step, which is a job of the same name, is made anew by each refresh;
   * a topic is only added to; of others nothing is known.
   */
  private WriteMode byKind(String job, String ref) {
    if (job.equals(Reference.JOB_PREFIX + ref)) {
      return WriteMode.REPLACES;
    }
    Kind kind = catalog.known(ref).map(Asset::kind).orElse(Kind.DATASET);
    return switch (kind) {
      case MODEL -> WriteMode.REPLACES;
      case TOPIC -> WriteMode.ADDS;
      default -> WriteMode.UNKNOWN;
    };
  }

  /** A partition or dated file that is shown as part of a whole bounds what was touched. */
  private Part within(String ref, Part part) {
    FoldingRules.Folded folded = catalog.foldedPart(ref).orElse(null);
    if (folded == null) {
      return part;
    }
    Part bounds = Part.ofPartition(folded.part());
    Part both = bounds.and(part);
    return both == null ? bounds : both;
  }

  private static @Nullable String text(JsonNode value) {
    return value.isMissingNode() || value.isNull() ? null : value.stringValue(value.toString());
  }

  /**
   * The columns of inputs that columns of an output of a run were made of, by input; null for an
   * input where that is not known, and as a whole where no columns were reported.
   */
  @Nullable Map<String, @Nullable Set<String>> sources(
      Execution run, String output, Set<String> columns) {
    Long id = jobIds.get(run.job());
    JobFacts job = id == null ? null : jobs.get(id);
    if (job == null) {
      return null;
    }
    var sources = new HashMap<String, @Nullable Set<String>>();
    boolean fine = false;
    for (LinkQueries.Stretch pair : linksAt(job, run.start())) {
      if (!catalog.leadOf(pair.to()).equals(output)) {
        continue;
      }
      fine |= !pair.toColumn().isEmpty() && !pair.toColumn().equals("*");
      if (columns.contains(catalog.columnOf(output, pair.toColumn()))) {
        String from = catalog.leadOf(pair.from());
        String column = catalog.columnOf(from, pair.fromColumn());
        if (column.isEmpty() || column.equals("*")) {
          sources.put(from, null);
        } else if (!sources.containsKey(from) || sources.get(from) != null) {
          Set<String> all = sources.get(from);
          all = all == null ? new TreeSet<>() : all;
          all.add(column);
          sources.put(from, all);
        }
      }
    }
    return fine ? sources : null;
  }
}
