package longthread.emitter;

import java.io.PrintWriter;
import java.io.StringWriter;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.json.JsonMapper;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.JsonNodeFactory;
import tools.jackson.databind.node.ObjectNode;

/**
 * One run of a job. Describe it, {@link #start} it, and {@link #complete} or {@link #fail} it; one
 * that is closed before has failed. For one thread.
 */
public final class Run implements AutoCloseable {
  private static final JsonMapper JSON = new JsonMapper();
  private static final String SPEC =
      "https://openlineage.io/spec/2-0-2/OpenLineage.json#/$defs/RunEvent";
  private static final String FACETS = "https://openlineage.io/spec/facets/1-0-0/";
  private static final int MAX_MESSAGE = 20_000;

  /** How a column of a target comes about. */
  public enum Flow {
    IDENTITY,
    TRANSFORMATION,
    AGGREGATION
  }

  private record Column(Asset from, String fromColumn, String column, Flow flow) {}

  private final Emitter emitter;
  private final String namespace;
  private final String job;
  private final UUID id = UUID.randomUUID();
  private final Set<Asset> reads = new LinkedHashSet<>();
  private final Set<Asset> writes = new LinkedHashSet<>();
  private final Map<Asset, Long> rows = new LinkedHashMap<>();
  private final Map<Asset, List<Column>> columns = new LinkedHashMap<>();
  private final Map<Asset, Map<String, String>> schemas = new LinkedHashMap<>();
  private final Map<String, String> properties = new LinkedHashMap<>();
  private @Nullable String sql;
  private @Nullable String dialect;
  private @Nullable UUID parent;
  private @Nullable String parentJob;
  private @Nullable Instant nominal;
  private boolean started;
  private boolean ended;

  Run(Emitter emitter, String namespace, String job) {
    if (job.isBlank()) {
      throw new IllegalArgumentException("a run needs the name of its job");
    }
    this.emitter = emitter;
    this.namespace = namespace;
    this.job = job;
  }

  /** The id of the run, for those that are parts of it. */
  public UUID id() {
    return id;
  }

  /** Adds something it reads, as {@code namespace/name}. */
  public Run reads(String reference) {
    reads.add(Asset.of(reference));
    return this;
  }

  /** Adds something it writes, as {@code namespace/name}. */
  public Run writes(String reference) {
    writes.add(Asset.of(reference));
    return this;
  }

  /** States which column one of the targets takes from which column, and how. */
  public Run column(String target, String column, String source, String sourceColumn, Flow flow) {
    Asset to = Asset.of(target);
    Asset from = Asset.of(source);
    writes.add(to);
    reads.add(from);
    columns
        .computeIfAbsent(to, k -> new ArrayList<>())
        .add(new Column(from, sourceColumn, column, flow));
    return this;
  }

  /** States the columns of something it reads or writes, with their types. */
  public Run schema(String reference, Map<String, String> types) {
    schemas.put(Asset.of(reference), new LinkedHashMap<>(types));
    return this;
  }

  /** The SQL that it runs; the service reads the lineage out of it. */
  public Run sql(String text, @Nullable String inDialect) {
    this.sql = text;
    this.dialect = inDialect;
    return this;
  }

  /** The run that started this one. */
  public Run partOf(Run other) {
    this.parent = other.id;
    this.parentJob = other.job;
    return this;
  }

  /** The time it was planned for. */
  public Run plannedFor(Instant time) {
    this.nominal = time;
    return this;
  }

  /** A free property, shown with the run. */
  public Run property(String name, String value) {
    properties.put(name, value);
    return this;
  }

  /** How many rows it wrote into a target. */
  public Run rows(String reference, long count) {
    Asset target = Asset.of(reference);
    writes.add(target);
    rows.put(target, count);
    return this;
  }

  /** Reports that it begins. */
  public Run start() {
    if (!started) {
      started = true;
      emitter.emit(event("START", null));
    }
    return this;
  }

  /** Reports that it ended well, with all that was stated of it since it began. */
  public void complete() {
    end("COMPLETE", null);
  }

  /** Reports that it failed, and why. */
  public void fail(Throwable error) {
    var trace = new StringWriter();
    error.printStackTrace(new PrintWriter(trace));
    end("FAIL", failure(String.valueOf(error), trace.toString()));
  }

  /** Reports that it failed. */
  public void fail(String message, @Nullable String output) {
    end("FAIL", failure(message, output));
  }

  /** Reports that it was stopped from outside. */
  public void abort(String message) {
    end("ABORT", failure(message, null));
  }

