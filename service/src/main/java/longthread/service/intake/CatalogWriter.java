package longthread.service.intake;

import java.sql.Timestamp;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.UUID;
import longthread.core.asset.Card;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import longthread.core.asset.Owner;
import longthread.core.asset.Reference;
import longthread.core.event.CanonicalJson;
import longthread.core.event.CardReader;
import longthread.core.event.ColumnLink;
import longthread.core.event.EventFacts;
import longthread.core.event.Shape;
import longthread.core.event.ShapeText;
import longthread.core.history.Fingerprint;
import longthread.core.history.JobHistory;
import longthread.core.history.JobLineage;
import longthread.core.history.JobRun;
import longthread.core.history.RunState;
import longthread.service.intake.FactStore.RunKey;
import longthread.service.web.StoredText;
import org.jspecify.annotations.Nullable;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.stereotype.Component;
import tools.jackson.databind.JsonNode;

/**
 * Computes the catalog anew for the jobs and datasets that some events touched, from all their
 * facts. What it writes depends on the facts alone, so it may be run again at any time.
 */
@Component
class CatalogWriter {
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

  private final JdbcTemplate jdbc;
  private final FactStore facts;

  CatalogWriter(JdbcTemplate jdbc, FactStore facts) {
    this.jdbc = jdbc;
    this.facts = facts;
  }

  /** Brings the catalog up to date; returns the references whose cards or links were written. */
  Set<String> refresh(List<EventFacts> events) {
    var runs = new HashSet<RunKey>();
    var jobs = new TreeSet<JobName>();
    var lineageJobs = new TreeSet<JobName>();
    var datasets = new TreeSet<DatasetName>();
    var declaring = new TreeSet<DatasetName>();
    for (EventFacts event : events) {
      event.run().ifPresent(run -> runs.add(new RunKey(run.run(), facts.id(run.job()))));
      jobs.addAll(event.jobs());
      datasets.addAll(event.datasets());
      if (event.job() != null) {
        lineageJobs.add(event.job());
      } else if (event.dataset() != null && !event.shape().isEmpty()) {
        declaring.add(event.dataset());
      }
    }
    Map<RunKey, RunFacts> runFacts = runFacts(runs);
    writeRuns(runFacts);
    writeChecks(runFacts);
    lineageJobs.forEach(this::writeLineage);
    declaring.forEach(this::writeDeclared);
    writeCards(datasets, jobs);
    var changed = new TreeSet<String>();
    datasets.forEach(dataset -> changed.add(dataset.reference()));
    jobs.forEach(job -> changed.add(job.reference()));
    return changed;
  }

  // ------------------------------------------------------------------ runs

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
                    json(row.getBytes(6)),
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
                timestamp(run.moments.get(FactStore.FIRST_SEEN)),
                timestamp(end),
                parentRun(parent),
                parentJob(parent),
                timestamp(nominal == null ? null : time(nominal.path("nominalStartTime"))),
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

