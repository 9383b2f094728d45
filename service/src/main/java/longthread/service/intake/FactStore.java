package longthread.service.intake;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.HashMap;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import longthread.core.event.CanonicalJson;
import longthread.core.event.EventFacts;
import longthread.core.event.FacetFact;
import longthread.core.event.RunFact;
import longthread.service.web.StoredText;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.stereotype.Component;

/**
 * Writes facts, in sets: a batch of events costs a bounded number of statements. Every write is an
 * insert that ignores what is there, or an update to the greater or lesser of two; so the order of
 * batches does not matter.
 */
@Component
class FactStore {
  static final int DATASET = 1;
  static final int JOB = 2;
  static final int OF_RUN = 0;
  static final int OF_INPUT = 1;
  static final int OF_OUTPUT = 2;
  static final int OF_CODE = 3;

  /** Kinds of moment; up to {@link #FAILED} the least counts, from then on the greatest. */
  static final int FIRST_SEEN = 0;

  static final int COMPLETED = 1;
  static final int ABORTED = 2;
  static final int FAILED = 3;
  static final int LAST_SEEN = 4;
  static final int RUNNING = 5;

  private static final List<String> CODE_FACETS =
      List.of("sql", "sourceCode", "sourceCodeLocation");

  private final JdbcTemplate jdbc;
  // Ids never change once given; entries of a transaction that was rolled back are dropped.
  private final Map<String, Long> datasetIds = new HashMap<>();
  private final Map<String, Long> jobIds = new HashMap<>();

  FactStore(JdbcTemplate jdbc) {
    this.jdbc = jdbc;
  }

  void forgetIds() {
    datasetIds.clear();
    jobIds.clear();
  }

  long id(DatasetName name) {
    return datasetIds.get(name.reference());
  }

  long id(JobName name) {
    return jobIds.get(name.reference());
  }

  /** Gives ids to all names that have none yet. */
  void internDatasets(Collection<String> refs) {
    intern("dataset", refs, datasetIds);
  }

  void internJobs(Collection<String> refs) {
    intern("job", refs, jobIds);
  }

  private void intern(String table, Collection<String> refs, Map<String, Long> ids) {
    String[] unknown =
        refs.stream()
            .filter(ref -> !ids.containsKey(ref))
            .distinct()
            .sorted()
            .toArray(String[]::new);
    if (unknown.length == 0) {
      return;
    }
    jdbc.update(
        "insert into " + table + " (ref) select unnest(?) on conflict do nothing",
        (Object) unknown);
    jdbc.query(
        "select id, ref from " + table + " where ref = any(?)",
        row -> {
          ids.put(row.getString(2), row.getLong(1));
        },
        (Object) unknown);
  }

  /** Writes the facts of events, whose names all have ids. */
  void write(List<EventFacts> events) {
    var bodies = new LinkedHashMap<String, byte[]>();
    var facets = new ArrayList<Object[]>();
    var winners = new ArrayList<Object[]>();
    var runFacets = new ArrayList<Object[]>();
    var moments = new ArrayList<Object[]>();
    var shapes = new LinkedHashMap<String, byte[]>();
    var runShapes = new ArrayList<Object[]>();
    var declared = new ArrayList<Object[]>();
    var described = new ArrayList<Object[]>();
    for (EventFacts event : events) {
      for (FacetFact fact : event.facets()) {
        bodies.computeIfAbsent(
            fact.digest(), d -> StoredText.packed(CanonicalJson.text(fact.value())));
        facet(event, fact, facets, winners, runFacets);
      }
      Instant at = event.at().at();
      if (!event.shape().isEmpty()) {
        shapes.computeIfAbsent(event.shapeDigest(), d -> StoredText.packed(event.shapeText()));
        if (event.run().isPresent()) {
          RunFact run = event.run().get();
          runShapes.add(new Object[] {run.run(), id(run.job()), hex(event.shapeDigest())});
        } else {
          boolean job = event.job() != null;
          declared.add(
              new Object[] {
                job ? JOB : DATASET,
                event.job() != null ? id(event.job()) : id(event.dataset()),
                at.getEpochSecond(),
                at.getNano(),
                hex(event.shapeDigest()),
                event.at().farFuture()
              });
        }
      }
      event.run().filter(run -> !run.farFuture()).ifPresent(run -> moments(run, moments));
      if (event.job() != null) {
        described.add(new Object[] {JOB, id(event.job())});
      }
      if (event.dataset() != null) {
        described.add(new Object[] {DATASET, id(event.dataset())});
      }
      event.shape().outputs().forEach(o -> described.add(new Object[] {DATASET, id(o)}));
      for (FacetFact fact : event.facets()) {
        if (fact.subject() instanceof FacetFact.OfDataset of) {
          described.add(new Object[] {DATASET, id(of.dataset())});
        }
      }
    }
    batch("insert into facet_body values (?, ?) on conflict do nothing", pairs(bodies));
    batch("insert into facet values (?, ?, ?, ?, ?, ?, ?) on conflict do nothing", facets);
    batch(
        "insert into facet_now as w values (?, ?, ?, ?, ?, ?)"
            + " on conflict (subject_kind, subject_id, key) do update"
            + " set at_s = excluded.at_s, at_n = excluded.at_n, digest = excluded.digest"
            + " where (excluded.at_s, excluded.at_n, excluded.digest) > (w.at_s, w.at_n, w.digest)",
        greatest(winners, 3));
    batch(
        "insert into run_facet values (?, ?, ?, ?, ?, ?, ?, ?, ?) on conflict do nothing",
        runFacets);
    batch(
        "insert into run_moment as m values (?, ?, ?, ?, ?)"
            + " on conflict (run_id, job_id, kind) do update"
            + " set at_s = excluded.at_s, at_n = excluded.at_n where case when m.kind <= 3"
            + " then (excluded.at_s, excluded.at_n) < (m.at_s, m.at_n)"
            + " else (excluded.at_s, excluded.at_n) > (m.at_s, m.at_n) end",
        leastOrGreatest(moments));
    batch("insert into shape values (?, ?) on conflict do nothing", pairs(shapes));
    batch("insert into run_shape values (?, ?, ?) on conflict do nothing", runShapes);
    batch("insert into declared values (?, ?, ?, ?, ?, ?) on conflict do nothing", declared);
    batch("insert into described values (?, ?) on conflict do nothing", described);
  }

