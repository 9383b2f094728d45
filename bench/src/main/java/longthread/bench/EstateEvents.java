package longthread.bench;

import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Random;
import java.util.StringJoiner;
import java.util.UUID;
import tools.jackson.databind.json.JsonMapper;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/**
 * What a {@link WholeEstate} sends: the schemas of its sources, the runs of its jobs night by
 * night, and the descriptions of its workspaces. Half of the jobs send their SQL only, the others
 * column maps. Deterministic and safe for many threads.
 */
final class EstateEvents {
  static final int LAST_NIGHT = 8;

  /** Nine nights ago: what lies in the future of a service counts for nothing. */
  static final Instant FIRST_NIGHT =
      Instant.now().truncatedTo(ChronoUnit.DAYS).minus(Duration.ofDays(LAST_NIGHT + 1));

  static final String TOOL = "panel";
  static final String INSTANCE = "estate";
  private static final String HOST = "postgres://warehouse.estate.example:5432";
  private static final String LAKE = "s3://estate-lake";
  private static final int DATABASES = 4;
  private static final int MODELS_IN_WORKSPACE = 12;
  private static final double FAILED = 0.01;
  private static final double CHECKED = 0.05;
  private static final JsonMapper JSON = JsonMapper.shared();
  private static final String[] THINGS = {
    "milk",
    "payment",
    "route",
    "farm",
    "tank",
    "sample",
    "cheese",
    "batch",
    "truck",
    "driver",
    "order",
    "customer",
    "invoice",
    "price",
    "stock",
    "lot",
    "shelf",
    "return",
    "audit",
    "weather",
    "feed",
    "herd",
    "calf",
    "vet",
    "permit",
    "energy",
    "water",
    "pump",
    "sensor",
    "shift",
    "salary",
    "tax",
    "ledger",
    "budget",
    "claim",
    "survey",
    "label",
    "pallet",
    "store",
    "promo"
  };
  private static final String[] FACES = {
    "daily", "hourly", "monthly", "detail", "summary", "history", "open", "closed", "net", "gross",
    "plan", "actual", "share", "trend", "first", "last", "late", "valid", "raw", "clean", "mapped",
    "ranked", "merged", "split", "fixed", "spread", "peak", "base", "cost", "count"
  };
  private static final String[] MEASURES = {
    "amount", "weight", "volume", "date", "code", "name", "rate", "fat", "protein", "status",
    "reason", "number", "share", "limit", "level", "score", "group", "region", "start", "end",
    "total", "mean", "age", "price", "tax", "fee", "iban", "phone", "street", "batch"
  };
  private static final String[] TYPES = {
    "numeric(12,2)", "text", "integer", "date", "bigint", "timestamp"
  };
  private static final String[] SCHEMAS = {
    "landing", "staging", "core", "joined", "history", "derived", "finance", "supply", "quality",
    "mart", "report", "share"
  };

  private final WholeEstate estate;
  private final long seed;

  EstateEvents(WholeEstate estate, long seed) {
    this.estate = estate;
    this.seed = seed;
  }

  // ------------------------------------------------------------------ names

  private static String pick(String[] words, long number) {
    return words[(int) Math.floorMod(number, (long) words.length)];
  }

  private static long mix(long a) {
    long z = (a + 1) * 0x9E3779B97F4A7C15L;
    z = (z ^ (z >>> 30)) * 0xBF58476D1CE4E5B9L;
    return (z ^ (z >>> 27)) >>> 1;
  }

  boolean isFile(int table) {
    return estate.layer[table] == 0 && table > WholeEstate.CURRENCY && table % 3 == 0;
  }

  /** As {@code db.schema.table}, or a path in the lake. */
  String name(int table) {
    String name = pick(THINGS, mix(table)) + "_" + pick(FACES, mix(table) / 97) + "_" + table;
    if (table == WholeEstate.CALENDAR) {
      name = "calendar";
    } else if (table == WholeEstate.CURRENCY) {
      name = "currency";
    } else if (isFile(table)) {
      return "landed/" + name;
    }
    return "db" + table % DATABASES + "." + SCHEMAS[estate.layer[table]] + "." + name;
  }

  String namespace(int table) {
    return isFile(table) ? LAKE : HOST;
  }

  String column(int column) {
    int table = estate.tableOf(column);
    long mixed = mix(column);
    return pick(THINGS, mixed)
        + "_"
        + pick(MEASURES, mixed / 89)
        + "_"
        + (column - estate.first[table]);
  }

  private static String type(int column) {
    return pick(TYPES, mix(column) / 7);
  }

