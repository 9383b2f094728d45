package longthread.core.export;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.UUID;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import longthread.core.asset.Reference;
import longthread.core.json.CanonicalJson;
import longthread.core.lineage.Flow;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/**
 * The graph as events of the open lineage standard: for each job one completed run with what it
 * reads and writes, for each dataset that declares its sources one dataset event. Taken in by an
 * empty catalog they give the same links.
 *
 * <p>Sources stand in the {@code lineage} facet, which says them for each output alone. A source
 * that is read and lands nowhere is INDIRECT with the subtype READS, which the standard does not
 * have; readers that do not know it see an INDIRECT source.
 *
 * @see "OpenLineage 1.55, facets schema, lineage"
 */
public final class LineageEvents {
  private static final String SCHEMA = "https://openlineage.io/spec/2-0-2/OpenLineage.json#/$defs/";

  private final ExportedGraph graph;
  private final String producer;
  private final Map<String, ExportedGraph.Asset> assets = new TreeMap<>();
  private final Map<String, ExportedGraph.Job> jobs = new TreeMap<>();

  private LineageEvents(ExportedGraph graph, String producer) {
    this.graph = graph;
    this.producer = producer;
    graph.assets().forEach(asset -> assets.put(asset.ref(), asset));
    graph.jobs().forEach(job -> jobs.put(job.ref(), job));
  }

  /**
   * The events, in the order of the references of who makes the links; takes time linear in the
   * graph.
   *
   * @param producer an address that says what wrote them
   * @param at the time of those that have none of their own
   */
  public static List<ObjectNode> of(ExportedGraph graph, String producer, Instant at) {
    return new LineageEvents(graph, producer).events(at);
  }

  private List<ObjectNode> events(Instant at) {
    var byMaker = new TreeMap<String, List<ExportedGraph.Link>>();
    for (ExportedGraph.Link link : graph.links()) {
      byMaker.computeIfAbsent(link.maker(), k -> new ArrayList<>()).add(link);
    }
    var events = new ArrayList<ObjectNode>();
    byMaker.forEach(
        (maker, links) -> {
          if (Reference.isJob(maker)) {
            ExportedGraph.Job job = jobs.get(maker);
            events.add(run(maker, links, job == null ? at : job.seenAt()));
          } else {
            byTarget(links).forEach((target, into) -> events.add(dataset(target, into, at)));
          }
        });
    return events;
  }

  private static Map<String, List<ExportedGraph.Link>> byTarget(List<ExportedGraph.Link> links) {
    var byTarget = new TreeMap<String, List<ExportedGraph.Link>>();
    links.forEach(link -> byTarget.computeIfAbsent(link.to(), k -> new ArrayList<>()).add(link));
    return byTarget;
  }

  private ObjectNode event(String kind, Instant at) {
    ObjectNode event = CanonicalJson.MAPPER.createObjectNode();
    event.put("eventTime", at.toString()).put("producer", producer);
    return event.put("schemaURL", SCHEMA + kind);
  }

  private ObjectNode run(String job, List<ExportedGraph.Link> links, Instant at) {
    ObjectNode event = event("RunEvent", at);
    event.put("eventType", "COMPLETE");
    String run = job + " " + at;
    event
        .putObject("run")
        .put("runId", UUID.nameUUIDFromBytes(run.getBytes(StandardCharsets.UTF_8)).toString());
    JobName name = ((Reference.OfJob) Reference.parse(job)).job();
    event.putObject("job").put("namespace", name.namespace()).put("name", name.name());
    var inputs = new TreeSet<String>();
    links.stream()
        .map(ExportedGraph.Link::from)
        .filter(from -> !Reference.isJob(from))
        .forEach(inputs::add);
    ArrayNode read = event.putArray("inputs");
    inputs.forEach(input -> schema(named(read.addObject(), input).putObject("facets"), input));
    ArrayNode written = event.putArray("outputs");
    byTarget(links)
        .forEach(
            (target, into) -> {
              if (!Reference.isJob(target)) {
                facets(named(written.addObject(), target).putObject("facets"), target, into);
              }
            });
    return event;
  }

  private ObjectNode dataset(String target, List<ExportedGraph.Link> links, Instant at) {
    ObjectNode event = event("DatasetEvent", at);
    facets(named(event.putObject("dataset"), target).putObject("facets"), target, links);
    return event;
  }

  private static ObjectNode named(ObjectNode node, String reference) {
    DatasetName name = DatasetName.parse(reference);
    return node.put("namespace", name.namespace()).put("name", name.name());
  }