  private void facet(
      EventFacts event,
      FacetFact fact,
      List<Object[]> facets,
      List<Object[]> winners,
      List<Object[]> runFacets) {
    Instant at = fact.at().at();
    boolean far = fact.at().farFuture();
    byte[] digest = hex(fact.digest());
    String key = StoredText.clean(fact.key());
    if (fact.subject() instanceof FacetFact.OfDataset of) {
      subject(DATASET, id(of.dataset()), fact, key, facets, winners);
    } else if (fact.subject() instanceof FacetFact.OfJob of) {
      subject(JOB, id(of.job()), fact, key, facets, winners);
      if (event.run().isPresent() && CODE_FACETS.contains(key)) {
        runFacets.add(
            new Object[] {
              event.run().get().run(),
              id(of.job()),
              OF_CODE,
              0L,
              key,
              at.getEpochSecond(),
              at.getNano(),
              digest,
              far
            });
      }
    } else if (fact.subject() instanceof FacetFact.OfRun of) {
      runFacets.add(
          new Object[] {
            of.run(), id(of.job()), OF_RUN, 0L, key, at.getEpochSecond(), at.getNano(), digest, far
          });
    } else if (fact.subject() instanceof FacetFact.OfRunDataset of) {
      runFacets.add(
          new Object[] {
            of.run(),
            id(of.job()),
            of.output() ? OF_OUTPUT : OF_INPUT,
            id(of.dataset()),
            key,
            at.getEpochSecond(),
            at.getNano(),
            digest,
            far
          });
    }
  }

  private static void subject(
      int kind,
      long id,
      FacetFact fact,
      String key,
      List<Object[]> facets,
      List<Object[]> winners) {
    Instant at = fact.at().at();
    byte[] digest = hex(fact.digest());
    boolean far = fact.at().farFuture();
    facets.add(new Object[] {kind, id, key, at.getEpochSecond(), at.getNano(), digest, far});
    // Some engines send an empty list of fields where they do not know them: it tells nothing.
    boolean emptySchema =
        key.equals("schema")
            && fact.value().path("fields").isEmpty()
            && !fact.value().path("_deleted").booleanValue(false);
    if (!far && !emptySchema) {
      winners.add(new Object[] {kind, id, key, at.getEpochSecond(), at.getNano(), digest});
    }
  }

  private void moments(RunFact run, List<Object[]> moments) {
    var kinds = new ArrayList<>(List.of(FIRST_SEEN, LAST_SEEN));
    switch (run.type() == null ? "" : run.type()) {
      case "COMPLETE" -> kinds.add(COMPLETED);
      case "ABORT" -> kinds.add(ABORTED);
      case "FAIL" -> kinds.add(FAILED);
      case "RUNNING" -> kinds.add(RUNNING);
      default -> {}
    }
    for (int kind : kinds) {
      moments.add(
          new Object[] {
            run.run(), id(run.job()), kind, run.at().getEpochSecond(), run.at().getNano()
          });
    }
  }

  /** Of the rows with equal first {@code keys} cells, the one with the greatest time and digest. */
  private static List<Object[]> greatest(List<Object[]> rows, int keys) {
    var kept = new LinkedHashMap<List<Object>, Object[]>();
    for (Object[] row : rows) {
      kept.merge(
          List.of(Arrays.copyOf(row, keys)),
          row,
          (a, b) -> {
            int time = compareTimes(a, b, keys);
            int order =
                time != 0
                    ? time
                    : Arrays.compareUnsigned((byte[]) a[keys + 2], (byte[]) b[keys + 2]);
            return order >= 0 ? a : b;
          });
    }
    return List.copyOf(kept.values());
  }

  /** One row for each run and kind of moment: a statement may not touch a row twice. */
  private static List<Object[]> leastOrGreatest(List<Object[]> rows) {
    var kept = new LinkedHashMap<List<Object>, Object[]>();
    for (Object[] row : rows) {
      boolean least = (int) row[2] <= FAILED;
      kept.merge(
          List.of(Arrays.copyOf(row, 3)),
          row,
          (a, b) -> (compareTimes(a, b, 3) < 0) == least ? a : b);
    }
    return List.copyOf(kept.values());
  }

  private static int compareTimes(Object[] a, Object[] b, int at) {
    int seconds = Long.compare((long) a[at], (long) b[at]);
    return seconds != 0 ? seconds : Integer.compare((int) a[at + 1], (int) b[at + 1]);
  }

  private static List<Object[]> pairs(Map<String, byte[]> bodies) {
    var rows = new ArrayList<Object[]>();
    bodies.forEach((digest, body) -> rows.add(new Object[] {hex(digest), body}));
    return rows;
  }

  void batch(String sql, List<Object[]> rows) {
    if (!rows.isEmpty()) {
      jdbc.batchUpdate(sql, rows);
    }
  }

  static byte[] hex(String digest) {
    return HexFormat.of().parseHex(digest);
  }

  /** A run of a job, as it is keyed. */
  record RunKey(UUID run, long job) {}
}