  /** A run that nobody ended has failed. */
  @Override
  public void close() {
    if (!ended) {
      fail("the run was left before it completed", null);
    }
  }

  private void end(String type, @Nullable ObjectNode error) {
    if (!ended) {
      start();
      ended = true;
      emitter.emit(event(type, error));
    }
  }

  private ObjectNode failure(String message, @Nullable String output) {
    ObjectNode facet = facet("errorMessage");
    facet.put("message", shortened(message)).put("programmingLanguage", "JAVA");
    if (output != null && !output.isBlank()) {
      facet.put("stackTrace", shortened(output));
    }
    return facet;
  }

  private static String shortened(String text) {
    return text.length() <= MAX_MESSAGE ? text : text.substring(text.length() - MAX_MESSAGE);
  }

  private String event(String type, @Nullable ObjectNode error) {
    ObjectNode event = JsonNodeFactory.instance.objectNode();
    event.put("eventType", type);
    event.put("eventTime", emitter.clock().instant().atOffset(ZoneOffset.UTC).toString());
    event.put("producer", emitter.producer());
    event.put("schemaURL", SPEC);
    ObjectNode run = event.putObject("run").put("runId", id.toString());
    ObjectNode runFacets = run.putObject("facets");
    if (parent != null) {
      ObjectNode facet = facet("parent");
      facet.putObject("run").put("runId", parent.toString());
      facet.putObject("job").put("namespace", namespace).put("name", parentJob);
      runFacets.set("parent", facet);
    }
    if (nominal != null) {
      runFacets.set("nominalTime", facet("nominalTime").put("nominalStartTime", "" + nominal));
    }
    if (!properties.isEmpty()) {
      ObjectNode facet = facet("longthread_properties");
      properties.forEach(facet::put);
      runFacets.set("longthread_properties", facet);
    }
    if (error != null) {
      runFacets.set("errorMessage", error);
    }
    ObjectNode of = event.putObject("job").put("namespace", namespace).put("name", job);
    if (sql != null) {
      ObjectNode facet = facet("sql").put("query", sql);
      if (dialect != null) {
        facet.put("dialect", dialect);
      }
      of.putObject("facets").set("sql", facet);
    }
    ArrayNode inputs = event.putArray("inputs");
    reads.forEach(asset -> inputs.add(dataset(asset)));
    ArrayNode outputs = event.putArray("outputs");
    writes.forEach(asset -> outputs.add(output(asset)));
    return JSON.writeValueAsString(event);
  }

  private ObjectNode dataset(Asset asset) {
    ObjectNode node = JsonNodeFactory.instance.objectNode();
    node.put("namespace", asset.namespace()).put("name", asset.name());
    Map<String, String> schema = schemas.get(asset);
    if (schema != null) {
      ObjectNode facet = facet("schema");
      ArrayNode fields = facet.putArray("fields");
      schema.forEach((name, type) -> fields.addObject().put("name", name).put("type", type));
      node.putObject("facets").set("schema", facet);
    }
    return node;
  }

  private ObjectNode output(Asset asset) {
    ObjectNode node = dataset(asset);
    if (columns.containsKey(asset)) {
      ObjectNode facets =
          node.has("facets") ? (ObjectNode) node.path("facets") : node.putObject("facets");
      facets.set("columnLineage", columnLineage(columns.get(asset)));
    }
    Long count = rows.get(asset);
    if (count != null) {
      node.putObject("outputFacets")
          .set("outputStatistics", facet("outputStatistics").put("rowCount", count));
    }
    return node;
  }

  private ObjectNode columnLineage(List<Column> links) {
    ObjectNode facet = facet("columnLineage");
    ObjectNode fields = facet.putObject("fields");
    for (Column link : links) {
      ObjectNode field =
          fields.has(link.column())
              ? (ObjectNode) fields.path(link.column())
              : fields.putObject(link.column());
      ArrayNode sources =
          field.has("inputFields")
              ? (ArrayNode) field.path("inputFields")
              : field.putArray("inputFields");
      ObjectNode source = sources.addObject();
      source
          .put("namespace", link.from().namespace())
          .put("name", link.from().name())
          .put("field", link.fromColumn());
      source
          .putArray("transformations")
          .addObject()
          .put("type", "DIRECT")
          .put("subtype", link.flow().name());
    }
    return facet;
  }

  private ObjectNode facet(String key) {
    String type = Character.toUpperCase(key.charAt(0)) + key.substring(1) + "Facet.json";
    return JsonNodeFactory.instance
        .objectNode()
        .put("_producer", emitter.producer())
        .put("_schemaURL", FACETS + type);
  }
}