  private ObjectNode facet(ObjectNode facets, String key) {
    ObjectNode facet = facets.putObject(key).put("_producer", producer);
    return facet.put("_schemaURL", "https://openlineage.io/spec/facets/" + key + ".json");
  }

  // ------------------------------------------------------------------ schemas

  private void schema(ObjectNode facets, String reference) {
    ExportedGraph.Asset asset = assets.get(reference);
    if (asset != null && !asset.columns().isEmpty()) {
      var structs = new LinkedHashMap<String, ObjectNode>();
      structs.put("", facet(facets, "schema"));
      asset.columns().forEach(column -> add(column, structs));
    }
  }

  /** Adds a field to the struct that it lies in; structs come before their fields. */
  private static void add(ExportedGraph.Column column, Map<String, ObjectNode> structs) {
    int dot = column.path().lastIndexOf('.');
    String parent = dot < 0 ? "" : column.path().substring(0, dot);
    if (!structs.containsKey(parent)) {
      add(new ExportedGraph.Column(parent, "struct", null), structs);
    }
    if (structs.containsKey(column.path())) {
      return;
    }
    ObjectNode field = structs.get(parent).withArray("fields").addObject();
    field.put("name", Reference.decode(column.path().substring(dot + 1)));
    if (column.type() != null) {
      field.put("type", column.type());
    }
    if (column.description() != null) {
      field.put("description", column.description());
    }
    structs.put(column.path(), field);
  }

  // ------------------------------------------------------------------ sources

  private void facets(ObjectNode facets, String target, List<ExportedGraph.Link> links) {
    schema(facets, target);
    // A job that pairs too many inputs and outputs leads through itself; its lists say that.
    List<ExportedGraph.Link> own =
        links.stream().filter(link -> !Reference.isJob(link.from())).toList();
    List<ExportedGraph.Link> held = own.stream().filter(l -> l.flow() == Flow.HOLDS).toList();
    if (!held.isEmpty()) {
      holds(facet(facets, "longthread_holds").putArray("items"), held);
    }
    if (own.size() == held.size()) {
      return;
    }
    ObjectNode lineage = facet(facets, "lineage");
    ArrayNode whole = lineage.putArray("inputs");
    ObjectNode fields = lineage.putObject("fields");
    for (ExportedGraph.Link link : own) {
      if (link.flow() != Flow.HOLDS) {
        boolean ofRows = link.toColumn().equals("*");
        ArrayNode into =
            ofRows ? whole : fields.withObjectProperty(path(link.toColumn())).withArray("inputs");
        source(into.addObject(), link);
      }
    }
  }

  private static void source(ObjectNode source, ExportedGraph.Link link) {
    named(source, link.from()).put("type", "DATASET");
    if (!link.fromColumn().equals("*")) {
      source.put("field", path(link.fromColumn()));
    }
    ObjectNode how = source.putArray("transformations").addObject();
    Flow flow = link.flow();
    boolean carries = flow.carriesValues() || flow == Flow.COARSE || flow == Flow.ROWS_TO_VALUE;
    how.put("type", carries ? "DIRECT" : "INDIRECT");
    boolean isNamed =
        flow.ordinal() < Flow.INDIRECT.ordinal() && flow != Flow.DIRECT || flow == Flow.READS;
    if (isNamed) {
      how.put("subtype", flow.name());
    }
    if (link.masking()) {
      how.put("masking", true);
    }
  }

  /** The fields of charts appear in their page under the name of the chart. */
  private static void holds(ArrayNode items, List<ExportedGraph.Link> links) {
    var byHeld = new TreeMap<String, List<ExportedGraph.Link>>();
    links.forEach(link -> byHeld.computeIfAbsent(link.from(), k -> new ArrayList<>()).add(link));
    byHeld.forEach(
        (held, of) -> {
          ObjectNode item = named(items.addObject(), held);
          ArrayNode fields = item.putArray("fields");
          for (ExportedGraph.Link link : of) {
            String end = "." + link.fromColumn();
            if (!link.fromColumn().equals("*") && link.toColumn().endsWith(end)) {
              String as = link.toColumn().substring(0, link.toColumn().length() - end.length());
              item.put("as", path(as));
              fields.add(path(link.fromColumn()));
            }
          }
        });
  }

  /** A path as an emitter writes it. */
  private static String path(String path) {
    return Reference.decode(path);
  }
}
