package longthread.core.event;

import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import longthread.core.asset.Card;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import longthread.core.asset.Kind;
import longthread.core.asset.Owner;
import longthread.core.asset.Reference;
import longthread.core.json.CanonicalJson;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;

/** Makes the card of a dataset or a job from its current facets. */
public final class CardReader {
  private CardReader() {}

  /**
   * Returns a dataset's card.
   *
   * @param facets the winning value of each facet key
   * @param schemaSince since when a writer reports its schema; null if none does
   * @param described whether some event gave it as more than a mention
   * @param dropped whether its life has ended
   */
  public static Card dataset(
      DatasetName dataset,
      Map<String, JsonNode> facets,
      @Nullable Instant schemaSince,
      boolean described,
      boolean dropped) {
    var item = new ItemFacet(facet(facets, ItemFacet.KEY));
    JsonNode page = item.isThere() ? item.page() : facet(facets, "longthread_page");
    Kind kind =
        Kind.ofDataset(
            dataset,
            item.isThere()
                ? item.datasetType()
                : text(facet(facets, "datasetType"), "datasetType"));
    List<String> parts = parts(dataset.name(), kind);
    var stated = new StatedValues(facets);
    String description =
        stated.description(
            item.isThere()
                ? item.description()
                : text(facet(facets, "documentation"), "description"),
            producer(facets, item, "documentation"));
    List<Owner> owners =
        stated.owners(
            item.isThere() ? item.owners() : owners(facets), producer(facets, item, "ownership"));
    List<Card.Column> columns =
        stated.columns(
            item.isThere() ? item.columns(columns(facets)) : columns(facets),
            producer(facets, item, FacetFact.SCHEMA));
    return new Card(
        dataset.reference(),
        kind,
        parts.get(parts.size() - 1),
        text(page, "title"),
        text(facet(facets, "dataSource"), "name"),
        container(page, facet(facets, "hierarchy"), parts),
        description,
        text(page, "url"),
        owners,
        stated.tags(item.isThere() ? item.tags() : tags(facets, null)),
        columns,
        schemaSince,
        symlinks(facet(facets, "symlinks")),
        described,
        dropped,
        facet(facets, "longthread_view").path("query").isString()
            ? code(facets, CanonicalJson.MAPPER.missingNode())
            : null,
        item.isThere() ? item.details() : details(facets),
        List.of(),
        null,
        List.of(),
        stated.values(),
        stated.terms(),
        stated.links(),
        stated.joins(),
        stated.leads(),
        item.readers());
  }

  /**
   * Returns a job's card.
   *
   * @param isParent whether runs name it as their parent, which makes it a pipeline
   */
  public static Card job(
      JobName job, Map<String, JsonNode> facets, boolean described, boolean isParent) {
    var item = new ItemFacet(facet(facets, ItemFacet.KEY));
    JsonNode page = item.isThere() ? item.page() : facet(facets, "longthread_page");
    String type = text(facet(facets, "jobType"), "jobType");
    boolean pipeline = isParent || "DAG".equalsIgnoreCase(type == null ? "" : type);
    String name = job.name();
    int dot = name.lastIndexOf('.');
    boolean task = dot > 0 && dot < name.length() - 1;
    JsonNode location = facet(facets, "sourceCodeLocation");
    String url = text(page, "url") == null ? text(location, "url") : text(page, "url");
    var stated = new StatedValues(facets);
    String description =
        stated.description(
            item.isThere()
                ? item.description()
                : text(facet(facets, "documentation"), "description"),
            producer(facets, item, "documentation"));
    List<Owner> owners =
        stated.owners(
            item.isThere() ? item.owners() : owners(facets), producer(facets, item, "ownership"));
    return new Card(
        job.reference(),
        pipeline ? Kind.PIPELINE : Kind.JOB,
        task && !pipeline ? name.substring(dot + 1) : name,
        text(page, "title"),
        null,
        item.isThere()
            ? List.of(page.path("container").stringValue(""))
            : task && !pipeline ? List.of(name.substring(0, dot)) : List.of(),
        description,
        url,
        owners,
        stated.tags(item.isThere() ? item.tags() : tags(facets, null)),
        List.of(),
        null,
        List.of(),
        described,
        false,
        code(facets, location),
        details(facets),
        ties(job, facets),
        null,
        List.of(),
        stated.values(),
        stated.terms(),
        stated.links(),
        List.of(),
        false,
        List.of());
  }