  private static String owner(int number) {
    return "team:Team " + number % 200 + " <team" + number % 200 + "@estate.example>";
  }

  private String job(int table) {
    return "flow_" + estate.layer[table] + "_" + table / 20 + ".make_" + table;
  }

  /** The reference of a table, model or chart. */
  String reference(int table) {
    return switch (estate.layer[table]) {
      case WholeEstate.MODELS -> item(table, "model");
      case WholeEstate.CHARTS -> item(table, "chart");
      default -> namespace(table) + "/" + name(table);
    };
  }

  String dashboard(int workspace) {
    return TOOL + "://" + INSTANCE + "/w" + workspace + "/dashboard/d0";
  }

  private String item(int table, String kind) {
    return TOOL + "://" + INSTANCE + "/w" + workspaceOf(table) + "/" + kind + "/i" + table;
  }

  private int workspaceOf(int table) {
    int model = estate.layer[table] == WholeEstate.MODELS ? table : estate.inputs[table][0];
    return (model - estate.layerStart(WholeEstate.MODELS)) / MODELS_IN_WORKSPACE;
  }

  // ------------------------------------------------------------------ events

  /** The first table that a job writes; those before are sources. */
  int firstJob() {
    return estate.layerStart(1);
  }

  int endOfJobs() {
    return estate.layerStart(WholeEstate.MODELS);
  }

  /** What is known of a source. */
  byte[] source(int table) {
    ObjectNode event = JSON.createObjectNode();
    event.put("eventTime", FIRST_NIGHT.toString());
    event
        .put("producer", "https://estate.example/catalog")
        .put("schemaURL", "https://estate.example/s");
    dataset(event.putObject("dataset"), table, true);
    return bytes(event);
  }

  /** The run of a table's job in a night; the same job has the same lineage every night. */
  byte[] run(int table, int night) {
    return run(table, night, 0);
  }

  /** One of several runs of a night, the first of them is 0. */
  byte[] run(int table, int night, int nth) {
    var random = new Random(mix(seed + table * 31L + night * 7_919L + nth * 104_729L));
    Instant at =
        FIRST_NIGHT
            .plus(Duration.ofDays(night))
            .plus(Duration.ofMinutes(25L * estate.layer[table]))
            .plusMillis(table * 17L % 1_200_000 + nth * 20L);
    boolean failed = random.nextDouble() < FAILED;
    ObjectNode event = JSON.createObjectNode();
    event.put("eventType", failed ? "FAIL" : "COMPLETE").put("eventTime", at.toString());
    event
        .put("producer", "https://estate.example/runner")
        .put("schemaURL", "https://estate.example/s");
    ObjectNode run =
        event
            .putObject("run")
            .put("runId", new UUID(seed, mix((table * 64L + night) * 100_000 + nth)).toString());
    ObjectNode runFacets = run.putObject("facets");
    facet(runFacets, "nominalTime")
        .put("nominalStartTime", FIRST_NIGHT.plus(Duration.ofDays(night)).toString());
    ObjectNode parent = facet(runFacets, "parent");
    String flow = job(table).substring(0, job(table).indexOf('.'));
    parent
        .putObject("run")
        .put("runId", new UUID(seed + 1, mix(flow.hashCode() * 64L + night)).toString());
    parent.putObject("job").put("namespace", "nightly").put("name", flow);
    if (failed) {
      facet(runFacets, "errorMessage")
          .put("message", "value too long for a column of " + name(table))
          .put("programmingLanguage", "SQL");
    }
    ObjectNode job = event.putObject("job").put("namespace", "nightly").put("name", job(table));
    ObjectNode jobFacets = job.putObject("facets");
    owners(jobFacets, table / 20);
    boolean sql = isSql(table);
    if (sql) {
      facet(jobFacets, "sql").put("query", query(table));
    }
    ArrayNode inputs = event.putArray("inputs");
    for (int input : estate.inputs[table]) {
      ObjectNode read = dataset(inputs.addObject(), input, !sql);
      if (input % 20 == 1 && random.nextDouble() < CHECKED * 20) {
        ArrayNode checks =
            facet(read.putObject("inputFacets"), "dataQualityAssertions").putArray("assertions");
        checks.addObject().put("assertion", "not_empty").put("success", random.nextInt(200) > 0);
      }
    }
    if (!failed) {
      ObjectNode output = dataset(event.putArray("outputs").addObject(), table, true);
      if (!sql) {
        columnMap((ObjectNode) output.get("facets"), table);
      }
      facet(output.putObject("outputFacets"), "outputStatistics")
          .put("rowCount", 1_000 + table % 977 * 100 + random.nextInt(50));
    } else {
      dataset(event.putArray("outputs").addObject(), table, false);
    }
    return bytes(event);
  }

