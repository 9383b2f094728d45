package longthread.demo;

import java.io.IOException;
import java.nio.file.Files;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.JsonNodeFactory;
import tools.jackson.databind.node.ObjectNode;

/**
 * The orchestrator stand-in. It runs the tasks of a night in order, really, and emits what it did:
 * a run of each pipeline, and below it a run of each task with START and COMPLETE or FAIL.
 */
final class Nightshift {
  static final String PRODUCER = "https://hollinvale.example/nightshift/2.3";
  static final String NAMESPACE = "nightshift";
  private static final String DDL_LOG = "https://hollinvale.example/barn-ddl-log/1.1";
  private static final String OLD_NAME = "core.milk_sample";
  private static final String NEW_NAME = "core.lab_reading";
  private static final String ADDRESS = "https://nightshift.hollinvale.example/tasks/";

  /**
   * The tables whose columns are measured as tasks read them, and which rows are those of a day.
   */
  private static final Map<String, String> MEASURED =
      Map.of(
          "raw.pickup", "picked_at::date = date '{day}'",
          "raw.lab_reading", "measured_at::date = date '{day}'",
          "core.pickup", "pickup_day = date '{day}'",
          "core.lab_reading", "reading_day = date '{day}'");

  private final Barn barn;
  private final Emitter emitter;
  private List<Task> tasks = Task.all();
  private @Nullable Fault fault;
  private final JsonNode descriptions = new JsonMapper().readTree(Task.resource("datasets.json"));

  Nightshift(Barn barn, Emitter emitter) {
    this.barn = barn;
    this.emitter = emitter;
  }

  /** From now on something goes wrong. */
  void suffer(Fault what) {
    fault = what;
  }

  /** From now on the tasks run as they did before their last change, or as they do since. */
  void useCode(boolean beforeTheChange) {
    tasks = beforeTheChange ? Task.before() : Task.all();
  }

  /**
   * Reports a night before the warehouse's sample table got its present name; nothing is run.
   *
   * @param start when the task started then
   */
  void tellOfOldName(LocalDate day, Instant start) throws SQLException {
    for (Task task : Task.before()) {
      if (task.writes().contains(NEW_NAME)) {
        UUID run = UUID.randomUUID();
        Task then = task.writing(OLD_NAME);
        emitter.send(taskEvent("START", then, run, UUID.randomUUID(), start, day));
        emitter.send(
            taskEvent("COMPLETE", then, run, UUID.randomUUID(), start.plusSeconds(9), day));
      }
    }
  }

  /** Reports that the warehouse's sample table got its present name. */
  void tellOfRename(Instant at) {
    ObjectNode event = Emitter.event("DatasetEvent", at, DDL_LOG);
    ObjectNode dataset = Names.dataset(NEW_NAME).node();
    event.set("dataset", dataset);
    Emitter.facet(dataset.putObject("facets"), "lifecycleStateChange", DDL_LOG)
        .put("lifecycleStateChange", "RENAME")
        .set("previousIdentifier", Names.dataset(OLD_NAME).node());
    emitter.send(event);
  }

  /** Reports the schema that a table has now, as the log of its database does. */
  void tellOfSchema(String table, Instant at) throws SQLException {
    ObjectNode event = Emitter.event("DatasetEvent", at, DDL_LOG);
    ObjectNode dataset = Names.dataset(table).node();
    event.set("dataset", dataset);
    ArrayNode fields =
        Emitter.facet(dataset.putObject("facets"), "schema", DDL_LOG).putArray("fields");
    columns(table)
        .forEach((column, type) -> fields.addObject().put("name", column).put("type", type));
    emitter.send(event);
  }

  /**
   * Runs a night.
   *
   * @param day the day whose data it works on
   * @param clock when a task that is planned for a time of night starts
   */
  void run(LocalDate day, Function<Task, Instant> clock) throws SQLException, IOException {
    run(day, clock, tasks);
  }

