package longthread.service.apply;

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
import longthread.core.event.HandFacet;
import longthread.core.history.JobLineage.Version;
import longthread.core.lineage.ReportedLineage;
import longthread.core.sql.SqlReader;
import longthread.service.storage.Stores;
import longthread.service.storage.facts.NameQueries;
import longthread.service.storage.facts.RunKey;
import longthread.service.storage.facts.Subject;
import longthread.service.storage.facts.SubjectKind;

/**
 * Writes the facts of events and computes the catalog anew for the jobs and datasets they touched,
 * from all their facts. What it writes depends on the facts alone, so it may be run again at any
 * time.
 */
public final class CatalogWriter {
  /**
   * What a batch changed.
   *
   * @param refs the datasets and jobs whose cards or links were written
   * @param words for each event what was new in it, in words
   */
  public record Changes(Set<String> refs, List<Set<String>> words) {}

  private static final Map<String, String> RUN_WORDS =
      Map.of(
          "START", "run started",
          "RUNNING", "run went on",
          "COMPLETE", "run completed",
          "FAIL", "run failed",
          "ABORT", "run aborted");

  private final NameQueries names;
  private final NameIds ids;
  private final CurrentFacets current;
  private final FactWriter facts;
  private final RunWriter runs;
  private final SchemaHistory schemas;
  private final RunSql sql;
  private final WorkspaceItems items;
  private final JobWriter jobs;
  private final CardWriter cards;
  private final StageTimer stages;