  boolean isSql(int table) {
    for (int input : estate.inputs[table]) {
      if (isFile(input)) {
        return false;
      }
    }
    return table % 2 == 0;
  }

  private ObjectNode dataset(ObjectNode to, int table, boolean described) {
    to.put("namespace", namespace(table)).put("name", name(table));
    ObjectNode facets = to.putObject("facets");
    if (described) {
      ArrayNode fields = facet(facets, "schema").putArray("fields");
      for (int column = estate.first[table]; column < estate.first[table + 1]; column++) {
        fields.addObject().put("name", column(column)).put("type", type(column));
      }
      owners(facets, table);
      facet(facets, "documentation").put("description", description(table));
      if (table % 7 == 0) {
        facet(facets, "tags")
            .putArray("tags")
            .addObject()
            .put("key", pick(SCHEMAS, table / 7))
            .put("value", "true");
      }
    }
    return to;
  }

  private static String description(int number) {
    var words = new StringJoiner(" ", "One row for each ", ".");
    for (int i = 0; i < 8; i++) {
      long mixed = mix(number * 16L + i);
      words.add(i % 2 == 0 ? pick(FACES, mixed) : pick(THINGS, mixed));
    }
    return words.toString();
  }

  private static void owners(ObjectNode facets, int number) {
    facet(facets, "ownership")
        .putArray("owners")
        .addObject()
        .put("name", owner(number))
        .put("type", "OWNER");
  }

  private static ObjectNode facet(ObjectNode facets, String name) {
    return facets
        .putObject(name)
        .put("_producer", "https://estate.example/runner")
        .put("_schemaURL", "https://estate.example/facets/" + name);
  }

  private void columnMap(ObjectNode facets, int table) {
    ObjectNode map = facet(facets, "columnLineage");
    ObjectNode fields = map.putObject("fields");
    for (int column = estate.first[table]; column < estate.first[table + 1]; column++) {
      ArrayNode from = fields.putObject(column(column)).putArray("inputFields");
      for (int source : estate.sources(column)) {
        field(from, source, "DIRECT", subtype(column, table));
      }
    }
    ArrayNode all = map.putArray("dataset");
    for (int input : estate.inputs[table]) {
      field(all, estate.first[input], "INDIRECT", "JOIN");
    }
    if (estate.aggregated[table]) {
      field(all, estate.sources(estate.first[table])[0], "INDIRECT", "GROUP_BY");
    }
  }

  private String subtype(int column, int table) {
    int nth = column - estate.first[table];
    if (estate.aggregated[table] && nth >= estate.width(table) / 2) {
      return "AGGREGATION";
    }
    return estate.sources(column).length > 1 || nth % 5 == 4 ? "TRANSFORMATION" : "IDENTITY";
  }

  private void field(ArrayNode to, int source, String type, String subtype) {
    int table = estate.tableOf(source);
    ObjectNode field = to.addObject();
    field.put("namespace", namespace(table)).put("name", name(table)).put("field", column(source));
    field.putArray("transformations").addObject().put("type", type).put("subtype", subtype);
  }

  private String query(int table) {
    var alias = new LinkedHashMap<Integer, String>();
    for (int input : estate.inputs[table]) {
      alias.put(input, "t" + alias.size());
    }
    var names = new StringJoiner(", ");
    var values = new StringJoiner(",\n  ");
    for (int column = estate.first[table]; column < estate.first[table + 1]; column++) {
      names.add(column(column));
      var parts = new ArrayList<String>();
      for (int source : estate.sources(column)) {
        parts.add(alias.get(estate.tableOf(source)) + "." + column(source));
      }
      String value =
          switch (subtype(column, table)) {
            case "AGGREGATION" -> "max(" + String.join(" || ", parts) + ")";
            case "TRANSFORMATION" -> "coalesce(" + String.join(", ", parts) + ", null)";
            default -> parts.get(0);
          };
      values.add(value + " as " + column(column));
    }
    int base = estate.inputs[table][0];
    var from = new StringBuilder(name(base)).append(" t0");
    alias.forEach(
        (input, name) -> {
          if (input != base) {
            from.append("\n  join " + name(input) + " " + name + " on " + name + ".")
                .append(column(estate.first[input]) + " = t0." + column(estate.first[base]));
          }
        });
    String group = "";
    if (estate.aggregated[table]) {
      int source = estate.sources(estate.first[table])[0];
      group = "\ngroup by " + alias.get(estate.tableOf(source)) + "." + column(source);
    }
    return "insert into "
        + name(table)
        + " ("
        + names
        + ")\nselect "
        + values
        + "\nfrom "
        + from
        + group;
  }