  /** Runs what waited for the laboratory's file of a day, which came late; the rest was done. */
  void makeUpFor(LocalDate day, Function<Task, Instant> clock) throws SQLException, IOException {
    run(
        day,
        clock,
        tasks.stream().filter(task -> !task.pipeline().equals("collect_nightly")).toList());
  }

  private void run(LocalDate day, Function<Task, Instant> clock, List<Task> some)
      throws SQLException, IOException {
    var byPipeline = new LinkedHashMap<String, List<Task>>();
    some.forEach(
        task -> byPipeline.computeIfAbsent(task.pipeline(), k -> new ArrayList<>()).add(task));
    var done = new HashSet<String>();
    for (var pipeline : byPipeline.entrySet()) {
      runPipeline(pipeline.getKey(), pipeline.getValue(), day, clock, done);
    }
  }

  private void runPipeline(
      String name, List<Task> own, LocalDate day, Function<Task, Instant> clock, Set<String> done)
      throws SQLException, IOException {
    List<Task> ready = own.stream().filter(task -> canStart(task, own, day)).toList();
    if (ready.isEmpty()) {
      return; // its file never came, so the scheduler never started it
    }
    UUID pipelineRun = UUID.randomUUID();
    Instant start = clock.apply(ready.get(0)).minusSeconds(2);
    emitter.send(pipelineEvent("START", name, pipelineRun, start, day, null));
    Instant end = start;
    boolean failed = false;
    for (Task task : ready) {
      if (task.after() != null && !done.contains(task.after())) {
        continue;
      }
      Instant taskEnd = runTask(task, pipelineRun, day, clock.apply(task), done);
      end = taskEnd.isAfter(end) ? taskEnd : end;
      failed |= !done.contains(task.name());
    }
    String error = failed ? "a task failed" : null;
    emitter.send(
        pipelineEvent(
            failed ? "FAIL" : "COMPLETE", name, pipelineRun, end.plusSeconds(1), day, error));
  }

  private boolean canStart(Task task, List<Task> own, LocalDate day) {
    if (task.does().equals("fetch")) {
      return Files.exists(barn.readings(day));
    }
    return task.after() == null
        || own.stream()
            .filter(other -> other.name().equals(task.after()))
            .allMatch(other -> canStart(other, own, day));
  }

  private Instant runTask(
      Task task, UUID pipelineRun, LocalDate day, Instant start, Set<String> done)
      throws SQLException, IOException {
    UUID run = UUID.randomUUID();
    emitter.send(taskEvent("START", task, run, pipelineRun, start, day));
    long began = System.nanoTime();
    try {
      if (fault == Fault.FAILED_TASK && task.name().equals(Fault.FAILING_TASK)) {
        throw new TaskFailedException(Fault.FAILURE);
      }
      Map<String, String> checks = check(task, day);
      Barn.Amount written = worked(task, day);
      Instant end = start.plus(Duration.ofNanos(System.nanoTime() - began));
      ObjectNode event = taskEvent("COMPLETE", task, run, pipelineRun, end, day);
      statistics(event, task, written, checks, day);
      emitter.send(event);
      done.add(task.name());
      return end;
    } catch (TaskFailedException e) {
      Instant end = start.plus(Duration.ofNanos(System.nanoTime() - began));
      ObjectNode event = taskEvent("FAIL", task, run, pipelineRun, end, day);
      error(event, e.getMessage());
      emitter.send(event);
      return end;
    }
  }

  private static final class TaskFailedException extends Exception {
    private static final long serialVersionUID = 1;

    TaskFailedException(String message) {
      super(message);
    }
  }

  private Map<String, String> check(Task task, LocalDate day) throws SQLException {
    var results = new LinkedHashMap<String, String>();
    for (String check : task.checks()) {
      String[] parts = check.split("\\|(?!\\|)(?<!\\|\\|)", -1);
      String passed = barn.value(fill(parts[2], day));
      results.put(
          check, (passed.equals("t") ? "pass|" : "fail|") + barn.value(fill(parts[4], day)));
    }
    return results;
  }

