package longthread.service.intake;

import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import java.util.UUID;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import longthread.core.event.EventFacts;
import longthread.core.event.FacetFact;
import longthread.core.event.Shape;
import longthread.core.history.JobLineage.Version;
import longthread.core.sql.SqlReader;
import longthread.service.intake.FactStore.Brought;
import org.springframework.jdbc.core.JdbcTemplate;

/**
 * Writes the facts of events and computes the catalog anew for the jobs and datasets they touched,
 * from all their facts. What it writes depends on the facts alone, so it may be run again at any
 * time.
 */
final class CatalogWriter {
  /**
   * What a batch changed.
   *
   * @param refs the datasets and jobs whose cards or links were written
   * @param words for each event what was new in it, in words
   */
  record Changes(Set<String> refs, List<Set<String>> words) {}

  private static final Map<String, String> RUN_WORDS =
      Map.of(
          "START", "run started",
          "RUNNING", "run went on",
          "COMPLETE", "run completed",
          "FAIL", "run failed",
          "ABORT", "run aborted");

  private final JdbcTemplate jdbc;
  private final NameIds ids;
  private final CurrentFacets current;
  private final FactStore facts;
  private final RunWriter runs;
  private final RunSql sql;
  private final JobWriter jobs;
  private final CardWriter cards;
  private final Stages stages;

  CatalogWriter(JdbcTemplate jdbc, SqlReader reader, Stages stages) {
    this.jdbc = jdbc;
    this.ids = new NameIds(jdbc);
    this.current = new CurrentFacets(jdbc);
    this.facts = new FactStore(jdbc, ids, current);
    this.runs = new RunWriter(jdbc, ids, current);
    this.sql = new RunSql(reader, jdbc, ids, current);
    this.jobs = new JobWriter(jdbc, ids, current, sql);
    this.cards = new CardWriter(jdbc, ids, current);
    this.stages = stages;
  }

  /** Drops what was remembered: after a roll-back, or after another wrote. */
  void forget() {
    ids.forget();
    current.forget();
    facts.forget();
    jobs.forget();
    sql.forget();
    cards.forget();
  }

  Changes write(List<Brought> events) {
    var datasets = new TreeSet<DatasetName>();
    var jobNames = new TreeSet<JobName>();
    for (Brought brought : events) {
      datasets.addAll(brought.event().datasets());
      jobNames.addAll(brought.event().jobs());
    }
    ids.trim();
    Set<String> newRefs = ids.internDatasets(datasets);
    newRefs.addAll(ids.internJobs(jobNames));
    FactStore.Written written = facts.write(events);
    stages.done("facts");

    Map<RunKey, RunWriter.RunFacts> touchedRuns = runs.read(written.runs());
    RunWriter.Written writtenRuns = runs.writeRuns(touchedRuns);
    stages.done("runs");

    Set<Subject> rederived = sql.touching(written.schemas());
    JobWriter.Changes relinked = writeJobs(events, writtenRuns, rederived);
    runs.writeChecks(touchedRuns, relinked.onlyInputs());
    stages.done("links");

    Set<String> refs = writeCards(events, written, newRefs, writtenRuns.parents());
    for (Brought brought : events) {
      JobName job = brought.event().job();
      if (job != null && relinked.relinked().contains(ids.subject(job))) {
        refs.add(job.reference());
      }
      for (DatasetName dataset : brought.event().datasets()) {
        if (relinked.relinked().contains(ids.subject(dataset))) {
          refs.add(dataset.reference());
        }
      }
    }
    refs.addAll(refsOf(rederived, relinked.relinked()));
    stages.done("cards");
    return new Changes(refs, words(events, written, newRefs, relinked.newVersions()));
  }

  private Set<String> refsOf(Collection<Subject> owners, Set<Subject> relinked) {
    var refs = new HashSet<String>();
    for (int kind : new int[] {Subject.JOB, Subject.DATASET}) {
      Long[] changed =
          owners.stream()
              .filter(owner -> owner.kind() == kind && relinked.contains(owner))
              .map(Subject::id)
              .toArray(Long[]::new);
      if (changed.length > 0) {
        String table = kind == Subject.JOB ? "job" : "dataset";
        refs.addAll(
            jdbc.queryForList(
                "select ref from " + table + " where id = any(?)", String.class, (Object) changed));
      }
    }
    return refs;
  }

  /** The jobs that ran SQL and the views, for {@link #rederive}. */
  List<Subject> withSql() {
    return sql.all();
  }

