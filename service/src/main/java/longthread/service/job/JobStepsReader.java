package longthread.service.job;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.TreeSet;
import longthread.core.asset.Card;
import longthread.core.asset.ColumnName;
import longthread.core.asset.DatasetName;
import longthread.core.lineage.ColumnLink;
import longthread.core.lineage.Flow;
import longthread.core.lineage.ReportedLineage;
import longthread.core.sql.Derivation;
import longthread.core.sql.Derivation.Derived;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.sql.SqlLineage;
import longthread.service.sql.SqlLineage.SqlConstant;
import longthread.service.sql.SqlLineage.SqlStatementLineage;
import longthread.service.sql.SqlLineage.SqlStep;
import longthread.service.sql.SqlLineage.SqlStepColumn;
import longthread.service.sql.SqlLineage.SqlStepUse;
import longthread.service.storage.StoredText;
import longthread.service.storage.facts.FacetQueries;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Service;
import tools.jackson.databind.JsonNode;

/**
 * How a job computes what it writes: the steps of its SQL, or those it reported itself by the facet
 * {@code longthread_steps}.
 */
@Service
class JobStepsReader {
  static final String FACET = "longthread_steps";

  /**
   * Where a job's report and its SQL do not say the same.
   *
   * @param column the column of the output
   * @param only {@code run} or {@code sql}: who alone reports the source
   * @param source reference of the source
   */
  record Difference(String column, String only, String source, String flow, String how) {}

  /**
   * A job's inside.
   *
   * @param from {@code sql}, {@code facet}, or {@code unknown} where the inside is not known
   * @param text the SQL as it ran last; null if it is not SQL
   * @param tables the references of the assets behind the names of tables
   * @param confirmed how many links of the column map the run and the SQL both report
   */
  record JobSteps(
      String ref,
      String from,
      @Nullable String text,
      @Nullable String dialect,
      List<SqlStatementLineage> statements,
      Map<String, String> tables,
      boolean complete,
      List<String> problems,
      int confirmed,
      List<Difference> differences) {}

  private final Catalog catalog;
  private final JobParts parts;
  private final JobSql jobSql;
  private final FacetQueries facets;

  JobStepsReader(Catalog catalog, JobParts parts, JobSql jobSql, FacetQueries facets) {
    this.catalog = catalog;
    this.parts = parts;
    this.jobSql = jobSql;
    this.facets = facets;
  }

  /** The steps of a job, with its SQL if it ran any. */
  public JobSteps of(Asset job) {
    JobParts.Parts now = parts.of(job.ref());
    Derived sql = jobSql.of(job);
    Card.Code code = job.card().code();
    if (sql != null && code != null) {
      return ofSql(job.ref(), code, now, sql);
    }
    JsonNode facet = facet(job);
    return facet == null
        ? new JobSteps(
            job.ref(), "unknown", null, null, List.of(), Map.of(), false, List.of(), 0, List.of())
        : ofFacet(job.ref(), facet);
  }

  private JobSteps ofSql(String ref, Card.Code code, JobParts.Parts now, Derived sql) {
    var tables = new TreeMap<String, String>();
    sql.tables().forEach((name, dataset) -> tables.put(name, catalog.leadOf(dataset.reference())));
    var differences = new ArrayList<Difference>();
    int confirmed = compare(now.reported(), sql.lineage(), differences);
    return new JobSteps(
        ref,
        "sql",
        code.text(),
        Derivation.dialect(code.dialect(), now.reported()).word(),
        sql.statements().stream().map(s -> SqlLineage.statement(s, null)).toList(),
        tables,
        sql.complete(),
        sql.problems(),
        confirmed,
        differences);
  }

  /** A source of a column, whatever its flow is called: emitters are less exact there. */
  private record Pair(ColumnName from, ColumnName to, boolean carries) {
    static Pair of(ColumnLink link) {
      return new Pair(link.from(), link.to(), link.flow().carriesValues());
    }
  }