  /** Who reported what stands in a facet, or in the item that takes its place. */
  private static @Nullable String producer(
      Map<String, JsonNode> facets, ItemFacet item, String key) {
    return item.isThere() ? "the workspace" : StatedValues.producer(facets.get(key));
  }

  /** Members of facets that are shown as properties, as facet, member, and name shown. */
  private static final String[][] DETAILS = {
    {"jobType", "processingType", "processing"},
    {"jobType", "integration", "integration"},
    {"jobType", "jobType", "job type"},
    {"datasetType", "datasetType", "type"},
    {"datasetType", "subType", "subtype"},
    {"version", "datasetVersion", "version"},
    {"storage", "storageLayer", "table format"},
    {"storage", "fileFormat", "file format"},
    {"catalog", "framework", "catalog framework"},
    {"catalog", "type", "catalog type"},
    {"catalog", "name", "catalog"},
    {"catalog", "warehouseUri", "warehouse"},
    {"dataSource", "uri", "source address"},
    {StatedValues.SOURCE, "databaseOwner", "owner in the database"},
    {StatedValues.SOURCE, "partitions", "partitions"},
    {"lifecycleStateChange", "lifecycleStateChange", "last life cycle event"},
    {"sourceCodeLocation", "repoUrl", "repository"},
    {"sourceCodeLocation", "path", "code path"},
    {"sourceCodeLocation", "version", "code version"},
    {"sourceCodeLocation", "branch", "branch"},
    {"sourceCodeLocation", "tag", "code tag"},
  };

  private static List<Card.Detail> details(Map<String, JsonNode> facets) {
    var details = new ArrayList<Card.Detail>();
    for (String[] detail : DETAILS) {
      String value = text(facet(facets, detail[0]), detail[1]);
      if (value != null && !value.isBlank()) {
        details.add(new Card.Detail(detail[2], value));
      }
    }
    for (JsonNode key : facet(facets, StatedValues.SOURCE).path("keys")) {
      details.add(new Card.Detail(key.path("kind").stringValue("") + " key", key(key)));
    }
    return details;
  }

  /** A key in one line: its columns, and what they refer to. */
  private static String key(JsonNode key) {
    String own = texts(key.path("columns"));
    return key.has("of")
        ? own
            + " refers to "
            + key.path("of").stringValue("")
            + " ("
            + texts(key.path("ofColumns"))
            + ")"
        : own;
  }

  private static String texts(JsonNode list) {
    var texts = new ArrayList<String>();
    list.forEach(text -> texts.add(text.stringValue("")));
    return String.join(", ", texts);
  }

  /** The jobs before and after: by control flow, or by data that no dataset stands for. */
  private static List<Card.Tie> ties(JobName job, Map<String, JsonNode> facets) {
    var ties = new TreeMap<String, Card.Tie>();
    JsonNode dependencies = facet(facets, "jobDependencies");
    for (boolean before : new boolean[] {true, false}) {
      for (JsonNode other : dependencies.path(before ? "upstream" : "downstream")) {
        String rule = text(other, "status_trigger_rule");
        tie(
            ties,
            other.path("job"),
            before,
            false,
            rule == null ? text(dependencies, "trigger_rule") : rule);
      }
    }
    for (JsonNode entry : facet(facets, "lineage").path("entries")) {
      for (JsonNode source : entry.path("inputs")) {
        if ("JOB".equals(text(source, "type"))) {
          tie(ties, source, true, true, null);
        }
      }
    }
    ties.values().removeIf(tie -> tie.ref().equals(job.reference()));
    return List.copyOf(ties.values());
  }

  private static void tie(
      Map<String, Card.Tie> ties,
      JsonNode other,
      boolean before,
      boolean data,
      @Nullable String rule) {
    JobName name = LineageReader.job(other);
    if (name != null) {
      var tie = new Card.Tie(name.reference(), before, data, rule);
      ties.putIfAbsent(tie.ref() + before + data, tie);
    }
  }

