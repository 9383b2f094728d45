package longthread.service.intake;

import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.SortedMap;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.UUID;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import longthread.core.event.Emitter;
import longthread.core.event.EventFacts;
import longthread.core.event.EventTime;
import longthread.core.event.FacetFact;
import longthread.core.event.Rename;
import longthread.core.event.RunFact;
import longthread.core.event.ShapeText;
import longthread.core.event.Stated;
import longthread.service.web.StoredText;
import org.jspecify.annotations.Nullable;
import org.springframework.jdbc.core.RowCallbackHandler;

/**
 * Carries facts of the live catalog over into the one that is made anew, where the bytes that gave
 * them are no longer kept. Each goes the way that the facts of an event go, so all rules about what
 * they mean apply to it.
 */
final class CarryOver {
  private static final int BATCH = 1_000;
  private static final String AGED =
      " in (select id from event_block where body is null and applied_at is not null)";
  private static final Emitter NOBODY = new Emitter("carried over", null, null);

  private final Workbench bench;
  private final List<FactStore.Brought> waiting = new ArrayList<>();
  private long carried;

  CarryOver(Workbench bench) {
    this.bench = bench;
  }

  /** Carries all over; returns how many facts that were. */
  long all() {
    facets();
    runs();
    runFacets();
    runShapes();
    declared();
    described();
    renamed();
    flush();
    return carried;
  }

  private void add(EventFacts facts, long block) {
    waiting.add(new FactStore.Brought(facts, block));
    carried++;
    if (waiting.size() >= BATCH) {
      flush();
    }
  }

  private void flush() {
    if (!waiting.isEmpty()) {
      bench.catalog.write(List.copyOf(waiting));
      waiting.clear();
    }
  }

  private void facets() {
    query(
        "select f.subject_kind, coalesce(d.ref, j.ref), f.key, f.at_s, f.at_n, f.far, b.body,"
            + " encode(f.digest, 'hex'), f.block from catalog.facet f"
            + " join catalog.facet_body b using (digest)"
            + " left join catalog.dataset d on f.subject_kind = 1 and d.id = f.subject_id"
            + " left join catalog.job j on f.subject_kind = 2 and j.id = f.subject_id"
            + " where f.block"
            + AGED,
        row -> {
          EventTime at = time(row, 4);
          boolean dataset = row.getInt(1) == Subject.DATASET;
          FacetFact.Subject subject =
              dataset
                  ? new FacetFact.OfDataset(DatasetName.parse(row.getString(2)))
                  : new FacetFact.OfJob(JobName.parse(row.getString(2)));
          add(
              new Facts(at)
                  .mention(dataset ? DatasetName.parse(row.getString(2)) : null)
                  .mention(dataset ? null : JobName.parse(row.getString(2)))
                  .facet(
                      new FacetFact(
                          subject,
                          row.getString(3),
                          at,
                          row.getString(8),
                          StoredText.json(row.getBytes(7))))
                  .facts(),
              row.getLong(9));
        });
  }

  private void runs() {
    query(
        "select r.run_id, j.ref, r.start_s, r.start_n, r.heard_s, r.heard_n, r.running_s,"
            + " r.running_n, r.completed_s, r.completed_n, r.aborted_s, r.aborted_n, r.failed_s,"
            + " r.failed_n, r.block from catalog.run r join catalog.job j on j.id = r.job_id"
            // its moments may stem from several blocks, of which the oldest is noted
            + " where r.block <= (select max(id) from event_block where body is null)",
        row -> {
          String[] types = {null, null, "RUNNING", "COMPLETE", "ABORT", "FAIL"};
          for (int kind = 0; kind < types.length; kind++) {
            long second = row.getLong(3 + 2 * kind);
            if (!row.wasNull()) {
              var at =
                  new EventTime(Instant.ofEpochSecond(second, row.getInt(4 + 2 * kind)), false);
              add(
                  new Facts(at)
                      .run(
                          row.getObject(1, UUID.class),
                          JobName.parse(row.getString(2)),
                          types[kind])
                      .facts(),
                  row.getLong(15));
            }
          }
        });
  }

  private void runFacets() {
    query(
        "select f.run_id, j.ref, f.role, d.ref, f.key, f.at_s, f.at_n, f.far, b.body,"
            + " encode(f.digest, 'hex'), f.block from catalog.run_facet f"
            + " join catalog.facet_body b using (digest) join catalog.job j on j.id = f.job_id"
            + " left join catalog.dataset d on d.id = f.dataset_id where f.block"
            + AGED,
        row -> {
          EventTime at = time(row, 6);
          UUID run = row.getObject(1, UUID.class);
          JobName job = JobName.parse(row.getString(2));
          int role = row.getInt(3);
          DatasetName dataset =
              row.getString(4) == null ? null : DatasetName.parse(row.getString(4));
          FacetFact.Subject subject =
              role == FactStore.OF_RUN
                  ? new FacetFact.OfRun(run, job)
                  : role == FactStore.OF_CODE
                      ? new FacetFact.OfJob(job)
                      : new FacetFact.OfRunDataset(
                          run,
                          job,
                          java.util.Objects.requireNonNull(dataset),
                          role == FactStore.OF_OUTPUT);
          add(
              new Facts(at)
                  .run(run, job, null)
                  .mention(dataset)
                  .facet(
                      new FacetFact(
                          subject,
                          row.getString(5),
                          at,
                          row.getString(10),
                          StoredText.json(row.getBytes(9))))
                  .facts(),
              row.getLong(11));
        });
  }

