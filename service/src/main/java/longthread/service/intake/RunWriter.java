package longthread.service.intake;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;
import longthread.core.asset.JobName;
import longthread.core.event.CanonicalJson;
import longthread.core.history.Fingerprint;
import longthread.core.history.RunState;
import longthread.service.intake.FactStore.RunKey;
import longthread.service.web.StoredText;
import org.jspecify.annotations.Nullable;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.stereotype.Component;
import tools.jackson.databind.JsonNode;

/** Computes runs and check results from the facts of the runs that some events touched. */
@Component
class RunWriter {
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

  private static final int LONGEST_KEY_TEXT = 300;

  private final JdbcTemplate jdbc;
  private final FactStore facts;

  RunWriter(JdbcTemplate jdbc, FactStore facts) {
    this.jdbc = jdbc;
    this.facts = facts;
  }

  private record FacetOfRun(int role, long dataset, String key, JsonNode value, Instant at) {}

  /** All that is known of one run. */
  private static final class RunFacts {
    private final Map<Integer, Instant> moments = new HashMap<>();
    private final List<FacetOfRun> facets = new ArrayList<>();

    @Nullable JsonNode facet(int role, String key) {
      return facets.stream()
          .filter(f -> f.role() == role && f.key().equals(key))
          .map(FacetOfRun::value)
          .findFirst()
          .orElse(null);
    }
  }

  /** Writes the rows of these runs, and the results of the checks that they carried. */
  void write(Collection<RunKey> keys) {
    Map<RunKey, RunFacts> runs = runFacts(keys);
    writeRuns(runs);
    writeChecks(runs);
  }

  private Map<RunKey, RunFacts> runFacts(Collection<RunKey> keys) {
    var found = new LinkedHashMap<RunKey, RunFacts>();
    if (keys.isEmpty()) {
      return found;
    }
    UUID[] runs = keys.stream().map(RunKey::run).toArray(UUID[]::new);
    jdbc.query(
        "select run_id, job_id, kind, at_s, at_n from run_moment where run_id = any(?)",
        row -> {
          var key = new RunKey(row.getObject(1, UUID.class), row.getLong(2));
          if (keys.contains(key)) {
            found
                .computeIfAbsent(key, k -> new RunFacts())
                .moments
                .put(row.getInt(3), Instant.ofEpochSecond(row.getLong(4), row.getInt(5)));
          }
        },
        (Object) runs);
    jdbc.query(
        "select distinct on (f.run_id, f.job_id, f.role, f.dataset_id, f.key)"
            + " f.run_id, f.job_id, f.role, f.dataset_id, f.key, b.body, f.at_s, f.at_n"
            + " from run_facet f join facet_body b using (digest)"
            + " where f.run_id = any(?) and not f.far"
            + " order by f.run_id, f.job_id, f.role, f.dataset_id, f.key,"
            + " f.at_s desc, f.at_n desc, f.digest desc",
        row -> {
          RunFacts run = found.get(new RunKey(row.getObject(1, UUID.class), row.getLong(2)));
          if (run != null) {
            run.facets.add(
                new FacetOfRun(
                    row.getInt(3),
                    row.getLong(4),
                    row.getString(5),
                    StoredText.json(row.getBytes(6)),
                    Instant.ofEpochSecond(row.getLong(7), row.getInt(8))));
          }
        },
        (Object) runs);
    return found;
  }

