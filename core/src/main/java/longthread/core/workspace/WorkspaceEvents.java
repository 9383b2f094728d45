package longthread.core.workspace;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import longthread.core.json.CanonicalJson;
import longthread.core.workspace.WorkspaceDescription.Item;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/**
 * What a description says, in events of the standard: a dataset event for each item, a job event
 * for each step, refresh and write, and two run events for each refresh that ran.
 *
 * <p>An item is the same few facets in every description, empty ones too, so that the newest
 * description replaces all that older ones said of it.
 */
public final class WorkspaceEvents {
  /** The facet that says what an item is, all of it for people. */
  public static final String ITEM = "longthread_item"; // read by CardReader, too

  /** The facet that says who read it, which changes more often. */
  public static final String USAGE = "longthread_usage";

  static final String SCHEMA_URL = "https://longthread.example/schemas/workspace.json";
  private static final Map<String, String> ENDS =
      Map.of("completed", "COMPLETE", "failed", "FAIL", "aborted", "ABORT");
  private static final Set<String> FOR_PEOPLE =
      Set.of(
          "id",
          "title",
          "description",
          "url",
          "owners",
          "tags",
          "approval",
          "readers",
          "reuses",
          "schedule",
          "keeps");

  private final WorkspaceDescription description;
  private final String producer;
  private final List<ObjectNode> events = new ArrayList<>();

  private WorkspaceEvents(WorkspaceDescription description) {
    this.description = description;
    this.producer =
        description.root().path("producer").stringValue(description.namespace() + "/description");
  }

  /** All events, in the order of the description; takes time linear in its length. */
  static List<ObjectNode> of(WorkspaceDescription description) {
    var all = new WorkspaceEvents(description);
    for (Item item : description.items()) {
      switch (item.kind()) {
        case "step" -> all.step(item);
        case "model" -> all.model(item);
        case "chart" -> all.chart(item);
        default -> all.page(item);
      }
      item.node().path("writes").forEach(target -> all.writes(item, target));
    }
    description.root().path("refreshes").forEach(all::refresh);
    return all.events;
  }

  /** The workspace that an item's facet says it is in; null if it says nothing of it. */
  public static @Nullable DatasetName workspaceOf(JsonNode item) {
    JsonNode workspace = item.path("workspace");
    return workspace.path("id").isString()
        ? new DatasetName(text(workspace, "namespace"), text(workspace, "id"))
        : null;
  }

  /** Whether a chart shows a field, so that it is a column of the chart. */
  static boolean isShown(JsonNode field) {
    return uses(field).contains("shown") || uses(field).contains("grouped");
  }

  static List<String> uses(JsonNode field) {
    var uses = new ArrayList<String>();
    field.path("use").forEach(use -> uses.add(use.stringValue("")));
    return uses.isEmpty() ? List.of("shown") : uses;
  }

  /** Whether an item has runs: a step that computes, or a model that keeps a copy. */
  public static boolean isRefreshed(Item item) {
    return switch (item.kind()) {
      case "step" -> !item.node().has("reuses");
      case "model" -> WorkspaceDescription.keepsCopy(item.node());
      default -> false;
    };
  }

  /** The names of the fields that an item has; none if the description does not list them. */
  static Set<String> fieldNames(WorkspaceDescription description, Item item) {
    var names = new LinkedHashSet<String>();
    if (item.kind().equals("report") || item.kind().equals("dashboard")) {
      for (JsonNode word : item.node().path("charts")) {
        Item chart = description.item(word.stringValue(""));
        if (chart != null) {
          fieldNames(description, chart).forEach(name -> names.add(chart.id() + "." + name));
        }
      }
      return names;
    }
    for (JsonNode field : item.node().path("fields")) {
      if (!item.kind().equals("chart") || isShown(field)) {
        names.add(nameOf(field));
      }
    }
    return names;
  }

  private static String nameOf(JsonNode field) {
    return field.path("name").stringValue(field.path("field").stringValue(""));
  }

  // ------------------------------------------------------------------ items