  /** What the database refuses fails the task, as it would anywhere. */
  private Barn.Amount worked(Task task, LocalDate day) throws IOException, TaskFailedException {
    try {
      return work(task, day);
    } catch (SQLException e) {
      throw new TaskFailedException(String.valueOf(e.getMessage()).lines().findFirst().orElse(""));
    }
  }

  private Barn.Amount work(Task task, LocalDate day)
      throws SQLException, IOException, TaskFailedException {
    if (task.guard() != null) {
      String[] parts = task.guard().split("\\|");
      if (!barn.value(fill(parts[0], day)).equals("t")) {
        throw new TaskFailedException(fill(parts[1].strip(), day));
      }
    }
    String text = fill(task.text(), day);
    return switch (task.does()) {
      case "unload" -> barn.unload(text, task.writes().get(0), day);
      case "fetch" -> barn.fetch(task.writes().get(0), day);
      case "load" -> load(task, text, day);
      case "check" -> {
        barn.value(text);
        yield new Barn.Amount(0, 0);
      }
      default -> new Barn.Amount(barn.run(text), 0);
    };
  }

  private Barn.Amount load(Task task, String copy, LocalDate day) throws SQLException, IOException {
    String from = task.reads().get(0);
    int end = copy.indexOf(';');
    Barn.Amount amount =
        barn.load(end < 0 ? copy : copy.substring(0, end), from, day, from.equals("lake/farm"));
    if (end >= 0) {
      barn.run(copy.substring(end + 1));
    }
    return amount;
  }

  /** Puts the day into a text; a period is ten days long and begins on the 1st, 11th or 21st. */
  static String fill(String text, LocalDate day) {
    int first = Math.min(2, (day.getDayOfMonth() - 1) / 10) * 10 + 1;
    return text.replace("{day}", day.toString())
        .replace("{day8}", day.toString().replace("-", ""))
        .replace("{period}", day.withDayOfMonth(first).toString());
  }

  // ------------------------------------------------------------------ events

  private static ObjectNode pipelineEvent(
      String type, String name, UUID run, Instant at, LocalDate day, @Nullable String error) {
    ObjectNode event = Emitter.event("RunEvent", at, PRODUCER).put("eventType", type);
    ObjectNode runNode = event.putObject("run").put("runId", run.toString());
    nominal(runNode.putObject("facets"), day);
    ObjectNode job = event.putObject("job").put("namespace", NAMESPACE).put("name", name);
    ObjectNode facets = job.putObject("facets");
    jobType(facets, "DAG");
    Emitter.facet(facets, "longthread_page", PRODUCER).put("url", ADDRESS + name);
    if (error != null) {
      error(event, error);
    }
    return event;
  }

  private static void jobType(ObjectNode facets, String type) {
    Emitter.facet(facets, "jobType", PRODUCER)
        .put("processingType", "BATCH")
        .put("integration", "NIGHTSHIFT")
        .put("jobType", type);
  }

  private static void nominal(ObjectNode facets, LocalDate day) {
    Emitter.facet(facets, "nominalTime", PRODUCER)
        .put("nominalStartTime", day.atStartOfDay().atOffset(ZoneOffset.UTC).toInstant().toString())
        .put(
            "nominalEndTime",
            day.plusDays(1).atStartOfDay().atOffset(ZoneOffset.UTC).toInstant().toString());
  }

  private static void error(ObjectNode event, String message) {
    ObjectNode facets = (ObjectNode) event.path("run").path("facets");
    Emitter.facet(facets, "errorMessage", PRODUCER)
        .put("message", message)
        .put("programmingLanguage", "SQL");
  }

