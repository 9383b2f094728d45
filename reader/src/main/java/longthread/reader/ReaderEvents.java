package longthread.reader;

import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeSet;
import longthread.core.json.CanonicalJson;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/** Makes events of the standard of what a database says of itself. */
final class ReaderEvents {
  static final String PRODUCER = "https://longthread.example/reader/postgres/1";
  private static final String SPEC = "https://openlineage.io/spec/2-0-2/OpenLineage.json#/$defs/";
  private static final String FACETS = "https://openlineage.io/spec/facets/1-0-0/";
  private static final int MAX_TITLE = 80;
  private static final String PUBLIC = "public";

  private final PostgresSettings settings;
  private final Instant at;
  private final Map<String, TreeSet<String>> schemasOf = new HashMap<>(); // by table name

  ReaderEvents(PostgresSettings settings, Instant at) {
    this.settings = settings;
    this.at = at;
  }

  /** Notes a relation, so that statements which name it without its schema find it. */
  void knows(String schema, String table) {
    schemasOf.computeIfAbsent(table, k -> new TreeSet<>()).add(schema);
  }

  private ObjectNode event(String type) {
    return CanonicalJson.MAPPER
        .createObjectNode()
        .put("eventTime", at.toString())
        .put("producer", PRODUCER)
        .put("schemaURL", SPEC + type);
  }

  private static ObjectNode facet(ObjectNode facets, String key) {
    String name = Character.toUpperCase(key.charAt(0)) + key.substring(1) + "Facet.json";
    return facets.putObject(key).put("_producer", PRODUCER).put("_schemaURL", FACETS + name);
  }

  private ObjectNode name(ObjectNode node, String schema, String table) {
    return node.put("namespace", settings.namespace())
        .put("name", settings.database() + "." + schema + "." + table);
  }

  /**
   * A name as SQL has it, {@code schema.table}. One without a schema is looked for where the
   * statement belongs to, then in {@code public}, then where it is the only one; null if it may be
   * any of several, or none.
   */
  private @Nullable ObjectNode named(String table, String own) {
    int dot = table.lastIndexOf('.');
    if (dot < 0) {
      TreeSet<String> schemas = schemasOf.getOrDefault(table, new TreeSet<>());
      String schema =
          schemas.contains(own)
              ? own
              : schemas.contains(PUBLIC) ? PUBLIC : schemas.size() == 1 ? schemas.first() : null;
      return schema == null ? null : name(CanonicalJson.MAPPER.createObjectNode(), schema, table);
    }
    String before = table.substring(0, dot);
    String schema = before.substring(before.lastIndexOf('.') + 1);
    return name(CanonicalJson.MAPPER.createObjectNode(), schema, table.substring(dot + 1));
  }

  static String kindWord(String kind) {
    return switch (kind) {
      case "v" -> "VIEW";
      case "m" -> "MATERIALIZED_VIEW";
      case "f" -> "FOREIGN_TABLE";
      default -> "TABLE";
    };
  }

  /** A relation with all that the database says of it. */
  ObjectNode relation(
      PostgresCatalog.Relation relation,
      List<PostgresCatalog.Column> columns,
      List<PostgresCatalog.Key> keys,
      List<String> labels,
      Map<Integer, List<String>> columnLabels) {
    ObjectNode event = event("DatasetEvent");
    ObjectNode facets =
        name(event.putObject("dataset"), relation.schema(), relation.name()).putObject("facets");
    facet(facets, "datasetType").put("datasetType", kindWord(relation.kind()));
    ArrayNode fields = facet(facets, "schema").putArray("fields");
    Labels ofTable = Labels.of(relation.comment());
    ObjectNode source = facet(facets, "longthread_source");
    if (ofTable.text() != null) {
      source.put("description", ofTable.text());
    }
    texts(source, "tags", both(ofTable.labels(), labels));
    source.put("databaseOwner", relation.owner());
    if (relation.partitions() > 0) {
      source.put("partitions", "" + relation.partitions());
    }
    keys(source, keys);
    ArrayNode stated = source.putArray("columns");
    for (PostgresCatalog.Column column : columns) {
      Labels ofColumn = Labels.of(column.comment());
      fields
          .addObject()
          .put("name", column.name())
          .put("type", column.type() + (column.required() ? " not null" : ""));
      ObjectNode node = CanonicalJson.MAPPER.createObjectNode().put("name", column.name());
      if (ofColumn.text() != null) {
        node.put("description", ofColumn.text());
      }
      texts(
          node,
          "tags",
          both(ofColumn.labels(), columnLabels.getOrDefault(column.number(), List.of())));
      if (node.size() > 1) {
        stated.add(node);
      }
    }
    if (relation.definition() != null) {
      facet(facets, "longthread_view")
          .put("query", relation.definition().strip().replaceFirst(";$", ""))
          .put("dialect", "postgres");
    }
    return event;
  }

  /** How large a relation is; apart from what it is, since that changes with every reading. */
  ObjectNode size(PostgresCatalog.Relation relation) {
    ObjectNode event = event("DatasetEvent");
    ObjectNode facets =
        name(event.putObject("dataset"), relation.schema(), relation.name()).putObject("facets");
    facet(facets, "dataQualityMetrics")
        .put("rowCount", Math.round(relation.rows()))
        .put("bytes", relation.bytes());
    return event;
  }

