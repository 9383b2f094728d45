package longthread.demo;

import java.io.IOException;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.UUID;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/**
 * Three days of an hourly job that, since a repeated hour yesterday, completes without writing
 * anything; and a weekly run beside it that failed.
 */
final class RepeatedHour {
  private static final String PRODUCER = Nightshift.PRODUCER;
  private static final int HOURS = 72;
  private static final int HOURS_WITHOUT_ROWS = 20;
  private static final int TANKS = 8;
  private static final int WEEKS = 6;

  private final Barn barn;
  private final Emitter emitter;

  RepeatedHour(Barn barn, Emitter emitter) {
    this.barn = barn;
    this.emitter = emitter;
  }

  void play(Instant now, Sightglass sightglass) throws IOException, SQLException {
    showTanks(sightglass);
    Instant hour = now.truncatedTo(ChronoUnit.HOURS).plus(Duration.ofMinutes(5));
    hour = hour.isAfter(now) ? hour.minus(Duration.ofHours(1)) : hour;
    for (int back = HOURS; back >= 0; back--) {
      foldHour(hour.minus(Duration.ofHours(back)), back < HOURS_WITHOUT_ROWS ? 0 : TANKS);
    }
    Instant week = hour.minus(Duration.ofHours(9));
    for (int back = WEEKS; back >= 0; back--) {
      ripeningWeek(week.minus(Duration.ofDays(7L * back)), back == 0);
    }
    sightglass.refresh("board-room", "model/tanks", null);
  }

  /** The board's page gets a chart of the tanks, from a model over the hourly table. */
  private static void showTanks(Sightglass sightglass) throws IOException {
    ObjectNode workspace = sightglass.workspace("board-room");
    for (JsonNode model : workspace.path("models")) {
      if (model.path("id").stringValue("").equals("tanks")) {
        return;
      }
    }
    ObjectNode model =
        workspace.withArray("models").addObject().put("id", "tanks").put("title", "Tanks model");
    model.put("schedule", "daily 04:26");
    model
        .putArray("inputs")
        .addObject()
        .put("connection", "barn")
        .put("object", "core.tank_hourly")
        .put("as", "tanks");
    ArrayNode fields = model.putArray("fields");
    field(fields, "hour", "hour", "copied");
    field(fields, "warmest", "temperature_c", "aggregated");
    ObjectNode chart =
        workspace
            .withArray("charts")
            .addObject()
            .put("id", "warmest-tank")
            .put("title", "Warmest tank")
            .put("of", "model/tanks");
    chart.putArray("fields").addObject().put("field", "warmest");
    ObjectNode page = (ObjectNode) workspace.path("dashboards").get(0);
    page.withArray("charts").add("chart/warmest-tank");
    sightglass.edit("board-room", "/models", workspace.path("models").toString());
    sightglass.edit("board-room", "/charts", workspace.path("charts").toString());
    sightglass.edit("board-room", "/dashboards", workspace.path("dashboards").toString());
  }

  private static void field(ArrayNode fields, String name, String from, String how) {
    fields
        .addObject()
        .put("name", name)
        .putArray("from")
        .addObject()
        .put("field", from)
        .put("how", how);
  }

  private void foldHour(Instant start, int rows) throws SQLException {
    UUID run = UUID.randomUUID();
    emitter.send(hourly("START", run, start, null));
    emitter.send(hourly("COMPLETE", run, start.plusSeconds(21), (long) rows));
  }

  private ObjectNode hourly(String type, UUID run, Instant at, @Nullable Long rows)
      throws SQLException {
    ObjectNode event = event(type, run, at, "tank_hourly.fold_hour");
    Emitter.facet((ObjectNode) event.path("job").path("facets"), "documentation", PRODUCER)
        .put("description", "Folds the last hour of the tanks; an hour that is there is left out.");
    event
        .putArray("inputs")
        .addObject()
        .put("namespace", "kafka://tank-stream.hollinvale.example:9092")
        .put("name", "tank-readings");
    ObjectNode output = Names.dataset("core.tank_hourly").node();
    event.putArray("outputs").add(output);
    ArrayNode fields =
        Emitter.facet(output.putObject("facets"), "schema", PRODUCER).putArray("fields");
    barn.columns("core.tank_hourly")
        .forEach((column, kind) -> fields.addObject().put("name", column).put("type", kind));
    if (rows != null) {
      Emitter.facet(output.putObject("outputFacets"), "outputStatistics", PRODUCER)
          .put("rowCount", rows);
    }
    return event;
  }

  private void ripeningWeek(Instant start, boolean fails) {
    UUID run = UUID.randomUUID();
    emitter.send(ripening("START", run, start));
    ObjectNode end = ripening(fails ? "FAIL" : "COMPLETE", run, start.plusSeconds(340));
    if (fails) {
      Emitter.facet((ObjectNode) end.path("run").path("facets"), "errorMessage", PRODUCER)
          .put("message", "turning log of cellar 2 is locked by another session")
          .put("programmingLanguage", "SQL");
    }
    emitter.send(end);
  }

  private static ObjectNode ripening(String type, UUID run, Instant at) {
    ObjectNode event = event(type, run, at, "ripening_weekly.age_batches");
    String database = "postgres://ripening-db.hollinvale.example:5432";
    event
        .putArray("inputs")
        .addObject()
        .put("namespace", database)
        .put("name", "ripening.public.turning");
    event
        .putArray("outputs")
        .addObject()
        .put("namespace", database)
        .put("name", "ripening.public.batch");
    return event;
  }

  private static ObjectNode event(String type, UUID run, Instant at, String job) {
    ObjectNode event = Emitter.event("RunEvent", at, PRODUCER).put("eventType", type);
    event.putObject("run").put("runId", run.toString()).putObject("facets");
    ObjectNode facets =
        event
            .putObject("job")
            .put("namespace", Nightshift.NAMESPACE)
            .put("name", job)
            .putObject("facets");
    Emitter.facet(facets, "jobType", PRODUCER)
        .put("processingType", "BATCH")
        .put("integration", "NIGHTSHIFT")
        .put("jobType", "TASK");
    Emitter.owner(facets, "team:Collection <collection@hollinvale.example>", PRODUCER);
    return event;
  }
}