  private ObjectNode taskEvent(
      String type, Task task, UUID run, UUID pipelineRun, Instant at, LocalDate day)
      throws SQLException {
    ObjectNode event = Emitter.event("RunEvent", at, PRODUCER).put("eventType", type);
    ObjectNode runFacets = event.putObject("run").put("runId", run.toString()).putObject("facets");
    nominal(runFacets, day);
    ObjectNode parent = Emitter.facet(runFacets, "parent", PRODUCER);
    parent.putObject("run").put("runId", pipelineRun.toString());
    parent.putObject("job").put("namespace", NAMESPACE).put("name", task.pipeline());
    ObjectNode root = parent.putObject("root");
    root.putObject("run").put("runId", pipelineRun.toString());
    root.putObject("job").put("namespace", NAMESPACE).put("name", task.pipeline());
    Emitter.facet(runFacets, "processing_engine", PRODUCER)
        .put("name", "barn")
        .put("version", "15")
        .put("openlineageAdapterVersion", "2.3.1");
    if (task.after() != null) {
      Emitter.facet(runFacets, "jobDependencies", PRODUCER)
          .put("trigger_rule", "ALL_SUCCESS")
          .putArray("upstream")
          .addObject()
          .putObject("job")
          .put("namespace", NAMESPACE)
          .put("name", task.after());
    }
    ObjectNode jobFacets =
        event
            .putObject("job")
            .put("namespace", NAMESPACE)
            .put("name", task.name())
            .putObject("facets");
    jobType(jobFacets, "TASK");
    Emitter.facet(jobFacets, "documentation", PRODUCER).put("description", task.about());
    Emitter.owner(jobFacets, task.owner(), PRODUCER);
    Emitter.facet(jobFacets, "longthread_page", PRODUCER).put("url", ADDRESS + task.name());
    if (task.does().equals("fetch")) {
      Emitter.facet(jobFacets, "sourceCode", PRODUCER)
          .put("language", "text")
          .put("sourceCode", task.text());
    } else {
      Emitter.facet(jobFacets, "sql", PRODUCER)
          .put("query", fill(task.text(), day))
          .put("dialect", "postgres");
    }
    ArrayNode inputs = event.putArray("inputs");
    for (String name : task.reads()) {
      inputs.add(dataset(name, day));
    }
    ArrayNode outputs = event.putArray("outputs");
    for (String name : task.writes()) {
      ObjectNode output = dataset(name, day);
      if (!task.isSql()) {
        columnLineage((ObjectNode) output.path("facets"), task.map(), task.rows(), PRODUCER, day);
      }
      outputs.add(output);
    }
    parts(event, task, day);
    return event;
  }

  /** Which part of its datasets a task touches, and what it writes anew. */
  private static void parts(ObjectNode event, Task task, LocalDate day) {
    int at = 0;
    for (String name : task.reads()) {
      part(
          event.path("inputs").get(at++),
          "inputFacets",
          "subset",
          "inputCondition",
          task,
          name,
          day);
    }
    at = 0;
    for (String name : task.writes()) {
      JsonNode output = event.path("outputs").get(at++);
      part(output, "outputFacets", "outputSubset", "outputCondition", task, name, day);
      if ("replaced".equals(task.parts().get(name))) {
        Emitter.facet((ObjectNode) output.path("facets"), "lifecycleStateChange", PRODUCER)
            .put("lifecycleStateChange", "OVERWRITE");
      }
    }
  }

  private static void part(
      JsonNode dataset,
      String facets,
      String key,
      String member,
      Task task,
      String name,
      LocalDate day) {
    List<String> values = partitions(task.parts().getOrDefault(name, ""), day);
    if (values.isEmpty()) {
      return;
    }
    ObjectNode condition =
        Emitter.facet(((ObjectNode) dataset).withObject(facets), key, PRODUCER).putObject(member);
    ArrayNode partitions = condition.put("type", "partition").putArray("partitions");
    for (String value : values) {
      String[] words = value.split("=");
      partitions
          .addObject()
          .put("identifier", value)
          .putObject("dimensions")
          .put(words[0], words[1]);
    }
  }