  private void step(Item step) {
    JsonNode node = step.node();
    ObjectNode result = dataset(step);
    ColumnMap map = new ColumnMap(producer);
    if (node.has("reuses")) {
      DatasetName reused = description.dataset(node.path("reuses").stringValue(""));
      Item own = description.item(node.path("reuses").stringValue(""));
      Set<String> names =
          node.has("fields") || own == null
              ? fieldNames(description, step)
              : fieldNames(description, own);
      names.forEach(name -> map.field(name).add(reused, name, "copied"));
      map.coarseUnlessNamed(reused);
      facets(result).set("columnLineage", map.facet());
      return;
    }
    facets(result).set("columnLineage", new ColumnMap(producer).facet());
    Map<String, DatasetName> inputs = inputs(node);
    for (JsonNode field : node.path("fields")) {
      sources(map.field(nameOf(field)), field.path("from"), inputs);
    }
    filters(map, node, inputs);
    ObjectNode job = job(description.job(step.word()), step, "step", step.title(), null);
    if (node.has("sql")) {
      ObjectNode query = (ObjectNode) facets(node(job, "job")).get("longthread_view");
      query.put("query", node.path("sql").stringValue(""));
      if (node.has("dialect")) {
        query.put("dialect", node.path("dialect").stringValue(""));
      }
    }
    lists(job, inputs.values(), description.dataset(step.word()), map);
  }

  private void model(Item model) {
    JsonNode node = model.node();
    Map<String, DatasetName> inputs = inputs(node);
    DatasetName own = description.dataset(model.word());
    var declared = new ColumnMap(producer);
    var copied = WorkspaceDescription.keepsCopy(node) ? new ColumnMap(producer) : declared;
    var calculations = new Calculations(node);
    for (JsonNode field : node.path("fields")) {
      if (field.has("from") || !(field.has("sql") || field.has("text"))) {
        sources(copied.field(nameOf(field)), field.path("from"), inputs);
      } else {
        calculations.of(field).forEach(use -> declared.field(nameOf(field)).add(own, use));
      }
    }
    for (JsonNode relation : node.path("relations")) {
      for (String side : List.of("from", "to")) {
        indirect(copied, relation.path(side), inputs, "JOIN");
      }
    }
    filters(copied, node, inputs);
    if (copied == declared) {
      inputs.values().forEach(declared::coarseUnlessNamed);
    }
    facets(dataset(model)).set("columnLineage", declared.facet());
    if (copied != declared) {
      String title = "Refresh of " + model.title();
      ObjectNode job = job(description.job(model.word()), model, "refresh", title, null);
      lists(job, inputs.values(), own, copied);
    }
  }

  private void chart(Item chart) {
    DatasetName shown = description.dataset(chart.node().path("of").stringValue(""));
    var map = new ColumnMap(producer);
    for (JsonNode field : chart.node().path("fields")) {
      String of = field.path("field").stringValue("");
      if (isShown(field)) {
        map.field(nameOf(field)).add(shown, of, field.path("how").stringValue("copied"));
      }
      for (String use : uses(field)) {
        switch (use) {
          case "filtered" -> map.rows(shown, "FILTER", of);
          case "sorted" -> map.rows(shown, "SORT", of);
          case "grouped" -> map.rows(shown, "GROUP_BY", of);
          default -> {} // shown
        }
      }
    }
    map.coarseUnlessNamed(shown);
    facets(dataset(chart)).set("columnLineage", map.facet());
  }

  private void page(Item page) {
    ObjectNode facets = facets(dataset(page));
    ArrayNode held = facet(facets, "longthread_holds").putArray("items");
    for (JsonNode word : page.node().path("charts")) {
      Item chart = description.item(word.stringValue(""));
      ObjectNode one = held.addObject();
      name(one, description.dataset(word.stringValue("")));
      ArrayNode fields = one.putArray("fields");
      if (chart != null) {
        fieldNames(description, chart).forEach(fields::add);
      }
    }
    var map = new ColumnMap(producer);
    for (JsonNode filter : page.node().path("filters")) {
      DatasetName of = description.dataset(filter.path("of").stringValue(""));
      map.rows(of, "FILTER", filter.path("field").stringValue(""));
    }
    facets.set("columnLineage", map.facet());
  }

