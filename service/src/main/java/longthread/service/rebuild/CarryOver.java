package longthread.service.rebuild;

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
import longthread.core.lineage.EncodedLineage;
import longthread.core.lineage.LineageText;
import longthread.service.apply.ApplierSession;
import longthread.service.apply.EventAtBlock;
import longthread.service.storage.StoredText;
import longthread.service.storage.facts.SubjectKind;
import longthread.service.storage.rebuild.AgedFacts;
import longthread.service.storage.runs.RunQueries;
import org.jspecify.annotations.Nullable;

/**
 * Carries facts of the live catalog over into the one that is made anew, where the bytes that gave
 * them are no longer kept. Each is written as the facts of an event are, so all rules about what
 * they mean apply to it.
 */
final class CarryOver {
  private static final int BATCH = 1_000;
  private static final Emitter NOBODY = new Emitter("carried over", null, null);

  private final ApplierSession session;
  private final AgedFacts aged;
  private final List<EventAtBlock> waiting = new ArrayList<>();
  private long carried;

  CarryOver(ApplierSession session) {
    this.session = session;
    this.aged = session.stores().aged();
  }

  /** Carries all over, in the caller's transaction; returns how many facts that were. */
  long all() {
    aged.forEachFacet(this::facet);
    aged.forEachRun(this::run);
    aged.forEachRunFacet(this::runFacet);
    aged.forEachRunLineage(this::runLineage);
    aged.forEachDeclaration(this::declaration);
    aged.forEachDescribed(this::described);
    aged.forEachRename(this::rename);
    flush();
    return carried;
  }

  private void add(EventFacts facts, long block) {
    waiting.add(new EventAtBlock(facts, block));
    carried++;
    if (waiting.size() >= BATCH) {
      flush();
    }
  }

  private void flush() {
    if (!waiting.isEmpty()) {
      session.catalog().write(List.copyOf(waiting));
      waiting.clear();
    }
  }

  private void facet(AgedFacts.Facet row) {
    EventTime at = time(row.atS(), row.atN(), row.far());
    var facts = new Facts(at);
    FacetFact.Subject subject;
    if (row.subjectKind() == SubjectKind.DATASET) {
      DatasetName dataset = DatasetName.parse(row.ref());
      facts.mention(dataset);
      subject = new FacetFact.OfDataset(dataset);
    } else {
      JobName job = JobName.parse(row.ref());
      facts.mention(job);
      subject = new FacetFact.OfJob(job);
    }
    facts.facet(new FacetFact(subject, row.key(), at, row.digest(), StoredText.json(row.body())));
    add(facts.facts(), row.block());
  }

  private void run(AgedFacts.Run row) {
    JobName job = JobName.parse(row.job());
    RunQueries.Times times = row.times();
    runEvent(row, job, null, times.start());
    runEvent(row, job, null, times.lastReported());
    runEvent(row, job, "START", times.begun());
    runEvent(row, job, "RUNNING", times.running());
    runEvent(row, job, "COMPLETE", times.completed());
    runEvent(row, job, "ABORT", times.aborted());
    runEvent(row, job, "FAIL", times.failed());
  }

  private void runEvent(
      AgedFacts.Run row, JobName job, @Nullable String type, @Nullable Instant at) {
    if (at != null) {
      add(new Facts(new EventTime(at, false)).run(row.run(), job, type).facts(), row.block());
    }
  }

  private void runFacet(AgedFacts.RunFacet row) {
    EventTime at = time(row.atS(), row.atN(), row.far());
    JobName job = JobName.parse(row.job());
    DatasetName dataset = row.dataset() == null ? null : DatasetName.parse(row.dataset());
    FacetFact.Subject subject =
        switch (row.role()) {
          case RUN -> new FacetFact.OfRun(row.run(), job);
          case CODE -> new FacetFact.OfJob(job);
          case INPUT -> new FacetFact.OfRunDataset(row.run(), job, dataset, false);
          case OUTPUT -> new FacetFact.OfRunDataset(row.run(), job, dataset, true);
        };
    add(
        new Facts(at)
            .run(row.run(), job, null)
            .mention(dataset)
            .facet(new FacetFact(subject, row.key(), at, row.digest(), StoredText.json(row.body())))
            .facts(),
        row.block());
  }

  private void runLineage(AgedFacts.RunLineage row) {
    add(
        new Facts(time(row.startS(), row.startN(), false))
            .run(row.run(), JobName.parse(row.job()), null)
            .reports(lineage(row.body()))
            .facts(),
        row.block());
  }

  private void declaration(AgedFacts.Declaration row) {
    var facts = new Facts(time(row.atS(), row.atN(), row.far()));
    if (row.ownerKind() == SubjectKind.DATASET) {
      facts.declares(DatasetName.parse(row.ref()), lineage(row.body()));
    } else {
      facts.ofJob(JobName.parse(row.ref())).reports(lineage(row.body()));
    }
    add(facts.facts(), row.block());
  }

  private void described(AgedFacts.Described row) {
    var facts = new Facts(new EventTime(Instant.EPOCH, false));
    if (row.subjectKind() == SubjectKind.DATASET) {
      facts.ofDataset(DatasetName.parse(row.ref()));
    } else {
      facts.ofJob(JobName.parse(row.ref()));
    }
    add(facts.facts(), row.block());
  }

  private void rename(AgedFacts.Rename row) {
    add(
        new Facts(time(row.atS(), row.atN(), false))
            .renames(DatasetName.parse(row.from()), DatasetName.parse(row.to()))
            .facts(),
        row.block());
  }

  private static EncodedLineage lineage(byte[] body) {
    return EncodedLineage.of(LineageText.read(StoredText.text(body)));
  }

  private static EventTime time(long second, int nano, boolean far) {
    return new EventTime(Instant.ofEpochSecond(second, nano), far);
  }

  /** The facts of an event that said one thing. */
  private static final class Facts {
    private final EventTime at;
    private final TreeSet<DatasetName> datasets = new TreeSet<>();
    private final TreeSet<JobName> jobs = new TreeSet<>();
    private final List<FacetFact> facets = new ArrayList<>();
    private final List<Rename> renames = new ArrayList<>();
    private final SortedMap<DatasetName, EncodedLineage> declared = new TreeMap<>();
    private @Nullable JobName job;
    private @Nullable DatasetName dataset;
    private @Nullable RunFact run;
    private EncodedLineage reported = EncodedLineage.NOTHING;

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

    Facts reports(EncodedLineage what) {
      reported = what;
      mentionAll(what);
      return this;
    }

    Facts declares(DatasetName name, EncodedLineage what) {
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

    private void mentionAll(EncodedLineage what) {
      datasets.addAll(what.lineage().inputs());
      datasets.addAll(what.lineage().outputs());
      what.lineage().columns().forEach(link -> datasets.add(link.from().dataset()));
    }

    EventFacts facts() {
      return new EventFacts(
          at,
          NOBODY,
          job,
          dataset,
          Optional.ofNullable(run),
          reported,
          declared,
          facets,
          renames,
          datasets,
          jobs,
          List.of(),
          null,
          null);
    }
  }
}