  CatalogWriter(Stores stores, SqlReader reader, StageTimer stages) {
    this.names = stores.names();
    this.ids = new NameIds(names);
    this.current = new CurrentFacets(stores.facets(), stores.renames());
    this.schemas = new SchemaHistory(stores.facets(), current);
    this.facts = new FactWriter(stores, ids, current, schemas);
    this.runs = new RunWriter(stores, ids, current);
    this.sql = new RunSql(reader, stores.facets(), ids, current, schemas, stores.pendingSql());
    this.items = new WorkspaceItems(stores, ids, current);
    this.jobs = new JobWriter(stores, ids, current, sql, items);
    this.cards = new CardWriter(stores, ids, current, schemas, items);
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

  public Changes write(List<EventAtBlock> events) {
    var datasets = new TreeSet<DatasetName>();
    var jobNames = new TreeSet<JobName>();
    var workspaces = new TreeSet<DatasetName>();
    var registered = new TreeSet<DatasetName>();
    for (EventAtBlock one : events) {
      datasets.addAll(one.event().datasets());
      jobNames.addAll(one.event().jobs());
      if (one.event().workspace() != null) {
        workspaces.add(one.event().workspace());
      }
    }
    datasets.stream().filter(HandFacet::isRegister).forEach(registered::add);
    datasets.removeAll(registered);
    ids.trim();
    ids.internDatasets(datasets);
    ids.internDatasets(registered);
    ids.internDatasets(workspaces);
    Set<String> newRefs = cards.withoutCard(datasets);
    newRefs.addAll(ids.internJobs(jobNames));
    FactWriter.Written written = facts.write(events);
    stages.done("facts");

    Map<RunKey, RunWriter.RunFacts> touchedRuns = runs.read(written.runs());
    RunWriter.Written writtenRuns = runs.writeRuns(touchedRuns);
    stages.done("runs");

    schemas.forget(written.earlier());
    WorkspaceItems.Members members = items.members(workspaces);
    Set<Subject> rederived = new HashSet<>(sql.touching(written.schemas()));
    members.datasets().forEach(item -> rederived.add(ids.subject(item)));
    members.jobs().forEach(item -> rederived.add(ids.subject(item)));
    JobWriter.Changes relinked = writeJobs(events, writtenRuns, rederived);
    runs.writeChecks(touchedRuns, relinked.onlyInputs());
    stages.done("links");

    Set<String> refs =
        writeCards(events, written, newRefs, writtenRuns.parents(), relinked.targets(), members);
    for (EventAtBlock one : events) {
      for (JobName job : one.event().jobs()) {
        if (relinked.relinked().contains(ids.subject(job))) {
          refs.add(job.reference());
        }
      }
      for (DatasetName dataset : one.event().datasets()) {
        if (relinked.relinked().contains(ids.subject(dataset))) {
          refs.add(dataset.reference());
        }
      }
    }
    refs.addAll(refsOf(rederived, relinked.relinked()));
    registered.forEach(name -> refs.add(name.reference()));
    stages.done("cards");
    return new Changes(refs, words(events, written, newRefs, relinked.newVersions()));
  }

  private Set<String> refsOf(Collection<Subject> owners, Set<Subject> relinked) {
    var refs = new HashSet<String>();
    for (SubjectKind kind : SubjectKind.values()) {
      Long[] changed =
          owners.stream()
              .filter(owner -> owner.kind() == kind && relinked.contains(owner))
              .map(Subject::id)
              .toArray(Long[]::new);
      if (changed.length > 0) {
        var named = kind == SubjectKind.JOB ? names.jobsById(changed) : names.datasetsById(changed);
        named.forEach(name -> refs.add(name.ref()));
      }
    }
    return refs;
  }

  /** The jobs that ran SQL and the views, for {@link #rederive}. */
  List<Subject> withSql() {
    return sql.all();
  }

  /** Those whose SQL took too long and waits for another try. */
  public List<Subject> pendingSql() {
    return sql.pendingAgain();
  }

  /** Reads SQL again, by the rules of this version; returns what changed. */
  public Set<String> rederive(List<Subject> owners) {
    JobWriter.Changes changes = jobs.write(owners, Map.of(), Map.of(), Map.of(), Set.of());
    var refs = new HashSet<>(refsOf(owners, changes.relinked()));
    refs.addAll(cards.write(withLife(changes.targets()), Set.of()));
    return refs;
  }

  private JobWriter.Changes writeJobs(
      List<EventAtBlock> events, RunWriter.Written runs, Set<Subject> rederived) {
    var owners = new LinkedHashSet<Subject>();
    var declaring = new HashSet<Subject>();
    var reported = new LinkedHashMap<RunKey, Map<String, ReportedLineage>>();
    for (EventAtBlock one : events) {
      EventFacts event = one.event();
      if (event.job() != null) {
        Subject owner = ids.subject(event.job());
        owners.add(owner);
        if (event.run().isEmpty()) {
          declaring.add(owner);
        } else if (!event.lineage().isEmpty()) {
          UUID run = event.run().get().run();
          reported
              .computeIfAbsent(new RunKey(run, owner.id()), k -> new HashMap<>())
              .put(event.reported().digest(), event.lineage());
        }
      }
      for (DatasetName dataset : event.declared().keySet()) {
        declaring.add(ids.subject(dataset));
      }
      for (FacetFact fact : event.facets()) {
        boolean view = fact.key().equals(RunSql.VIEW);
        boolean recorded = fact.key().startsWith(HandFacet.RECORDED);
        if ((view || recorded) && fact.subject() instanceof FacetFact.OfDataset of) {
          declaring.add(ids.subject(of.dataset()));
        } else if (recorded && fact.subject() instanceof FacetFact.OfJob of) {
          declaring.add(ids.subject(of.job()));
        }
      }
    }
    owners.addAll(declaring);
    owners.addAll(rederived);
    return jobs.write(owners, runs.runs(), runs.texts(), reported, declaring);
  }

  /**
   * Cards are written for what is new, of which something new was reported, or whose life cycle may
   * have changed; the last for all that the owners of the batch write.
   */
  private Set<String> writeCards(
      List<EventAtBlock> events,
      FactWriter.Written written,
      Set<String> newRefs,
      Set<String> parents,
      Set<DatasetName> targets,
      WorkspaceItems.Members members) {
    var datasets = new TreeSet<>(members.datasets());
    var jobNames = new TreeSet<>(members.jobs());
    var mentioned = new HashSet<Subject>();
    for (EventAtBlock one : events) {
      one.event().datasets().forEach(dataset -> mentioned.add(ids.subject(dataset)));
    }
    var touched = new HashSet<>(written.facets());
    touched.addAll(written.described());
    written.schemas().forEach(dataset -> touched.add(Subject.dataset(dataset)));
    written.earlier().forEach(dataset -> touched.add(Subject.dataset(dataset)));
    datasets.addAll(withLife(targets));
    touched.addAll(current.withLife(mentioned));
    for (EventAtBlock one : events) {
      for (DatasetName dataset : one.event().datasets()) {
        if (newRefs.contains(dataset.reference()) || touched.contains(ids.subject(dataset))) {
          datasets.add(dataset);
        }
      }
      one.event().renames().forEach(rename -> datasets.add(rename.from()));
      for (JobName job : one.event().jobs()) {
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

  /**
   * Those of some datasets whose life cycle was reported. Whether a dropped one was written since
   * may change with any run that wrote it, though the event does not name it.
   */
  private Set<DatasetName> withLife(Set<DatasetName> targets) {
    var bySubject = new HashMap<Subject, DatasetName>();
    targets.forEach(target -> bySubject.put(ids.subject(target), target));
    var found = new HashSet<DatasetName>();
    current.withLife(bySubject.keySet()).forEach(subject -> found.add(bySubject.get(subject)));
    return found;
  }

  private List<Set<String>> words(
      List<EventAtBlock> events,
      FactWriter.Written written,
      Set<String> newRefs,
      Map<Subject, Version> newVersions) {
    var all = new ArrayList<Set<String>>();
    var named = new HashSet<String>();
    var namedVersions = new HashSet<Subject>();
    for (int i = 0; i < events.size(); i++) {
      var words = new LinkedHashSet<String>();
      EventFacts event = events.get(i).event();
      for (JobName job : event.jobs()) {
        if (newRefs.contains(job.reference()) && named.add(job.reference())) {
          words.add("new job " + job.name());
        }
      }
      for (DatasetName dataset : event.datasets()) {
        if (newRefs.contains(dataset.reference()) && named.add(dataset.reference())) {
          words.add("new dataset " + dataset.name());
        }
      }
      if (RUN_WORDS.containsKey(event.type())) {
        words.add(RUN_WORDS.get(event.type()));
      }
      words.addAll(written.words().get(i));
      Subject job = event.job() == null ? null : ids.subject(event.job());
      Version version = job == null ? null : newVersions.get(job);
      if (version != null && namedVersions.add(job)) {
        words.add("version " + version.number() + ": " + String.join(", ", version.changes()));
      }
      all.add(words);
    }
    return all;
  }
}