  private static byte[] bytes(ObjectNode event) {
    return event.toString().getBytes(StandardCharsets.UTF_8);
  }

  // ------------------------------------------------------------------ workspaces

  int workspaces() {
    int models = estate.layerStart(WholeEstate.CHARTS) - estate.layerStart(WholeEstate.MODELS);
    return (models + MODELS_IN_WORKSPACE - 1) / MODELS_IN_WORKSPACE;
  }

  /** All workspaces' descriptions, in turn. */
  List<List<Integer>> chartsOfWorkspaces() {
    var charts = new ArrayList<List<Integer>>();
    for (int i = 0; i < workspaces(); i++) {
      charts.add(new ArrayList<>());
    }
    for (int table = estate.layerStart(WholeEstate.CHARTS); table < estate.tables(); table++) {
      charts.get(workspaceOf(table)).add(table);
    }
    return charts;
  }

  byte[] workspace(int number, List<Integer> charts) {
    ObjectNode text = JSON.createObjectNode();
    text.put("format", "longthread-workspace/1").put("tool", TOOL).put("instance", INSTANCE);
    text.put("at", FIRST_NIGHT.plus(Duration.ofHours(8)).toString());
    text.putObject("workspace").put("id", "w" + number).put("title", "Workspace " + number);
    ObjectNode connection = text.putArray("connections").addObject();
    connection.put("id", "warehouse").put("title", "Warehouse").put("kind", "postgresql");
    connection.putObject("names").put("namespace", HOST);
    ArrayNode models = text.putArray("models");
    int first = estate.layerStart(WholeEstate.MODELS) + number * MODELS_IN_WORKSPACE;
    int end = Math.min(first + MODELS_IN_WORKSPACE, estate.layerStart(WholeEstate.CHARTS));
    for (int model = first; model < end; model++) {
      ObjectNode made = items(models, model, "Model");
      ArrayNode inputs = made.putArray("inputs");
      for (int input : estate.inputs[model]) {
        inputs
            .addObject()
            .put("as", "t" + input)
            .put("connection", "warehouse")
            .put("object", name(input));
      }
      fields(made.putArray("fields"), model);
    }
    ArrayNode shown = text.putArray("charts");
    for (int chart : charts) {
      ObjectNode made = items(shown, chart, "Chart");
      made.put("of", "model/i" + estate.inputs[chart][0]);
      ArrayNode fields = made.putArray("fields");
      for (int column = estate.first[chart]; column < estate.first[chart + 1]; column++) {
        fields
            .addObject()
            .put("field", column(estate.sources(column)[0]))
            .put("name", column(column))
            .put("how", column % 3 == 0 ? "aggregated" : "copied");
      }
    }
    pages(text.putArray("reports"), "r", "Report", charts, 3, number);
    pages(text.putArray("dashboards"), "d", "Dashboard", charts, 8, number);
    return bytes(text);
  }

  private ObjectNode items(ArrayNode to, int table, String kind) {
    ObjectNode made = to.addObject().put("id", "i" + table);
    made.put(
        "title",
        kind
            + " of "
            + pick(THINGS, mix(table))
            + " "
            + pick(FACES, mix(table) / 97)
            + " "
            + table);
    made.putArray("owners").add(owner(table));
    return made;
  }

  private void fields(ArrayNode to, int model) {
    for (int column = estate.first[model]; column < estate.first[model + 1]; column++) {
      ArrayNode from =
          to.addObject().put("name", column(column)).put("type", type(column)).putArray("from");
      for (int source : estate.sources(column)) {
        int table = estate.tableOf(source);
        ObjectNode field = from.addObject();
        field.put("input", "t" + table).put("field", column(source));
        if (estate.sources(column).length > 1) {
          field.put("how", "computed");
        }
      }
    }
  }

  private static void pages(
      ArrayNode to, String id, String title, List<Integer> charts, int each, int workspace) {
    for (int from = 0; from < charts.size(); from += each) {
      ObjectNode page = to.addObject().put("id", id + from / each);
      page.put("title", title + " " + workspace + " " + from / each);
      page.putArray("owners").add(owner(workspace));
      ArrayNode shown = page.putArray("charts");
      charts
          .subList(from, Math.min(charts.size(), from + each))
          .forEach(c -> shown.add("chart/i" + c));
    }
  }
}