  /** The event of an item as a dataset, with the facets that every item has. */
  private ObjectNode dataset(Item item) {
    ObjectNode event = event(description.at());
    ObjectNode dataset = event.putObject("dataset");
    name(dataset, description.dataset(item.word()));
    ObjectNode facets = dataset.putObject("facets");
    facets.set(ITEM, item(item, "item", item.title()));
    source(facets);
    ObjectNode schema = facet(facets, "schema");
    ArrayNode fields = schema.putArray("fields");
    for (JsonNode field : item.node().path("fields")) {
      if (!item.kind().equals("chart") || isShown(field)) {
        ObjectNode column = fields.addObject().put("name", nameOf(field));
        copy(field, column, "type");
        copy(field, column, "description");
      }
    }
    if (fields.isEmpty()) {
      schema.put("_deleted", true);
    }
    ArrayNode periods = facet(facets, USAGE).putArray("periods");
    for (JsonNode usage : description.root().path("usage")) {
      if (usage.path("of").stringValue("").equals(item.word())) {
        periods.add(((ObjectNode) usage.deepCopy()).without("of"));
      }
    }
    events.add(event);
    return event;
  }

  private void source(ObjectNode facets) {
    facet(facets, "dataSource").put("name", description.root().path("tool").stringValue(""));
  }

  private ObjectNode item(Item item, String role, String title) {
    JsonNode workspace = description.root().path("workspace");
    ObjectNode facet = CanonicalJson.MAPPER.createObjectNode();
    facet.put("role", role).put("kind", item.kind());
    facet
        .putObject("workspace")
        .put("namespace", description.namespace())
        .put("id", description.id())
        .put("title", text(workspace, "title"));
    item.node()
        .properties()
        .forEach(
            member -> {
              if (FOR_PEOPLE.contains(member.getKey())) {
                facet.set(member.getKey(), member.getValue());
              }
            });
    facet.put("title", title);
    if (!facet.has("owners") && workspace.has("owners")) {
      facet.set("owners", workspace.path("owners"));
    }
    if (role.equals("item")) {
      ArrayNode fields = facet.putArray("fields");
      for (JsonNode field : item.node().path("fields")) {
        fields.add(((ObjectNode) field.deepCopy()).put("name", nameOf(field)).without("from"));
      }
      copy(item.node(), facet, "filters");
      copy(item.node(), facet, "of");
    }
    return facet;
  }

  private static String text(JsonNode node, String member) {
    return node.path(member).stringValue("");
  }

  private static void copy(JsonNode from, ObjectNode to, String member) {
    if (from.has(member)) {
      to.set(member, from.path(member));
    }
  }

  // ------------------------------------------------------------------ jobs

  private ObjectNode job(
      JobName name, Item item, String role, String title, @Nullable String object) {
    ObjectNode event = event(description.at());
    ObjectNode job =
        event.putObject("job").put("namespace", name.namespace()).put("name", name.name());
    ObjectNode facets = job.putObject("facets");
    ObjectNode facet = item(item, role, title);
    if (object != null) {
      facet.put("object", object);
    }
    facets.set(ITEM, facet);
    facet(facets, "jobType")
        .put("processingType", "BATCH")
        .put("integration", description.root().path("tool").stringValue(""))
        .put("jobType", "JOB");
    facet(facets, "longthread_view"); // without a query unless the step has one
    events.add(event);
    return event;
  }

  private void lists(
      ObjectNode event, Iterable<DatasetName> inputs, DatasetName output, ColumnMap map) {
    ArrayNode read = event.putArray("inputs");
    inputs.forEach(input -> name(read.addObject(), input));
    ObjectNode written = event.putArray("outputs").addObject();
    name(written, output);
    written.putObject("facets").set("columnLineage", map.facet());
  }

  private void writes(Item item, JsonNode target) {
    String object = target.path("object").stringValue("");
    DatasetName to = description.object(target.path("connection").stringValue(""), object);
    DatasetName from = description.dataset(item.word());
    var renamed = new LinkedHashMap<String, String>();
    target
        .path("fields")
        .forEach(field -> renamed.put(nameOf(field), field.path("field").stringValue("")));
    if (renamed.isEmpty()) {
      fieldNames(description, item).forEach(name -> renamed.put(name, name));
    }
    var map = new ColumnMap(producer);
    renamed.forEach((name, field) -> map.field(name).add(from, field, "copied"));
    map.coarseUnlessNamed(from);
    String title = item.title() + " into " + object;
    ObjectNode job = job(description.writer(item, target), item, "writes", title, object);
    lists(job, List.of(from), to, map);
    if (!renamed.isEmpty()) {
      ObjectNode facets = (ObjectNode) job.path("outputs").get(0).path("facets");
      ArrayNode fields = facet(facets, "schema").putArray("fields");
      renamed.keySet().forEach(name -> fields.addObject().put("name", name));
    }
  }