  private static void keys(ObjectNode source, List<PostgresCatalog.Key> keys) {
    if (keys.isEmpty()) {
      return;
    }
    ArrayNode list = source.putArray("keys");
    for (PostgresCatalog.Key key : keys) {
      ObjectNode node = list.addObject().put("name", key.name()).put("kind", key.kind());
      texts(node, "columns", key.columns());
      if (key.of() != null) {
        node.put("of", key.of());
        texts(node, "ofColumns", key.ofColumns());
      }
    }
  }

  private static List<String> both(List<String> one, List<String> other) {
    var all = new ArrayList<>(one);
    other.stream().filter(label -> !all.contains(label)).forEach(all::add);
    return all;
  }

  private static void texts(ObjectNode node, String member, List<String> texts) {
    if (!texts.isEmpty()) {
      ArrayNode list = node.putArray(member);
      texts.forEach(list::add);
    }
  }

  /** That a relation is no more. */
  ObjectNode dropped(String ref) {
    ObjectNode event = event("DatasetEvent");
    String name = ref.substring(settings.namespace().length() + 1);
    ObjectNode facets =
        event
            .putObject("dataset")
            .put("namespace", settings.namespace())
            .put("name", name)
            .putObject("facets");
    facet(facets, "lifecycleStateChange").put("lifecycleStateChange", "DROP");
    return event;
  }

  /** A function as a job, with the statements in it. */
  ObjectNode function(
      PostgresCatalog.Function function, List<String> statements, Statements.Ends ends) {
    String name =
        settings.database()
            + "."
            + function.schema()
            + "."
            + function.name()
            + "("
            + function.arguments()
            + ")";
    ObjectNode event =
        job(name, function.schema(), String.join(";\n", statements), ends.reads(), ends.writes());
    ObjectNode facets = (ObjectNode) event.path("job").path("facets");
    facet(facets, "jobType")
        .put("processingType", "BATCH")
        .put("integration", "POSTGRES")
        .put("jobType", "FUNCTION");
    String comment = Labels.of(function.comment()).text();
    if (comment != null) {
      facet(facets, "documentation").put("description", comment);
    }
    return event;
  }

  /** A statement that was seen in the log, as a job. */
  ObjectNode seen(String fingerprint, Statements.Writing writing) {
    ObjectNode event =
        job(
            settings.database() + ".seen." + fingerprint.substring(0, 12),
            PUBLIC,
            writing.text(),
            writing.reads(),
            List.of(writing.target()));
    ObjectNode facets = (ObjectNode) event.path("job").path("facets");
    String first = writing.text().strip().replaceAll("\\s+", " ");
    String title = first.length() <= MAX_TITLE ? first : first.substring(0, MAX_TITLE) + "…";
    facet(facets, "longthread_page").put("title", title);
    facet(facets, "jobType")
        .put("processingType", "BATCH")
        .put("integration", "POSTGRES")
        .put("jobType", "STATEMENT SEEN");
    return event;
  }

  private ObjectNode job(
      String name, String schema, String sql, List<String> reads, List<String> writes) {
    ObjectNode event = event("JobEvent");
    ObjectNode job =
        event.putObject("job").put("namespace", settings.namespace()).put("name", name);
    facet(job.putObject("facets"), "longthread_view").put("query", sql).put("dialect", "postgres");
    ArrayNode inputs = event.putArray("inputs");
    reads.stream().map(t -> named(t, schema)).filter(n -> n != null).forEach(inputs::add);
    ArrayNode outputs = event.putArray("outputs");
    writes.stream().map(t -> named(t, schema)).filter(n -> n != null).forEach(outputs::add);
    return event;
  }

  /** Who read a table how often between two moments; null for a name that may be several. */
  @Nullable ObjectNode usage(String table, Map<String, Long> readers, Instant from, Instant until) {
    ObjectNode dataset = named(table, PUBLIC);
    if (dataset == null) {
      return null;
    }
    ObjectNode event = event("DatasetEvent");
    event.set("dataset", dataset);
    ObjectNode period =
        facet(dataset.putObject("facets"), "longthread_usage").putArray("periods").addObject();
    period
        .put("from", "" + LocalDate.ofInstant(from, ZoneOffset.UTC))
        .put("until", "" + LocalDate.ofInstant(until, ZoneOffset.UTC))
        .put("reads", readers.values().stream().mapToLong(Long::longValue).sum());
    ArrayNode list = period.putArray("readers");
    readers.forEach((user, reads) -> list.addObject().put("name", user).put("reads", reads));
    return event;
  }

  static String refOf(ObjectNode event) {
    var of = event.has("dataset") ? event.path("dataset") : event.path("job");
    return (event.has("dataset") ? "" : "@")
        + of.path("namespace").stringValue("")
        + "/"
        + of.path("name").stringValue("");
  }

  /** What an event says, apart from when. */
  static String digest(ObjectNode event) {
    return CanonicalJson.digest(CanonicalJson.text(event.deepCopy().without("eventTime")))
        .substring(0, 16);
  }
}