  private static Card.@Nullable Code code(Map<String, JsonNode> facets, JsonNode location) {
    JsonNode view = facet(facets, "longthread_view");
    JsonNode sql = view.path("query").isString() ? view : facet(facets, "sql");
    JsonNode source = facet(facets, "sourceCode");
    if (sql.path("query").isString()) {
      return new Card.Code(
          sql.path("query").stringValue(), "sql", text(sql, "dialect"), text(location, "url"));
    }
    if (source.path("sourceCode").isString()) {
      return new Card.Code(
          source.path("sourceCode").stringValue(),
          source.path("language").stringValue("text"),
          null,
          text(location, "url"));
    }
    return null;
  }

  private static JsonNode facet(Map<String, JsonNode> facets, String key) {
    JsonNode value = facets.get(key);
    return value == null || value.path("_deleted").booleanValue(false)
        ? CanonicalJson.MAPPER.missingNode()
        : value;
  }

  private static @Nullable String text(JsonNode facet, String member) {
    JsonNode node = facet.path(member);
    return node.isString() && !node.stringValue().isBlank() ? node.stringValue() : null;
  }

  private static List<String> parts(String name, Kind kind) {
    boolean dotted = kind == Kind.TABLE || kind == Kind.VIEW;
    String[] split =
        name.contains("/") ? name.split("/") : dotted ? name.split("\\.") : new String[] {name};
    var parts = new ArrayList<String>();
    for (String part : split) {
      if (!part.isBlank()) {
        parts.add(part);
      }
    }
    return parts.isEmpty() ? List.of(name) : parts;
  }

  private static List<String> container(JsonNode page, JsonNode hierarchy, List<String> parts) {
    if (text(page, "container") != null) {
      return List.of(page.path("container").stringValue());
    }
    var levels = new ArrayList<String>();
    for (JsonNode level : hierarchy.path("hierarchy")) {
      if (level.path("name").isString()) {
        levels.add(level.path("name").stringValue());
      }
    }
    return levels.size() > 1
        ? levels.subList(0, levels.size() - 1)
        : parts.subList(0, parts.size() - 1);
  }

  private static List<Owner> owners(Map<String, JsonNode> facets) {
    var owners = new ArrayList<Owner>();
    for (JsonNode owner : facet(facets, "ownership").path("owners")) {
      if (text(owner, "name") != null) {
        owners.add(Owner.of(owner.path("name").stringValue(), text(owner, "type")));
      }
    }
    return owners;
  }

  private static List<Card.Tag> tags(Map<String, JsonNode> facets, @Nullable String field) {
    var tags = new ArrayList<Card.Tag>();
    for (JsonNode tag : facet(facets, "tags").path("tags")) {
      String of = text(tag, "field");
      if (text(tag, "key") != null && (field == null ? of == null : field.equals(of))) {
        tags.add(
            new Card.Tag(
                tag.path("key").stringValue(),
                tag.path("value").stringValue(""),
                text(tag, "source")));
      }
    }
    return tags;
  }

  private static List<Card.Column> columns(Map<String, JsonNode> facets) {
    var columns = new ArrayList<Card.Column>();
    var tagsOf = new HashMap<String, List<Card.Tag>>();
    columns(facet(facets, FacetFact.SCHEMA).path("fields"), "", "", facets, tagsOf, columns);
    return columns;
  }

  private static void columns(
      JsonNode fields,
      String pathBefore,
      String spelledBefore,
      Map<String, JsonNode> facets,
      Map<String, List<Card.Tag>> tagsOf,
      List<Card.Column> columns) {
    for (JsonNode field : fields) {
      String name = text(field, "name");
      if (name == null) {
        continue;
      }
      String path = pathBefore + Reference.encodeSegment(name);
      String spelled = spelledBefore + name;
      columns.add(
          new Card.Column(
              path,
              text(field, "type"),
              text(field, "description"),
              tagsOf.computeIfAbsent(spelled, s -> tags(facets, s)),
              null,
              List.of()));
      columns(field.path("fields"), path + ".", spelled + ".", facets, tagsOf, columns);
    }
  }

  private static List<Card.Symlink> symlinks(JsonNode facet) {
    var links = new ArrayList<Card.Symlink>();
    for (JsonNode link : facet.path("identifiers")) {
      if (text(link, "namespace") != null && text(link, "name") != null) {
        var target =
            new DatasetName(link.path("namespace").stringValue(), link.path("name").stringValue());
        links.add(
            new Card.Symlink(target.reference(), "TABLE".equalsIgnoreCase(text(link, "type"))));
      }
    }
    return links;
  }
}