  private static List<String> partitions(String which, LocalDate day) {
    LocalDate period = LocalDate.parse(fill("{period}", day));
    return switch (which) {
      case "day" -> List.of("day=" + day);
      case "days" -> period.datesUntil(day.plusDays(1)).map(each -> "day=" + each).toList();
      case "period" -> List.of("period=" + period);
      default -> List.of();
    };
  }

  /** A dataset with all that its describer knows: schema, owner, words, tags. */
  private ObjectNode dataset(String name, LocalDate day) throws SQLException {
    Names.Dataset dataset = Names.dataset(name, day);
    ObjectNode node = dataset.node();
    ObjectNode facets = node.putObject("facets");
    JsonNode known = descriptions.path(name);
    Emitter.facet(facets, "dataSource", PRODUCER)
        .put("name", dataset.system())
        .put("uri", dataset.namespace());
    ArrayNode fields = Emitter.facet(facets, "schema", PRODUCER).putArray("fields");
    columns(name)
        .forEach(
            (column, type) -> {
              ObjectNode field = fields.addObject().put("name", column).put("type", type);
              String words = known.path("columns").path(column).stringValue("");
              if (!words.isEmpty()) {
                field.put("description", words);
              }
            });
    if (known.path("about").isString()) {
      Emitter.facet(facets, "documentation", PRODUCER)
          .put("description", known.path("about").stringValue());
    }
    Emitter.owner(facets, known.path("owner").stringValue(null), PRODUCER);
    tags(facets, known);
    Emitter.facet(facets, "datasetType", PRODUCER)
        .put("datasetType", name.contains("/") ? "FILE" : "TABLE");
    return node;
  }

  private static void tags(ObjectNode facets, JsonNode known) {
    if (known.path("tags").isEmpty() && known.path("columnTags").isEmpty()) {
      return;
    }
    ArrayNode tags = Emitter.facet(facets, "tags", PRODUCER).putArray("tags");
    for (JsonNode tag : known.path("tags")) {
      tags.addObject().put("key", tag.stringValue()).put("value", "true").put("source", "CONFIG");
    }
    known
        .path("columnTags")
        .properties()
        .forEach(
            tag ->
                tags.addObject()
                    .put("key", tag.getValue().stringValue())
                    .put("value", "true")
                    .put("source", "MANUAL")
                    .put("field", tag.getKey()));
  }

  private Map<String, String> columns(String name) throws SQLException {
    if (!name.contains("/")) {
      return barn.columns(name.equals(OLD_NAME) ? NEW_NAME : name);
    }
    // A file has the columns that some task reads from or writes to it, all of them text.
    var columns = new LinkedHashMap<String, String>();
    for (Task task : tasks) {
      if (task.writes().contains(name)) {
        task.map().keySet().forEach(column -> columns.put(column, "text"));
      }
      task.map()
          .values()
          .forEach(
              sources ->
                  sources.stream()
                      .filter(source -> source.dataset().equals(name))
                      .forEach(source -> columns.putIfAbsent(source.column(), "text")));
    }
    return columns;
  }

  static void columnLineage(
      ObjectNode facets,
      Map<String, List<Task.Source>> map,
      List<Task.Source> rows,
      String producer,
      LocalDate day) {
    ObjectNode lineage = Emitter.facet(facets, "columnLineage", producer);
    ObjectNode fields = lineage.putObject("fields");
    map.forEach(
        (column, sources) -> {
          ArrayNode inputs = fields.putObject(column).putArray("inputFields");
          sources.forEach(source -> inputs.add(input(source, day)));
        });
    ArrayNode dataset = lineage.putArray("dataset");
    rows.forEach(source -> dataset.add(input(source, day)));
  }

