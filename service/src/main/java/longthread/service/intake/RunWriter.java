package longthread.service.intake;

import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.Collections;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;
import java.util.stream.Collectors;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import longthread.core.event.CanonicalJson;
import longthread.core.history.Fingerprint;
import longthread.core.history.RunState;
import longthread.service.web.StoredText;
import org.jspecify.annotations.Nullable;
import org.springframework.jdbc.core.JdbcTemplate;
import tools.jackson.databind.JsonNode;

/** Computes runs and check results from the facts of the runs that some events touched. */
final class RunWriter {
  private static final Set<String> STANDARD_RUN_FACETS =
      Set.of(
          "parent",
          "nominalTime",
          "errorMessage",
          "processing_engine",
          "externalQuery",
          "extractionError",
          "jobDependencies",
          "test",
          "tags",
          "environmentVariables",
          "executionParameters");

  private static final List<String> COLUMNS =
      List.of(
          "run_id",
          "job_id",
          "state",
          "started_at",
          "ended_at",
          "parent_run",
          "parent_job",
          "nominal_at",
          "error",
          "rows_read",
          "rows_written",
          "bytes_written",
          "code",
          "start_s",
          "start_n",
          "heard_s",
          "heard_n",
          "running_s",
          "running_n",
          "completed_s",
          "completed_n",
          "aborted_s",
          "aborted_n",
          "failed_s",
          "failed_n",
          "block",
          "heard_at",
          "root_run",
          "root_job",
          "nominal_end");

  private static final String UPSERT =
      "insert into run ("
          + String.join(", ", COLUMNS)
          + ") values ("
          + String.join(", ", Collections.nCopies(COLUMNS.size(), "?"))
          + ") on conflict (run_id, job_id) do update set "
          + COLUMNS.stream()
              .skip(2)
              .map(column -> column + " = excluded." + column)
              .collect(Collectors.joining(", "));

  private static final int LONGEST_KEY_TEXT = 300;

  private final JdbcTemplate jdbc;
  private final NameIds ids;
  private final CurrentFacets current;

  RunWriter(JdbcTemplate jdbc, NameIds ids, CurrentFacets current) {
    this.jdbc = jdbc;
    this.ids = ids;
    this.current = current;
  }

  /** A run as far as the history of its job needs it. */
  record Outline(Instant start, @Nullable String code, boolean completed, boolean reported) {}

  /**
   * What was written of runs.
   *
   * @param texts the digests of the SQL facets of those that told one
   * @param parents the jobs that started any of them
   */
  record Written(Map<RunKey, Outline> runs, Map<RunKey, String> texts, Set<String> parents) {}

  private record FacetOfRun(
      int role, long dataset, String key, JsonNode value, String digest, Instant at) {}

  /** All that is known of one run. */
  static final class RunFacts {
    private final Moments moments = new Moments();
    private final List<FacetOfRun> facets = new ArrayList<>();

    boolean hasChecks() {
      return facets.stream()
          .anyMatch(f -> f.key().equals("dataQualityAssertions") || f.key().equals("test"));
    }

    private Optional<FacetOfRun> told(int role, String key) {
      return facets.stream().filter(f -> f.role() == role && f.key().equals(key)).findFirst();
    }

    @Nullable JsonNode facet(int role, String key) {
      return told(role, key).map(FacetOfRun::value).orElse(null);
    }

    /** The SQL that the run ran; null if it told none. */
    RunSql.@Nullable Text sql() {
      return told(FactStore.OF_CODE, "sql")
          .map(f -> RunSql.Text.of(f.value(), f.digest()))
          .orElse(null);
    }
  }

  /** The facts of some runs as they stand now, without those known by far-future events alone. */
  Map<RunKey, RunFacts> read(Map<RunKey, Moments> told) {
    Map<RunKey, RunFacts> found = runFacts(told.keySet());
    told.forEach((key, moments) -> found.get(key).moments.add(moments));
    found.values().removeIf(run -> run.moments.start == null);
    return found;
  }