  /** Those whose SQL took too long and waits for another try. */
  List<Subject> takePendingSql() {
    return sql.takePending();
  }

  /** Reads SQL again, by the rules of this version; returns what changed. */
  Set<String> rederive(List<Subject> owners) {
    JobWriter.Changes changes = jobs.write(owners, Map.of(), Map.of(), Map.of(), Set.of());
    return refsOf(owners, changes.relinked());
  }

  private JobWriter.Changes writeJobs(
      List<Brought> events, RunWriter.Written runs, Set<Subject> rederived) {
    var owners = new LinkedHashSet<Subject>();
    var declaring = new HashSet<Subject>();
    var stated = new LinkedHashMap<RunKey, Map<String, Shape>>();
    for (Brought brought : events) {
      EventFacts event = brought.event();
      if (event.job() != null) {
        Subject owner = ids.subject(event.job());
        owners.add(owner);
        if (event.run().isEmpty()) {
          declaring.add(owner);
        } else if (!event.shape().isEmpty()) {
          UUID run = event.run().get().run();
          stated
              .computeIfAbsent(new RunKey(run, owner.id()), k -> new HashMap<>())
              .put(event.stated().digest(), event.shape());
        }
      }
      for (DatasetName dataset : event.declared().keySet()) {
        declaring.add(ids.subject(dataset));
      }
      for (FacetFact fact : event.facets()) {
        if (fact.key().equals(RunSql.VIEW) && fact.subject() instanceof FacetFact.OfDataset of) {
          declaring.add(ids.subject(of.dataset()));
        }
      }
    }
    owners.addAll(declaring);
    owners.addAll(rederived);
    return jobs.write(owners, runs.runs(), runs.texts(), stated, declaring);
  }

  /**
   * Cards are written for whoever is new, told something new of, or whose life may have changed.
   */
  private Set<String> writeCards(
      List<Brought> events, FactStore.Written written, Set<String> newRefs, Set<String> parents) {
    var datasets = new TreeSet<DatasetName>();
    var jobNames = new TreeSet<JobName>();
    var mentioned = new HashSet<Subject>();
    for (Brought brought : events) {
      brought.event().datasets().forEach(dataset -> mentioned.add(ids.subject(dataset)));
    }
    var touched = new HashSet<>(written.facets());
    touched.addAll(written.described());
    touched.addAll(current.withLife(mentioned));
    for (Brought brought : events) {
      for (DatasetName dataset : brought.event().datasets()) {
        if (newRefs.contains(dataset.reference()) || touched.contains(ids.subject(dataset))) {
          datasets.add(dataset);
        }
      }
      brought.event().renames().forEach(rename -> datasets.add(rename.from()));
      for (JobName job : brought.event().jobs()) {
        if (newRefs.contains(job.reference()) || touched.contains(ids.subject(job))) {
          jobNames.add(job);
        }
      }
    }
    parents.stream()
        .filter(cards::isNewParent)
        .forEach(parent -> jobNames.add(JobName.parse(parent)));
    ids.internJobs(jobNames);
    return cards.write(datasets, jobNames);
  }

  private List<Set<String>> words(
      List<Brought> events,
      FactStore.Written written,
      Set<String> newRefs,
      Map<Subject, Version> newVersions) {
    var all = new ArrayList<Set<String>>();
    var told = new HashSet<String>();
    var toldVersions = new HashSet<Subject>();
    for (int i = 0; i < events.size(); i++) {
      var words = new LinkedHashSet<String>();
      EventFacts event = events.get(i).event();
      for (JobName job : event.jobs()) {
        if (newRefs.contains(job.reference()) && told.add(job.reference())) {
          words.add("new job " + job.name());
        }
      }
      for (DatasetName dataset : event.datasets()) {
        if (newRefs.contains(dataset.reference()) && told.add(dataset.reference())) {
          words.add("new dataset " + dataset.name());
        }
      }
      if (RUN_WORDS.containsKey(event.type())) {
        words.add(RUN_WORDS.get(event.type()));
      }
      words.addAll(written.words().get(i));
      Subject job = event.job() == null ? null : ids.subject(event.job());
      Version version = job == null ? null : newVersions.get(job);
      if (version != null && toldVersions.add(job)) {
        words.add("version " + version.number() + ": " + String.join(", ", version.changes()));
      }
      all.add(words);
    }
    return all;
  }
}
