package longthread.demo;

import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.function.Function;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/** The BI stand-in: refreshes its models, and describes its charts, reports and dashboards. */
final class Sightglass {
  static final String PRODUCER = "https://hollinvale.example/sightglass/5.1";
  private static final String ADDRESS = "https://sightglass.hollinvale.example/";

  private final Emitter emitter;
  private final JsonNode world = new JsonMapper().readTree(Task.resource("bi.json"));

  Sightglass(Emitter emitter) {
    this.emitter = emitter;
  }

  /** Refreshes every model, each at its time of night. */
  void refresh(Function<LocalTime, Instant> clock) {
    for (JsonNode workspace : world.path("workspaces")) {
      for (JsonNode model : workspace.path("models")) {
        Instant start = clock.apply(LocalTime.parse(model.path("at").stringValue()));
        UUID run = UUID.randomUUID();
        emitter.send(refresh("START", workspace, model, run, start));
        emitter.send(refresh("COMPLETE", workspace, model, run, start.plusSeconds(40)));
      }
    }
  }

  /** Describes all that people look at, as it stands. */
  void describe(Instant at) {
    for (JsonNode workspace : world.path("workspaces")) {
      for (JsonNode chart : workspace.path("charts")) {
        emitter.send(chart(workspace, chart, at));
      }
      for (JsonNode page : workspace.path("pages")) {
        emitter.sendAndSee(page(workspace, page, at));
      }
    }
  }

  private static String name(JsonNode workspace, String kind, String id) {
    return workspace.path("id").stringValue() + "/" + kind + "/" + id;
  }

  private static ObjectNode refresh(
      String type, JsonNode workspace, JsonNode model, UUID run, Instant at) {
    String id = model.path("id").stringValue();
    ObjectNode event = Emitter.event("RunEvent", at, PRODUCER).put("eventType", type);
    event.putObject("run").put("runId", run.toString()).putObject("facets");
    ObjectNode job =
        event
            .putObject("job")
            .put("namespace", "sightglass")
            .put("name", workspace.path("id").stringValue() + ".refresh_" + id);
    ObjectNode jobFacets = job.putObject("facets");
    Emitter.facet(jobFacets, "jobType", PRODUCER)
        .put("processingType", "BATCH")
        .put("integration", "SIGHTGLASS")
        .put("jobType", "JOB");
    Emitter.facet(jobFacets, "documentation", PRODUCER)
        .put("description", "Loads the " + model.path("title").stringValue() + " anew.");
    Emitter.owner(jobFacets, workspace.path("owner").stringValue(), PRODUCER);
    ArrayNode inputs = event.putArray("inputs");
    model.path("reads").forEach(table -> inputs.add(Names.dataset(table.stringValue()).node()));
    ObjectNode output = Names.dataset(name(workspace, "model", id)).node();
    ObjectNode facets = output.putObject("facets");
    page(facets, workspace, "model", model);
    Emitter.facet(facets, "datasetType", PRODUCER).put("datasetType", "MODEL");
    Map<String, List<Task.Source>> map = new LinkedHashMap<>();
    model
        .path("map")
        .properties()
        .forEach(
            field -> map.put(field.getKey(), Task.Source.list(field.getValue().stringValue())));
    schema(facets, map.keySet());
    Nightshift.columnLineage(facets, map, List.of(), PRODUCER, LocalDate.EPOCH);
    event.putArray("outputs").add(output);
    return event;
  }

  private static void schema(ObjectNode facets, Iterable<String> columns) {
    ArrayNode fields = Emitter.facet(facets, "schema", PRODUCER).putArray("fields");
    columns.forEach(column -> fields.addObject().put("name", column));
  }

  private static void page(ObjectNode facets, JsonNode workspace, String kind, JsonNode item) {
    Emitter.facet(facets, "dataSource", PRODUCER).put("name", "sightglass").put("uri", ADDRESS);
    Emitter.facet(facets, "longthread_page", PRODUCER)
        .put("title", item.path("title").stringValue())
        .put("container", workspace.path("title").stringValue())
        .put("url", ADDRESS + name(workspace, kind, item.path("id").stringValue()));
    Emitter.owner(facets, workspace.path("owner").stringValue(), PRODUCER);
  }

  private static ObjectNode chart(JsonNode workspace, JsonNode chart, Instant at) {
    ObjectNode event = Emitter.event("DatasetEvent", at, PRODUCER);
    String id = chart.path("id").stringValue();
    ObjectNode dataset = Names.dataset(name(workspace, "chart", id)).node();
    event.set("dataset", dataset);
    ObjectNode facets = dataset.putObject("facets");
    page(facets, workspace, "chart", chart);
    Emitter.facet(facets, "datasetType", PRODUCER).put("datasetType", "CHART");
    String model = name(workspace, "model", chart.path("model").stringValue());
    Map<String, List<Task.Source>> map = new LinkedHashMap<>();
    chart
        .path("fields")
        .properties()
        .forEach(
            field ->
                map.put(
                    field.getKey(),
                    Task.Source.list(model + "#" + field.getValue().stringValue())));
    schema(facets, map.keySet());
    Nightshift.columnLineage(facets, map, List.of(), PRODUCER, LocalDate.EPOCH);
    return event;
  }

  private static ObjectNode page(JsonNode workspace, JsonNode page, Instant at) {
    ObjectNode event = Emitter.event("DatasetEvent", at, PRODUCER);
    String kind = page.path("kind").stringValue();
    ObjectNode dataset = Names.dataset(name(workspace, kind, page.path("id").stringValue())).node();
    event.set("dataset", dataset);
    ObjectNode facets = dataset.putObject("facets");
    page(facets, workspace, kind, page);
    Emitter.facet(facets, "datasetType", PRODUCER).put("datasetType", kind.toUpperCase());
    Emitter.facet(facets, "documentation", PRODUCER)
        .put("description", page.path("about").stringValue());
    ArrayNode items = Emitter.facet(facets, "longthread_holds", PRODUCER).putArray("items");
    for (JsonNode id : page.path("charts")) {
      ObjectNode held =
          items
              .addObject()
              .setAll(Names.dataset(name(workspace, "chart", id.stringValue())).node());
      ArrayNode fields = held.putArray("fields");
      for (JsonNode chart : workspace.path("charts")) {
        if (chart.path("id").equals(id)) {
          chart.path("fields").propertyNames().forEach(fields::add);
        }
      }
    }
    return event;
  }
}