  private Map<RunKey, RunFacts> runFacts(Collection<RunKey> keys) {
    var found = new LinkedHashMap<RunKey, RunFacts>();
    if (keys.isEmpty()) {
      return found;
    }
    UUID[] runs = keys.stream().map(RunKey::run).toArray(UUID[]::new);
    keys.forEach(key -> found.put(key, new RunFacts()));
    jdbc.query(
        "select run_id, job_id, start_s, start_n, heard_s, heard_n, running_s, running_n,"
            + " completed_s, completed_n, aborted_s, aborted_n, failed_s, failed_n, block"
            + " from run where run_id = any(?)",
        row -> {
          RunFacts run = found.get(new RunKey(row.getObject(1, UUID.class), row.getLong(2)));
          if (run != null) {
            run.moments.start = moment(row, 3);
            run.moments.heard = moment(row, 5);
            run.moments.running = moment(row, 7);
            run.moments.completed = moment(row, 9);
            run.moments.aborted = moment(row, 11);
            run.moments.failed = moment(row, 13);
            run.moments.block = row.getLong(15);
          }
        },
        (Object) runs);
    record Row(RunKey run, int role, long dataset, String key, String digest, Instant at) {}
    var rows = new ArrayList<Row>();
    jdbc.query(
        "select distinct on (f.run_id, f.job_id, f.role, f.dataset_id, f.key)"
            + " f.run_id, f.job_id, f.role, f.dataset_id, f.key, encode(f.digest, 'hex'), f.at_s,"
            + " f.at_n from run_facet f where f.run_id = any(?) and not f.far"
            + " order by f.run_id, f.job_id, f.role, f.dataset_id, f.key,"
            + " f.at_s desc, f.at_n desc, f.digest desc",
        row -> {
          rows.add(
              new Row(
                  new RunKey(row.getObject(1, UUID.class), row.getLong(2)),
                  row.getInt(3),
                  row.getLong(4),
                  row.getString(5),
                  row.getString(6),
                  Instant.ofEpochSecond(row.getLong(7), row.getInt(8))));
        },
        (Object) runs);
    Map<String, JsonNode> values =
        current.values(rows.stream().map(Row::digest).collect(Collectors.toSet()));
    for (Row row : rows) {
      RunFacts run = found.get(row.run());
      if (run != null) {
        run.facets.add(
            new FacetOfRun(
                row.role(),
                row.dataset(),
                row.key(),
                values.get(row.digest()),
                row.digest(),
                row.at()));
      }
    }
    return found;
  }

  private static @Nullable Instant moment(ResultSet row, int second) throws SQLException {
    long at = row.getLong(second);
    return row.wasNull() ? null : Instant.ofEpochSecond(at, row.getInt(second + 1));
  }

  private static @Nullable Long second(@Nullable Instant at) {
    return at == null ? null : at.getEpochSecond();
  }

  private static @Nullable Integer nano(@Nullable Instant at) {
    return at == null ? null : at.getNano();
  }