  private int compare(
      ReportedLineage reported, ReportedLineage derived, List<Difference> differences) {
    var detailed = new TreeSet<DatasetName>();
    reported.described().forEach(column -> detailed.add(column.dataset()));
    var ofRun = new HashSet<Pair>();
    reported.columns().forEach(link -> ofRun.add(Pair.of(link)));
    var ofSql = new HashSet<Pair>();
    derived.columns().forEach(link -> ofSql.add(Pair.of(link)));
    int confirmed = 0;
    for (ColumnLink link : reported.columns()) {
      if (!derived.outputs().contains(link.to().dataset()) || link.flow() == Flow.ROWS) {
        continue;
      }
      if (ofSql.contains(Pair.of(link))) {
        confirmed++;
      } else {
        differences.add(difference(link, "run"));
      }
    }
    for (ColumnLink link : derived.columns()) {
      boolean rows = link.flow() == Flow.ROWS || link.flow() == Flow.ROWS_TO_VALUE;
      if (detailed.contains(link.to().dataset()) && !rows && !ofRun.contains(Pair.of(link))) {
        differences.add(difference(link, "sql"));
      }
    }
    return confirmed;
  }

  private Difference difference(ColumnLink link, String only) {
    return new Difference(
        catalog.leadOf(link.to().dataset().reference()) + "#" + link.to().path(),
        only,
        catalog.leadOf(link.from().dataset().reference()) + "#" + link.from().path(),
        link.flow().name(),
        link.flow().words());
  }

  private @Nullable JsonNode facet(Asset job) {
    return facets
        .currentOfJob(job.parts().toArray(String[]::new), FACET)
        .map(StoredText::json)
        .filter(facet -> !facet.path("_deleted").booleanValue(false))
        .orElse(null);
  }

  private JobSteps ofFacet(String ref, JsonNode facet) {
    var tables = new TreeMap<String, String>();
    var steps = new ArrayList<SqlStep>();
    for (JsonNode step : facet.path("steps")) {
      String name = step.path("name").stringValue("step " + (steps.size() + 1));
      var columns = new ArrayList<SqlStepColumn>();
      var from = new TreeSet<String>();
      for (JsonNode column : step.path("columns")) {
        columns.add(column(column, tables, from));
      }
      List<SqlStepUse> rows = uses(step.path("rows"), tables, from);
      steps.add(
          new SqlStep(
              name, step.path("kind").stringValue("step"), null, columns, rows, List.copyOf(from)));
    }
    var whole =
        new SqlStatementLineage(
            0,
            0,
            0,
            facet.path("kind").stringValue("program"),
            null,
            false,
            List.of(),
            List.of(),
            List.copyOf(tables.keySet()),
            steps,
            true,
            List.of());
    return new JobSteps(
        ref, "facet", null, null, List.of(whole), tables, true, List.of(), 0, List.of());
  }

  private SqlStepColumn column(JsonNode column, Map<String, String> tables, TreeSet<String> from) {
    var direct = new ArrayList<SqlStepUse>();
    var indirect = new ArrayList<SqlStepUse>();
    for (SqlStepUse use : uses(column.path("from"), tables, from)) {
      boolean carries =
          Flow.ofTransformation("", use.subtype()).map(Flow::carriesValues).orElse(true);
      (carries ? direct : indirect).add(use);
    }
    String name = column.path("name").stringValue("");
    List<SqlConstant> constants =
        column.path("constant").isString()
            ? List.of(new SqlConstant(column.path("constant").stringValue(), 0, 0))
            : List.of();
    return new SqlStepColumn(
        name,
        null,
        column.path("expression").stringValue(null),
        direct,
        indirect,
        constants,
        direct.stream().anyMatch(u -> u.column().equals(name) && !u.subtype().equals("IDENTITY")));
  }

  private List<SqlStepUse> uses(JsonNode list, Map<String, String> tables, TreeSet<String> from) {
    var uses = new ArrayList<SqlStepUse>();
    for (JsonNode use : list) {
      boolean step = use.path("step").isString();
      String of = use.path("step").stringValue("");
      if (!step) {
        String name = use.path("name").stringValue("");
        of = name;
        if (!name.isEmpty() && use.path("namespace").isString()) {
          String reference = new DatasetName(use.path("namespace").stringValue(), name).reference();
          tables.put(name, catalog.leadOf(reference));
        }
      }
      if (!of.isEmpty()) {
        from.add(of);
        String subtype = use.path("subtype").stringValue("TRANSFORMATION");
        uses.add(
            new SqlStepUse(
                of,
                step,
                use.path("field").stringValue("*"),
                subtype,
                Flow.ofTransformation("", subtype).orElse(Flow.TRANSFORMATION).words(),
                use.path("masking").booleanValue(false)));
      }
    }
    return uses;
  }
}