  private static @Nullable Timestamp timestamp(@Nullable Instant at) {
    return at == null ? null : Timestamp.from(Applier.clamp(at));
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
      StoredText.clean(check.path("name").stringValue(assertion)),
      StoredText.clean(check.path("column").stringValue("")),
      timestamp(facet.at()),
      check.path("success").booleanValue(false),
      check.path("severity").stringValue(null),
      detail == null ? null : StoredText.clean(detail)
    };
  }

  // ------------------------------------------------------------------ links

  private void writeLineage(JobName name) {
    long job = facts.id(name);
    var shapes = new HashMap<String, Shape>();
    var shapesOf = new HashMap<UUID, List<Shape>>();
    jdbc.query(
        "select r.run_id, encode(r.digest, 'hex'), s.body from run_shape r"
            + " join shape s using (digest) where r.job_id = ?",
        row -> {
          byte[] body = row.getBytes(3);
          Shape shape =
              shapes.computeIfAbsent(row.getString(2), d -> ShapeText.read(StoredText.text(body)));
          shapesOf.computeIfAbsent(row.getObject(1, UUID.class), k -> new ArrayList<>()).add(shape);
        },
        job);
    boolean streaming = isStreaming(job);
    List<JobRun> runs =
        jdbc.query(
            "select r.run_id, m.at_s, m.at_n, r.code, r.state, exists (select from run_moment x"
                + " where x.run_id = r.run_id and x.job_id = r.job_id and x.kind = 5)"
                + " from run r join run_moment m on m.run_id = r.run_id and m.job_id = r.job_id"
                + " and m.kind = 0 where r.job_id = ?",
            (row, n) -> {
              UUID run = row.getObject(1, UUID.class);
              boolean settled =
                  row.getString(5).equals(RunState.COMPLETED.word())
                      || (streaming && row.getBoolean(6));
              return new JobRun(
                  run,
                  Instant.ofEpochSecond(row.getLong(2), row.getInt(3)),
                  row.getString(4),
                  settled,
                  Shape.union(shapesOf.getOrDefault(run, List.of())));
            },
            job);
    JobLineage lineage = JobHistory.of(runs, declared(FactStore.JOB, job));
    writeLinks(FactStore.JOB, job, lineage);
    jdbc.update("delete from job_version where job_id = ?", job);
    facts.batch(
        "insert into job_version values (?, ?, ?, ?, ?)",
        lineage.versions().stream()
            .map(
                v ->
                    new Object[] {
                      job, v.number(), v.hash(), timestamp(v.firstRun()), timestamp(v.lastRun())
                    })
            .toList());
    jdbc.update(
        "insert into job_map (owner_kind, owner_id, described, gap) values (?, ?, ?, ?)"
            + " on conflict (owner_kind, owner_id) do update"
            + " set described = excluded.described, gap = excluded.gap",
        FactStore.JOB,
        job,
        lineage.described().stream().map(c -> c.reference()).toArray(String[]::new),
        lineage.gap());
  }

  private boolean isStreaming(long job) {
    JsonNode type =
        currentFacets(FactStore.JOB, List.of(job)).getOrDefault(job, Map.of()).get("jobType");
    return type != null
        && "STREAMING".equalsIgnoreCase(type.path("processingType").stringValue(""));
  }

  private void writeDeclared(DatasetName name) {
    long dataset = facts.id(name);
    JobLineage lineage = JobHistory.of(List.of(), declared(FactStore.DATASET, dataset));
    writeLinks(FactStore.DATASET, dataset, lineage);
    jdbc.update(
        "insert into job_map (owner_kind, owner_id, described, gap) values (?, ?, ?, false)"
            + " on conflict (owner_kind, owner_id) do update set described = excluded.described",
        FactStore.DATASET,
        dataset,
        lineage.described().stream().map(c -> c.reference()).toArray(String[]::new));
  }

  private JobHistory.@Nullable Declared declared(int kind, long owner) {
    List<JobHistory.Declared> newest =
        jdbc.query(
            "select d.at_s, d.at_n, s.body from declared d join shape s using (digest)"
                + " where d.owner_kind = ? and d.owner_id = ? and not d.far"
                + " order by d.at_s desc, d.at_n desc, d.digest desc limit 1",
            (row, n) ->
                new JobHistory.Declared(
                    Instant.ofEpochSecond(row.getLong(1), row.getInt(2)),
                    ShapeText.read(StoredText.text(row.getBytes(3)))),
            kind,
            owner);
    return newest.isEmpty() ? null : newest.get(0);
  }

  private void writeLinks(int kind, long owner, JobLineage lineage) {
    var names = new TreeSet<String>();
    for (JobLineage.HeldLink held : lineage.links()) {
      names.add(held.link().from().dataset().reference());
      names.add(held.link().to().dataset().reference());
    }
    facts.internDatasets(names);
    jdbc.update("delete from link where owner_kind = ? and owner_id = ?", kind, owner);
    facts.batch(
        "insert into link values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
        lineage.links().stream()
            .map(
                held -> {
                  ColumnLink link = held.link();
                  return new Object[] {
                    kind,
                    owner,
                    facts.id(link.from().dataset()),
                    link.from().path(),
                    facts.id(link.to().dataset()),
                    link.to().path(),
                    link.flow().name(),
                    link.masking(),
                    held.declared(),
                    held.version(),
                    timestamp(held.firstSeen()),
                    timestamp(held.lastSeen()),
                    timestamp(held.until())
                  };
                })
            .toList());
  }

  // ------------------------------------------------------------------ cards

  private void writeCards(Collection<DatasetName> datasets, Collection<JobName> jobs) {
    var cards = new ArrayList<Card>();
    List<Long> datasetIds = datasets.stream().map(facts::id).toList();
    List<Long> jobIds = jobs.stream().map(facts::id).toList();
    var facetsOfDatasets = currentFacets(FactStore.DATASET, datasetIds);
    var facetsOfJobs = currentFacets(FactStore.JOB, jobIds);
    Set<Long> describedDatasets = described(FactStore.DATASET, datasetIds);
    Set<Long> describedJobs = described(FactStore.JOB, jobIds);
    Set<Long> dropped = dropped(datasetIds);
    for (DatasetName dataset : datasets) {
      long id = facts.id(dataset);
      cards.add(
          CardReader.dataset(
              dataset,
              facetsOfDatasets.getOrDefault(id, Map.of()),
              describedDatasets.contains(id),
              dropped.contains(id)));
    }
    Set<String> parents = parents(jobs);
    for (JobName job : jobs) {
      long id = facts.id(job);
      cards.add(
          CardReader.job(
              job,
              facetsOfJobs.getOrDefault(id, Map.of()),
              describedJobs.contains(id),
              parents.contains(job.reference())));
    }
    facts.batch(
        "insert into card values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)"
            + " on conflict (ref) do update set kind = excluded.kind, system = excluded.system,"
            + " name = excluded.name, title = excluded.title, url = excluded.url,"
            + " owners = excluded.owners, tags = excluded.tags, retired = excluded.retired,"
            + " haystack = excluded.haystack, body = excluded.body",
        cards.stream().map(CatalogWriter::row).toList());
  }

  private static Object[] row(Card card) {
    return new Object[] {
      card.ref(),
      card.kind().word(),
      StoredText.clean(systemOf(card)),
      StoredText.clean(card.name()),
      card.title() == null ? null : StoredText.clean(card.title()),
      card.url() == null ? null : StoredText.clean(card.url()),
      card.owners().stream().map(o -> StoredText.clean(o.name())).toArray(String[]::new),
      card.tags().stream().map(t -> StoredText.clean(t.word())).toArray(String[]::new),
      card.retired(),
      haystack(card),
      StoredText.packed(CanonicalJson.MAPPER.writeValueAsString(card))
    };
  }

  /** The system a card belongs to: what its source called itself, else its namespace. */
  static String systemOf(Card card) {
    if (card.system() != null) {
      return card.system();
    }
    Reference reference = Reference.parse(card.ref());
    return reference instanceof Reference.OfJob job
        ? job.job().namespace()
        : ((Reference.OfDataset) reference).dataset().namespace();
  }

  private static String haystack(Card card) {
    var words = new ArrayList<String>(List.of(card.ref(), card.name(), systemOf(card)));
    words.addAll(card.container());
    for (String text : Arrays.asList(card.title(), card.description(), card.url())) {
      if (text != null) {
        words.add(text);
      }
    }
    for (Owner owner : card.owners()) {
      words.add(owner.name());
    }
    card.tags().forEach(tag -> words.add(tag.word()));
    for (Card.Column column : card.columns()) {
      words.add(column.path());
      if (column.description() != null) {
        words.add(column.description());
      }
      column.tags().forEach(tag -> words.add(tag.word()));
    }
    String all = StoredText.clean(String.join(" \n", words)).toLowerCase(Locale.ROOT);
    return all.length() > 100_000 ? all.substring(0, 100_000) : all;
  }

  private Map<Long, Map<String, JsonNode>> currentFacets(int kind, Collection<Long> ids) {
    var found = new HashMap<Long, Map<String, JsonNode>>();
    jdbc.query(
        "select f.subject_id, f.key, b.body from facet_now f join facet_body b using (digest)"
            + " where f.subject_kind = ? and f.subject_id = any(?)",
        row -> {
          found
              .computeIfAbsent(row.getLong(1), k -> new HashMap<>())
              .put(row.getString(2), json(row.getBytes(3)));
        },
        kind,
        ids.toArray(Long[]::new));
    return found;
  }

  private Set<Long> described(int kind, Collection<Long> ids) {
    return new HashSet<>(
        jdbc.queryForList(
            "select subject_id from described where subject_kind = ? and subject_id = any(?)",
            Long.class,
            kind,
            ids.toArray(Long[]::new)));
  }

  /** Datasets whose newest life cycle word is DROP, with no link into them seen since. */
  private Set<Long> dropped(Collection<Long> ids) {
    var dropped = new HashSet<Long>();
    jdbc.query(
        "select f.subject_id, b.body, (select max(l.last_seen) from link l where"
            + " l.to_dataset = f.subject_id and not l.declared) > to_timestamp(f.at_s)"
            + " from facet_now f join facet_body b using (digest) where f.subject_kind = 1"
            + " and f.key = 'lifecycleStateChange' and f.subject_id = any(?)",
        row -> {
          boolean writtenSince = row.getBoolean(3);
          String word = json(row.getBytes(2)).path("lifecycleStateChange").stringValue("");
          if (word.equalsIgnoreCase("DROP") && !writtenSince) {
            dropped.add(row.getLong(1));
          }
        },
        (Object) ids.toArray(Long[]::new));
    return dropped;
  }

  private Set<String> parents(Collection<JobName> jobs) {
    return new HashSet<>(
        jdbc.queryForList(
            "select distinct parent_job from run where parent_job = any(?)",
            String.class,
            (Object) jobs.stream().map(JobName::reference).toArray(String[]::new)));
  }

  private static JsonNode json(byte[] packed) {
    return StoredText.json(packed);
  }
}