  /** Writes the rows of these runs. */
  Written writeRuns(Map<RunKey, RunFacts> runs) {
    var rows = new ArrayList<Object[]>();
    var written = new LinkedHashMap<RunKey, Outline>();
    var texts = new HashMap<RunKey, String>();
    var parents = new HashSet<String>();
    runs.forEach(
        (key, run) -> {
          Moments moments = run.moments;
          RunState state = moments.state();
          JsonNode parent = run.facet(FactStore.OF_RUN, "parent");
          JsonNode root = parent == null ? null : parent.path("root");
          JsonNode nominal = run.facet(FactStore.OF_RUN, "nominalTime");
          String code = code(run);
          rows.add(
              new Object[] {
                key.run(),
                key.job(),
                state.word(),
                StoredTime.of(moments.start),
                StoredTime.of(moments.end()),
                parentRun(parent),
                parentJob(parent),
                StoredTime.of(nominal == null ? null : time(nominal.path("nominalStartTime"))),
                error(run),
                total(run, FactStore.OF_INPUT, "inputStatistics", "rowCount"),
                total(run, FactStore.OF_OUTPUT, "outputStatistics", "rowCount"),
                total(run, FactStore.OF_OUTPUT, "outputStatistics", "size"),
                code,
                second(moments.start),
                nano(moments.start),
                second(moments.heard),
                nano(moments.heard),
                second(moments.running),
                nano(moments.running),
                second(moments.completed),
                nano(moments.completed),
                second(moments.aborted),
                nano(moments.aborted),
                second(moments.failed),
                nano(moments.failed),
                moments.block,
                StoredTime.of(moments.heard),
                parentRun(root),
                parentJob(root),
                StoredTime.of(nominal == null ? null : time(nominal.path("nominalEndTime")))
              });
          written.put(
              key,
              new Outline(
                  Objects.requireNonNull(moments.start),
                  code,
                  state == RunState.COMPLETED,
                  moments.running != null));
          run.told(FactStore.OF_CODE, "sql").ifPresent(sql -> texts.put(key, sql.digest()));
          if (parentJob(parent) != null) {
            parents.add(parentJob(parent));
          }
        });
    jdbc.batchUpdate(UPSERT, rows);
    return new Written(written, texts, parents);
  }

  private static @Nullable UUID parentRun(@Nullable JsonNode parent) {
    String id = parent == null ? "" : parent.path("run").path("runId").stringValue("");
    try {
      return id.length() == 36 ? UUID.fromString(id) : null;
    } catch (IllegalArgumentException e) {
      return null;
    }
  }

  private static @Nullable String parentJob(@Nullable JsonNode parent) {
    JsonNode job = parent == null ? null : parent.path("job");
    if (job == null || !job.path("namespace").isString() || !job.path("name").isString()) {
      return null;
    }
    return new JobName(job.path("namespace").stringValue(), job.path("name").stringValue())
        .reference();
  }

  private static @Nullable Instant time(JsonNode text) {
    try {
      return text.isString()
          ? java.time.OffsetDateTime.parse(text.stringValue()).toInstant()
          : null;
    } catch (java.time.DateTimeException e) {
      return null;
    }
  }

  /**
   * What the run said of its failure: the standard's facet, else the first custom one that does.
   */
  private static @Nullable String error(RunFacts run) {
    JsonNode standard = run.facet(FactStore.OF_RUN, "errorMessage");
    if (standard != null && standard.path("message").isString()) {
      return StoredText.clean(standard.path("message").stringValue());
    }
    var custom = new TreeMap<String, String>();
    for (FacetOfRun facet : run.facets) {
      if (facet.role() == FactStore.OF_RUN && !STANDARD_RUN_FACETS.contains(facet.key())) {
        for (String member : List.of("message", "exception", "error")) {
          if (facet.value().path(member).isString()) {
            custom.putIfAbsent(facet.key(), facet.value().path(member).stringValue());
          }
        }
      }
    }
    return custom.isEmpty() ? null : StoredText.clean(custom.firstEntry().getValue());
  }

  private static @Nullable Long total(RunFacts run, int role, String key, String member) {
    Long total = null;
    for (FacetOfRun facet : run.facets) {
      JsonNode number = facet.value().path(member);
      Long whole =
          facet.role() == role && facet.key().equals(key) ? CanonicalJson.whole(number) : null;
      if (whole != null) {
        total = (total == null ? 0 : total) + whole;
      }
    }
    return total;
  }