  private void runShapes() {
    query(
        "select s.run_id, j.ref, b.body, r.start_s, r.start_n, false, s.block"
            + " from catalog.run_shape s join catalog.shape b using (digest)"
            + " join catalog.job j on j.id = s.job_id join catalog.run r on r.run_id = s.run_id"
            + " and r.job_id = s.job_id where s.block"
            + AGED,
        row ->
            add(
                new Facts(time(row, 4))
                    .run(row.getObject(1, UUID.class), JobName.parse(row.getString(2)), null)
                    .states(Stated.of(ShapeText.read(StoredText.text(row.getBytes(3)))))
                    .facts(),
                row.getLong(7)));
  }

  private void declared() {
    query(
        "select d.owner_kind, coalesce(s.ref, j.ref), b.body, d.at_s, d.at_n, d.far, d.block"
            + " from catalog.declared d join catalog.shape b using (digest)"
            + " left join catalog.dataset s on d.owner_kind = 1 and s.id = d.owner_id"
            + " left join catalog.job j on d.owner_kind = 2 and j.id = d.owner_id"
            + " where d.block"
            + AGED,
        row -> {
          var facts = new Facts(time(row, 4));
          Stated stated = Stated.of(ShapeText.read(StoredText.text(row.getBytes(3))));
          if (row.getInt(1) == Subject.DATASET) {
            facts.declares(DatasetName.parse(row.getString(2)), stated);
          } else {
            facts.ofJob(JobName.parse(row.getString(2))).states(stated);
          }
          add(facts.facts(), row.getLong(7));
        });
  }

  private void described() {
    query(
        "select s.subject_kind, coalesce(d.ref, j.ref), s.block from catalog.described s"
            + " left join catalog.dataset d on s.subject_kind = 1 and d.id = s.subject_id"
            + " left join catalog.job j on s.subject_kind = 2 and j.id = s.subject_id"
            + " where s.block"
            + AGED,
        row -> {
          var facts = new Facts(new EventTime(Instant.EPOCH, false));
          if (row.getInt(1) == Subject.DATASET) {
            facts.ofDataset(DatasetName.parse(row.getString(2)));
          } else {
            facts.ofJob(JobName.parse(row.getString(2)));
          }
          add(facts.facts(), row.getLong(3));
        });
  }

  private void renamed() {
    query(
        "select f.ref, t.ref, r.at_s, r.at_n, false, r.block from catalog.renamed r"
            + " join catalog.dataset f on f.id = r.from_dataset"
            + " join catalog.dataset t on t.id = r.to_dataset where r.block"
            + AGED,
        row ->
            add(
                new Facts(time(row, 3))
                    .renames(
                        DatasetName.parse(row.getString(1)), DatasetName.parse(row.getString(2)))
                    .facts(),
                row.getLong(6)));
  }

  /** What is done with each row of an answer. */
  private interface Each {
    void take(ResultSet row) throws SQLException;
  }

  private void query(String sql, Each each) {
    RowCallbackHandler handler = each::take;
    bench.jdbc.query(sql, handler);
  }

  private static EventTime time(ResultSet row, int column) throws SQLException {
    return new EventTime(
        Instant.ofEpochSecond(row.getLong(column), row.getInt(column + 1)),
        row.getBoolean(column + 2));
  }

  /** The facts of an event that said one thing. */
  private static final class Facts {
    private final EventTime at;
    private final TreeSet<DatasetName> datasets = new TreeSet<>();
    private final TreeSet<JobName> jobs = new TreeSet<>();
    private final List<FacetFact> facets = new ArrayList<>();
    private final List<Rename> renames = new ArrayList<>();
    private final SortedMap<DatasetName, Stated> declared = new TreeMap<>();
    private @Nullable JobName job;
    private @Nullable DatasetName dataset;
    private @Nullable RunFact run;
    private Stated stated = Stated.NOTHING;

    Facts(EventTime at) {
      this.at = at;
    }

    Facts mention(@Nullable DatasetName name) {
      if (name != null) {
        datasets.add(name);
      }
      return this;
    }

    Facts mention(@Nullable JobName name) {
      if (name != null) {
        jobs.add(name);
      }
      return this;
    }

    Facts ofJob(JobName name) {
      job = name;
      jobs.add(name);
      return this;
    }

    Facts ofDataset(DatasetName name) {
      dataset = name;
      datasets.add(name);
      return this;
    }

    Facts run(UUID id, JobName name, @Nullable String type) {
      run = new RunFact(id, name, type, at.at(), at.farFuture());
      return ofJob(name);
    }

    Facts facet(FacetFact fact) {
      facets.add(fact);
      return this;
    }

    Facts states(Stated what) {
      stated = what;
      mentionAll(what);
      return this;
    }

    Facts declares(DatasetName name, Stated what) {
      datasets.add(name);
      declared.put(name, what);
      mentionAll(what);
      return this;
    }

    Facts renames(DatasetName from, DatasetName to) {
      renames.add(new Rename(from, to, at.at()));
      datasets.add(from);
      datasets.add(to);
      return this;
    }

    private void mentionAll(Stated what) {
      datasets.addAll(what.shape().inputs());
      datasets.addAll(what.shape().outputs());
      what.shape().columns().forEach(link -> datasets.add(link.from().dataset()));
    }

    EventFacts facts() {
      return new EventFacts(
          at,
          NOBODY,
          job,
          dataset,
          Optional.ofNullable(run),
          stated,
          declared,
          facets,
          renames,
          datasets,
          jobs);
    }
  }
}