  private static ObjectNode input(Task.Source source, LocalDate day) {
    ObjectNode node = Names.dataset(source.dataset(), day).node().put("field", source.column());
    boolean direct = Set.of("IDENTITY", "TRANSFORMATION", "AGGREGATION").contains(source.flow());
    ObjectNode transformation =
        JsonNodeFactory.instance
            .objectNode()
            .put("type", direct ? "DIRECT" : "INDIRECT")
            .put("subtype", source.flow())
            .put("masking", source.masked());
    node.putArray("transformations").add(transformation);
    return node;
  }

  private void statistics(
      ObjectNode event, Task task, Barn.Amount written, Map<String, String> checks, LocalDate day)
      throws SQLException, IOException {
    for (JsonNode output : event.path("outputs")) {
      ObjectNode figures =
          Emitter.facet(
              ((ObjectNode) output).withObject("outputFacets"), "outputStatistics", PRODUCER);
      figures.put("rowCount", written.rows());
      if (written.bytes() > 0) {
        figures.put("size", written.bytes()).put("fileCount", 1);
      }
    }
    var inputs = new LinkedHashSet<>(task.reads());
    int at = 0;
    for (String name : inputs) {
      ObjectNode facets = ((ObjectNode) event.path("inputs").get(at++)).withObject("inputFacets");
      if (!name.contains("/")) {
        Emitter.facet(facets, "inputStatistics", PRODUCER).put("rowCount", barn.count(name));
      }
      if (task.does().equals("unload")) {
        ObjectNode condition =
            Emitter.facet(facets, "subset", PRODUCER).putObject("inputCondition");
        condition.put("type", "compare").put("comparison", "EQUAL");
        condition.putObject("left").put("type", "field").put("field", "day");
        condition.putObject("right").put("type", "literal").put("value", day.toString());
      }
      measured(facets, name, day);
      if (!checks.isEmpty()) {
        assertions(facets, checks, day);
      }
    }
  }

  /** The figures of the columns that a task read, of the rows of its day. */
  private void measured(ObjectNode facets, String name, LocalDate day)
      throws SQLException, IOException {
    String condition = MEASURED.get(name);
    Map<String, Barn.Measure> measures =
        name.equals("lab/readings")
            ? barn.measuresOfReadings(day)
            : condition == null ? Map.of() : barn.measures(name, fill(condition, day));
    if (measures.isEmpty()) {
      return;
    }
    ObjectNode metrics = Emitter.facet(facets, "dataQualityMetrics", PRODUCER);
    Barn.Measure any = measures.values().iterator().next();
    metrics.put("rowCount", any.count() + any.nulls());
    ObjectNode columns = metrics.putObject("columnMetrics");
    measures.forEach(
        (column, measure) ->
            columns
                .putObject(column)
                .put("count", measure.count())
                .put("nullCount", measure.nulls())
                .put("sum", measure.sum())
                .put("min", measure.min())
                .put("max", measure.max()));
  }

  private static void assertions(ObjectNode facets, Map<String, String> checks, LocalDate day) {
    ArrayNode assertions =
        Emitter.facet(facets, "dataQualityAssertions", PRODUCER).putArray("assertions");
    checks.forEach(
        (check, result) -> {
          String[] parts = check.split("\\|(?!\\|)(?<!\\|\\|)", -1);
          String[] outcome = result.split("\\|", 2);
          ObjectNode assertion =
              assertions
                  .addObject()
                  .put("assertion", "sql")
                  .put("name", parts[0].strip())
                  .put("success", outcome[0].equals("pass"))
                  .put("severity", "error")
                  .put("expected", parts[3].strip())
                  .put("actual", outcome[1])
                  .put("content", fill(parts[2].strip(), day))
                  .put("contentType", "sql");
          if (!parts[1].isBlank()) {
            assertion.put("column", parts[1].strip());
          }
        });
  }
}
