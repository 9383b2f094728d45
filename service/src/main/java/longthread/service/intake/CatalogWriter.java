package longthread.service.intake;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import java.util.UUID;
import java.util.function.Function;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import longthread.core.asset.Reference;
import longthread.core.event.EventFacts;
import longthread.core.event.Shape;
import longthread.core.history.JobLineage.Version;
import longthread.service.intake.FactStore.Brought;
import longthread.service.intake.FactStore.RunKey;
import longthread.service.intake.FactStore.Subject;

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

  private final FactStore facts;
  private final RunWriter runs;
  private final JobWriter jobs;
  private final CardWriter cards;
  private final Stages stages;

  CatalogWriter(FactStore facts, RunWriter runs, JobWriter jobs, CardWriter cards, Stages stages) {
    this.facts = facts;
    this.runs = runs;
    this.jobs = jobs;
    this.cards = cards;
    this.stages = stages;
  }

  /** Drops what was remembered: after a roll-back, or after another wrote. */
  void forget() {
    facts.forget();
    jobs.forget();
    cards.forget();
  }

  Changes write(List<Brought> events) {
    var datasets = new TreeSet<DatasetName>();
    var jobNames = new TreeSet<JobName>();
    for (Brought brought : events) {
      datasets.addAll(brought.event().datasets());
      jobNames.addAll(brought.event().jobs());
    }
    Set<String> newRefs = facts.internDatasets(datasets);
    newRefs.addAll(facts.internJobs(jobNames));
    FactStore.Written written = facts.write(events);
    stages.done("facts");

    Map<RunKey, RunWriter.RunFacts> touchedRuns = runs.read(written.runs());
    Map<RunKey, RunWriter.Written> runRows = runs.writeRuns(touchedRuns);
    stages.done("runs");

    JobWriter.Changes relinked = writeJobs(events, runRows);
    runs.writeChecks(touchedRuns, jobs::onlyInput);
    stages.done("links");

    Set<String> refs = writeCards(events, written, newRefs, runRows);
    var owners = new HashMap<Subject, String>();
    for (Brought brought : events) {
      JobName job = brought.event().job();
      if (job != null) {
        owners.put(new Subject(FactStore.JOB, facts.id(job)), job.reference());
      }
      for (DatasetName dataset : brought.event().declared().keySet()) {
        owners.put(new Subject(FactStore.DATASET, facts.id(dataset)), dataset.reference());
      }
    }
    relinked.relinked().forEach(owner -> refs.add(owners.get(owner)));
    stages.done("cards");
    return new Changes(refs, words(events, written, newRefs, relinked.newVersions(), facts::id));
  }

  private JobWriter.Changes writeJobs(
      List<Brought> events, Map<RunKey, RunWriter.Written> runRows) {
    var owners = new LinkedHashSet<Subject>();
    var declaring = new HashSet<Subject>();
    var stated = new LinkedHashMap<RunKey, Map<String, Shape>>();
    for (Brought brought : events) {
      EventFacts event = brought.event();
      if (event.job() != null) {
        var owner = new Subject(FactStore.JOB, facts.id(event.job()));
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
        declaring.add(new Subject(FactStore.DATASET, facts.id(dataset)));
      }
    }
    owners.addAll(declaring);
    return jobs.write(owners, runRows, stated, declaring);
  }

  /**
   * Cards are written for whoever is new, told something new of, or whose life may have changed.
   */
  private Set<String> writeCards(
      List<Brought> events,
      FactStore.Written written,
      Set<String> newRefs,
      Map<RunKey, RunWriter.Written> runRows) {
    var datasets = new TreeSet<DatasetName>();
    var jobNames = new TreeSet<JobName>();
    Map<Subject, Set<String>> changed = written.facets();
    var mentioned = new HashSet<Subject>();
    for (Brought brought : events) {
      brought
          .event()
          .datasets()
          .forEach(d -> mentioned.add(new Subject(FactStore.DATASET, facts.id(d))));
    }
    Set<Subject> withLife = facts.withLife(mentioned);
    for (Brought brought : events) {
      for (DatasetName dataset : brought.event().datasets()) {
        var subject = new Subject(FactStore.DATASET, facts.id(dataset));
        if (newRefs.contains(dataset.reference())
            || changed.containsKey(subject)
            || written.described().contains(subject)
            || withLife.contains(subject)) {
          datasets.add(dataset);
        }
      }
      brought.event().renames().forEach(rename -> datasets.add(rename.from()));
      for (JobName job : brought.event().jobs()) {
        var subject = new Subject(FactStore.JOB, facts.id(job));
        if (newRefs.contains(job.reference())
            || changed.containsKey(subject)
            || written.described().contains(subject)) {
          jobNames.add(job);
        }
      }
    }
    for (RunWriter.Written run : runRows.values()) {
      if (run.parentJob() != null && cards.isNewParent(run.parentJob())) {
        jobNames.add(((Reference.OfJob) Reference.parse(run.parentJob())).job());
      }
    }
    facts.internJobs(jobNames);
    return cards.write(datasets, jobNames);
  }

  private static List<Set<String>> words(
      List<Brought> events,
      FactStore.Written written,
      Set<String> newRefs,
      Map<Long, Version> newVersions,
      Function<JobName, Long> jobIds) {
    var all = new ArrayList<Set<String>>();
    var told = new HashSet<String>();
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
      event.run().map(run -> RUN_WORDS.getOrDefault(event.type(), "")).ifPresent(words::add);
      words.remove("");
      words.addAll(written.words().get(i));
      Long job = event.job() == null ? null : jobIds.apply(event.job());
      Version version = job == null ? null : newVersions.remove(job);
      if (version != null) {
        words.add("version " + version.number() + ": " + String.join(", ", version.changes()));
      }
      all.add(words);
    }
    return all;
  }
}
