package longthread.demo;

import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.UUID;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/**
 * The streaming stand-in: one run that never ends folds the readings of the farms' cooling tanks to
 * hourly values, and reports now and then how it stands.
 */
final class Tankflow {
  private static final String PRODUCER = "https://hollinvale.example/tankflow/0.9";
  private static final String NAMESPACE = "tankflow";
  private static final String TOPIC_NAMESPACE = "kafka://tank-stream.hollinvale.example:9092";
  private static final String TOPIC = "tank-readings";
  private static final String TABLE = "core.tank_hourly";
  private static final Duration BETWEEN = Duration.ofHours(3);

  /** One run without an end; its id is kept so that a later night goes on with it. */
  private static final UUID RUN = UUID.fromString("01910000-0000-7000-8000-0000000000aa");

  private final Barn barn;
  private final Emitter emitter;

  Tankflow(Barn barn, Emitter emitter) {
    this.barn = barn;
    this.emitter = emitter;
  }

  /** Folds the hours from one moment to another, reporting every three hours. */
  void run(Instant from, Instant to) throws SQLException {
    Instant reported = from;
    while (reported.isBefore(to)) {
      Instant next = reported.plus(BETWEEN);
      Instant until = next.isAfter(to) ? to : next;
      fold(reported.truncatedTo(ChronoUnit.HOURS), until.truncatedTo(ChronoUnit.HOURS));
      emitter.send(report(until));
      reported = until;
    }
  }

  private void fold(Instant from, Instant to) throws SQLException {
    barn.run(
        "insert into core.tank_hourly select 1 + t, h, round((3.6 + ((t * 7 + extract(hour from h))"
            + "::int % 10) / 10.0)::numeric, 1), 400 + (t * 53 + extract(hour from h)::int * 31) % 900"
            + " from generate_series(0, 7) t, generate_series(timestamp '"
            + from.toString().replace("T", " ").replace("Z", "")
            + "', timestamp '"
            + to.toString().replace("T", " ").replace("Z", "")
            + "' - interval '1 hour', interval '1 hour') h on conflict do nothing");
  }

  private ObjectNode report(Instant at) throws SQLException {
    ObjectNode event = Emitter.event("RunEvent", at, PRODUCER).put("eventType", "RUNNING");
    ObjectNode run = event.putObject("run").put("runId", RUN.toString());
    Emitter.facet(run.putObject("facets"), "processing_engine", PRODUCER)
        .put("name", "tankflow")
        .put("version", "0.9")
        .put("openlineageAdapterVersion", "0.9.2");
    ObjectNode job = event.putObject("job").put("namespace", NAMESPACE).put("name", "tank_hourly");
    ObjectNode jobFacets = job.putObject("facets");
    Emitter.facet(jobFacets, "jobType", PRODUCER)
        .put("processingType", "STREAMING")
        .put("integration", "TANKFLOW")
        .put("jobType", "APPLICATION");
    Emitter.facet(jobFacets, "documentation", PRODUCER)
        .put("description", "Folds the readings of the farms' cooling tanks to hourly values.");
    Emitter.owner(jobFacets, "team:Collection <collection@hollinvale.example>", PRODUCER);
    event.putArray("inputs").add(topic());
    event.putArray("outputs").add(table());
    return event;
  }

  private static ObjectNode topic() {
    var topic = new Names.Dataset(TOPIC_NAMESPACE, TOPIC, "tank-stream").node();
    ObjectNode facets = topic.putObject("facets");
    Emitter.facet(facets, "dataSource", PRODUCER)
        .put("name", "tank-stream")
        .put("uri", TOPIC_NAMESPACE);
    ArrayNode fields = Emitter.facet(facets, "schema", PRODUCER).putArray("fields");
    fields.addObject().put("name", "tank_id").put("type", "int");
    fields.addObject().put("name", "measured_at").put("type", "timestamp");
    ArrayNode reading =
        fields.addObject().put("name", "reading").put("type", "struct").putArray("fields");
    reading.addObject().put("name", "temperature_c").put("type", "float");
    reading.addObject().put("name", "level_l").put("type", "float");
    Emitter.facet(facets, "documentation", PRODUCER)
        .put("description", "Temperature and level of every cooling tank, once a minute.");
    return topic;
  }

  private ObjectNode table() throws SQLException {
    ObjectNode table = Names.dataset(TABLE).node();
    ObjectNode facets = table.putObject("facets");
    Emitter.facet(facets, "dataSource", PRODUCER)
        .put("name", "barn")
        .put("uri", Names.dataset(TABLE).namespace());
    ArrayNode fields = Emitter.facet(facets, "schema", PRODUCER).putArray("fields");
    barn.columns(TABLE)
        .forEach((column, type) -> fields.addObject().put("name", column).put("type", type));
    Emitter.facet(facets, "documentation", PRODUCER)
        .put("description", "Hourly temperature and level of every cooling tank.");
    ObjectNode lineage = Emitter.facet(facets, "columnLineage", PRODUCER).putObject("fields");
    from(lineage, "tank_id", "tank_id", "IDENTITY");
    from(lineage, "hour", "measured_at", "TRANSFORMATION");
    from(lineage, "temperature_c", "reading.temperature_c", "AGGREGATION");
    from(lineage, "level_l", "reading.level_l", "AGGREGATION");
    Emitter.facet(table.putObject("outputFacets"), "outputStatistics", PRODUCER)
        .put("rowCount", barn.count(TABLE));
    return table;
  }

  private static void from(ObjectNode lineage, String column, String field, String subtype) {
    lineage
        .putObject(column)
        .putArray("inputFields")
        .addObject()
        .put("namespace", TOPIC_NAMESPACE)
        .put("name", TOPIC)
        .put("field", field)
        .putArray("transformations")
        .addObject()
        .put("type", "DIRECT")
        .put("subtype", subtype)
        .put("masking", false);
  }
}