  private void writeRuns(Map<RunKey, RunFacts> runs) {
    var rows = new ArrayList<Object[]>();
    runs.forEach(
        (key, run) -> {
          Instant failed = run.moments.get(FactStore.FAILED);
          Instant aborted = run.moments.get(FactStore.ABORTED);
          Instant completed = run.moments.get(FactStore.COMPLETED);
          RunState state = RunState.of(failed, aborted, completed);
          Instant end = failed != null ? failed : aborted != null ? aborted : completed;
          JsonNode parent = run.facet(FactStore.OF_RUN, "parent");
          JsonNode nominal = run.facet(FactStore.OF_RUN, "nominalTime");
          rows.add(
              new Object[] {
                key.run(),
                key.job(),
                state.word(),
                StoredTime.of(run.moments.get(FactStore.FIRST_SEEN)),
                StoredTime.of(end),
                parentRun(parent),
                parentJob(parent),
                StoredTime.of(nominal == null ? null : time(nominal.path("nominalStartTime"))),
                error(run),
                total(run, FactStore.OF_INPUT, "inputStatistics", "rowCount"),
                total(run, FactStore.OF_OUTPUT, "outputStatistics", "rowCount"),
                total(run, FactStore.OF_OUTPUT, "outputStatistics", "size"),
                code(run)
              });
        });
    facts.batch(
        "insert into run (run_id, job_id, state, started_at, ended_at, parent_run, parent_job,"
            + " nominal_at, error, rows_read, rows_written, bytes_written, code)"
            + " values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)"
            + " on conflict (run_id, job_id) do update set state = excluded.state,"
            + " started_at = excluded.started_at, ended_at = excluded.ended_at,"
            + " parent_run = excluded.parent_run, parent_job = excluded.parent_job,"
            + " nominal_at = excluded.nominal_at, error = excluded.error,"
            + " rows_read = excluded.rows_read, rows_written = excluded.rows_written,"
            + " bytes_written = excluded.bytes_written, code = excluded.code",
        rows);
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
      if (facet.role() == role && facet.key().equals(key) && number.isNumber()) {
        total = (total == null ? 0 : total) + number.longValue(0);
      }
    }
    return total;
  }

  private static @Nullable String code(RunFacts run) {
    JsonNode sql = run.facet(FactStore.OF_CODE, "sql");
    if (sql != null && sql.path("query").isString()) {
      return Fingerprint.of(sql.path("query").stringValue());
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

  private void writeChecks(Map<RunKey, RunFacts> runs) {
    var rows = new LinkedHashMap<List<Object>, Object[]>();
    runs.forEach(
        (key, run) -> {
          for (FacetOfRun facet : run.facets) {
            if (facet.role() != FactStore.OF_INPUT
                || !facet.key().equals("dataQualityAssertions")) {
              continue;
            }
            for (JsonNode check : facet.value().path("assertions")) {
              Object[] row = checkRow(key, facet, check);
              rows.put(Arrays.asList(row).subList(0, 5), row);
            }
          }
        });
    facts.batch(
        "insert into check_result values (?, ?, ?, ?, ?, ?, ?, ?, ?)"
            + " on conflict (run_id, job_id, dataset_id, name, column_path) do update"
            + " set at = excluded.at, passed = excluded.passed, severity = excluded.severity,"
            + " detail = excluded.detail",
        List.copyOf(rows.values()));
  }

  private static Object[] checkRow(RunKey key, FacetOfRun facet, JsonNode check) {
    String assertion = check.path("assertion").stringValue("check");
    String expected = check.path("expected").stringValue("");
    String actual = check.path("actual").stringValue("");
    String detail =
        expected.isEmpty() && actual.isEmpty()
            ? check.path("description").stringValue(null)
            : "expected " + expected + ", found " + actual;
    return new Object[] {
      key.run(),
      key.job(),
      facet.dataset(),
      shown(check.path("name").stringValue(assertion)),
      shown(check.path("column").stringValue("")),
      StoredTime.of(facet.at()),
      check.path("success").booleanValue(false),
      check.path("severity").isString() ? shown(check.path("severity").stringValue()) : null,
      detail == null ? null : StoredText.clean(detail)
    };
  }

  /** A text that is part of a key, and so no longer than an index can hold. */
  private static String shown(String text) {
    String clean = StoredText.clean(text);
    return clean.length() <= LONGEST_KEY_TEXT ? clean : clean.substring(0, LONGEST_KEY_TEXT);
  }
}