  private void refresh(JsonNode refresh) {
    String of = refresh.path("of").stringValue("");
    Instant start = time(refresh, "start");
    String key = description.namespace() + " " + description.id() + " " + of + " " + start;
    var run = UUID.nameUUIDFromBytes(key.getBytes(StandardCharsets.UTF_8));
    run(of, run, "START", start);
    String end = ENDS.get(refresh.path("state").stringValue(""));
    if (end == null) {
      return;
    }
    ObjectNode event = run(of, run, end, refresh.has("end") ? time(refresh, "end") : start);
    if (refresh.has("error")) {
      facet(facets(node(event, "run")), "errorMessage")
          .put("message", refresh.path("error").stringValue(""))
          .put("programmingLanguage", description.root().path("tool").stringValue(""));
    }
    ObjectNode output = event.putArray("outputs").addObject();
    name(output, description.dataset(of));
    if (refresh.has("rows")) {
      facet(output.putObject("outputFacets"), "outputStatistics")
          .put("rowCount", refresh.path("rows").longValue());
    }
  }

  private ObjectNode run(String of, UUID run, String type, Instant at) {
    ObjectNode event = event(at).put("eventType", type);
    event.putObject("run").put("runId", run.toString()).putObject("facets");
    JobName job = description.job(of);
    event.putObject("job").put("namespace", job.namespace()).put("name", job.name());
    events.add(event);
    return event;
  }

  private static Instant time(JsonNode node, String member) {
    return OffsetDateTime.parse(node.path(member).stringValue("")).toInstant();
  }

  // ------------------------------------------------------------------ lineage

  private Map<String, DatasetName> inputs(JsonNode of) {
    var inputs = new LinkedHashMap<String, DatasetName>();
    of.path("inputs")
        .forEach(input -> inputs.put(WorkspaceDescription.called(input), description.input(input)));
    return inputs;
  }

  private static DatasetName input(JsonNode source, Map<String, DatasetName> inputs) {
    DatasetName named = inputs.get(source.path("input").stringValue(""));
    return named == null ? inputs.values().iterator().next() : named;
  }

  private static void sources(
      ColumnMap.Field field, JsonNode from, Map<String, DatasetName> inputs) {
    for (JsonNode source : from) {
      field.add(
          input(source, inputs),
          source.path("field").stringValue(""),
          source.path("how").stringValue("copied"));
    }
  }

  private static void filters(ColumnMap map, JsonNode of, Map<String, DatasetName> inputs) {
    of.path("filters").forEach(filter -> indirect(map, filter, inputs, "FILTER"));
  }

  private static void indirect(
      ColumnMap map, JsonNode source, Map<String, DatasetName> inputs, String subtype) {
    map.rows(input(source, inputs), subtype, source.path("field").stringValue(""));
  }

  // ------------------------------------------------------------------ nodes

  private ObjectNode event(Instant at) {
    return CanonicalJson.MAPPER
        .createObjectNode()
        .put("eventTime", at.toString())
        .put("producer", producer)
        .put("schemaURL", SCHEMA_URL);
  }

  private ObjectNode facet(ObjectNode facets, String key) {
    return facets.putObject(key).put("_producer", producer).put("_schemaURL", SCHEMA_URL);
  }

  static void name(ObjectNode node, DatasetName name) {
    node.put("namespace", name.namespace()).put("name", name.name());
  }

  private static ObjectNode node(ObjectNode event, String member) {
    return (ObjectNode) event.path(member);
  }

  private static ObjectNode facets(ObjectNode eventOrPart) {
    JsonNode part = eventOrPart.has("dataset") ? eventOrPart.path("dataset") : eventOrPart;
    return (ObjectNode) part.path("facets");
  }
}