  private static @Nullable String code(RunFacts run) {
    RunSql.Text sql = run.sql();
    if (sql != null) {
      return Fingerprint.of(sql.query());
    }
    JsonNode source = run.facet(FactStore.OF_CODE, "sourceCode");
    if (source != null && source.path("sourceCode").isString()) {
      return Fingerprint.of(source.path("sourceCode").stringValue());
    }
    JsonNode location = run.facet(FactStore.OF_CODE, "sourceCodeLocation");
    if (location != null && location.path("version").isString()) {
      return CanonicalJson.digest(
          location.path("path").stringValue("") + "\n" + location.path("version").stringValue());
    }
    return null;
  }

  /**
   * Writes the results of the checks that these runs carried: with an input that a run read, or as
   * the tests of a run. Tests of a run that read one dataset are about that dataset; else they are
   * the job's own.
   *
   * @param onlyInputs the dataset that a run reads, of those runs that read one
   */
  void writeChecks(Map<RunKey, RunFacts> runs, Map<RunKey, DatasetName> onlyInputs) {
    ids.internDatasets(onlyInputs.values());
    var rows = new LinkedHashMap<List<Object>, Object[]>();
    runs.forEach(
        (key, run) -> {
          for (FacetOfRun facet : run.facets) {
            boolean onInput =
                facet.role() == FactStore.OF_INPUT && facet.key().equals("dataQualityAssertions");
            boolean ofRun = facet.role() == FactStore.OF_RUN && facet.key().equals("test");
            for (JsonNode check : facet.value().path(onInput ? "assertions" : "tests")) {
              if (onInput || ofRun) {
                DatasetName only = onlyInputs.get(key);
                long dataset = onInput ? facet.dataset() : only == null ? 0 : ids.id(only);
                Object[] row = checkRow(key, dataset, facet, check);
                rows.put(Arrays.asList(row).subList(0, 5), row);
              }
            }
          }
        });
    // A run whose newest word on its checks is another one has those, and no others.
    List<RunKey> checked =
        runs.entrySet().stream()
            .filter(run -> run.getValue().hasChecks())
            .map(Map.Entry::getKey)
            .toList();
    if (!checked.isEmpty()) {
      jdbc.update(
          "delete from check_result where (run_id, job_id) in (select unnest(?), unnest(?))",
          checked.stream().map(RunKey::run).toArray(UUID[]::new),
          checked.stream().map(RunKey::job).toArray(Long[]::new));
    }
    jdbc.batchUpdate(
        "insert into check_result (run_id, job_id, dataset_id, name, column_path, at, status,"
            + " severity, detail, expected, actual, content, content_type)"
            + " values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        List.copyOf(rows.values()));
  }

  private static Object[] checkRow(RunKey key, long dataset, FacetOfRun facet, JsonNode check) {
    String assertion = check.path("assertion").stringValue(check.path("type").stringValue("check"));
    String content = check.path("content").stringValue(null);
    return new Object[] {
      key.run(),
      key.job(),
      dataset,
      StoredText.clean(check.path("name").stringValue(assertion), LONGEST_KEY_TEXT),
      StoredText.clean(
          check.path("column").stringValue(check.path("params").path("column").stringValue("")),
          LONGEST_KEY_TEXT),
      StoredTime.of(facet.at()),
      status(check),
      cleaned(check.path("severity").stringValue(null)),
      cleaned(check.path("description").stringValue(null)),
      cleaned(check.path("expected").stringValue(null)),
      cleaned(check.path("actual").stringValue(null)),
      content == null ? null : StoredText.packed(content),
      cleaned(check.path("contentType").stringValue(null))
    };
  }

  /** Passed, failed or skipped; a word that the standard does not have counts as skipped. */
  private static String status(JsonNode check) {
    if (check.path("success").isBoolean()) {
      return check.path("success").booleanValue() ? "pass" : "fail";
    }
    String word = check.path("status").stringValue("skip").toLowerCase(Locale.ROOT);
    return word.startsWith("pass") ? "pass" : word.startsWith("fail") ? "fail" : "skip";
  }

  private static @Nullable String cleaned(@Nullable String text) {
    return text == null ? null : StoredText.clean(text);
  }
}
