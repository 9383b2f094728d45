package longthread.service.apply;

import com.github.benmanes.caffeine.cache.Cache;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Collections;
import java.util.HashMap;
import java.util.HashSet;
import java.util.IdentityHashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.SortedSet;
import java.util.TreeSet;
import java.util.UUID;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import longthread.core.history.Fingerprint;
import longthread.core.history.JobHistory;
import longthread.core.history.JobLineage;
import longthread.core.history.JobLineage.HeldLink;
import longthread.core.history.JobLineage.Version;
import longthread.core.history.JobRun;
import longthread.core.lineage.LineageText;
import longthread.core.lineage.ReportedLineage;
import longthread.core.lineage.ResolvedLineage;
import longthread.core.statement.RecordedLineage;
import longthread.core.workspace.WorkspaceEvents;
import longthread.service.storage.Columns;
import longthread.service.storage.StoredText;
import longthread.service.storage.Stores;
import longthread.service.storage.facts.NameQueries;
import longthread.service.storage.facts.RunFactQueries;
import longthread.service.storage.facts.RunKey;
import longthread.service.storage.facts.Subject;
import longthread.service.storage.runs.RunQueries;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;

/**
 * Computes job versions and links with their validity from runs and declarations.
 *
 * <p>The runs and links of the jobs touched lately are kept in memory, so a batch asks only for
 * those of jobs that come back after a while, and writes only what differs. Links that were seen
 * last together share a span: another run of the same sort moves one row.
 */
final class JobWriter {
  private static final long MAX_HISTORIES_WEIGHT = 200_000;
  private static final int NEWEST_KEPT = 1_000; // runs of a job
  private static final String JOB_TYPE = "jobType";
  private static final long MAX_LINEAGES_WEIGHT = 120_000; // links

  /**
   * What became of the owners of a batch.
   *
   * @param relinked those whose links or column map changed
   * @param newVersions the versions that jobs got, by job
   * @param onlyInputs the dataset that a run of the batch reads, of those runs that read one
   * @param targets the datasets that links of the owners lead to, changed or not
   */
  record Changes(
      Set<Subject> relinked,
      Map<Subject, Version> newVersions,
      Map<RunKey, DatasetName> onlyInputs,
      Set<DatasetName> targets) {}

  /**
   * A run as it stands; changed in place, since nearly every event of a run changes something. What
   * it reported is held by digest: the lineage itself only while a batch is written.
   */
  private static final class Run {
    private final UUID id;
    private RunWriter.@Nullable Outline outline; // null while only far-future events are known
    private @Nullable String sql; // the digest of the facet that holds it
    private @Nullable SortedSet<String> lineages; // one object for each set of a history
    private ResolvedLineage resolved = ResolvedLineage.NONE; // only within a batch

    Run(UUID id) {
      this.id = id;
    }

    JobRun asOf(
        RunWriter.Outline now, @Nullable String kind, boolean streaming, ResolvedLineage whole) {
      boolean settled = now.completed() || (streaming && now.reported());
      return new JobRun(id, now.start(), now.code(), kind, now.parent(), settled, whole);
    }
  }

  /** The runs of one job, and what was written of it. */
  private static final class History {
    private final Map<UUID, Run> runs = new LinkedHashMap<>();
    private final Map<SortedSet<String>, SortedSet<String>> sets = new HashMap<>();
    private Map<String, RunSql.Text> texts = Map.of(); // by fingerprint; only within a batch
    private JobHistory.@Nullable Declared declared;
    private LinkWriter.@Nullable Held held; // null if that is not known

    /** The start of the newest run that was left out; null if all are here. */
    private @Nullable Instant leftOutUntil;

    private boolean leftOutAsStream;

    Run run(UUID id) {
      return runs.computeIfAbsent(id, Run::new);
    }

    /** Sets what a run reported. */
    void reported(Run run, SortedSet<String> digests) {
      SortedSet<String> known = sets.putIfAbsent(digests, digests);
      run.lineages = known == null ? digests : known;
    }

    /** The different sets of lineages that its runs report. */
    Set<SortedSet<String>> reported() {
      Set<SortedSet<String>> used = Collections.newSetFromMap(new IdentityHashMap<>());
      for (Run run : runs.values()) {
        if (run.lineages != null) {
          used.add(run.lineages);
        }
      }
      return used;
    }

    /** What it weighs, about, in links. */
    int weight() {
      int declares = declared == null ? 0 : declared.resolved().links().size();
      return 4 + 2 * runs.size() + 2 * sets.size() + declares;
    }

    /**
     * Leaves out runs that change nothing: a job that ran a hundred thousand times, nearly always
     * alike, then weighs and takes as long as one that ran a few hundred times. Late events are
     * mostly of the newest runs, so these stay. What SQL says of a run may come to be known later,
     * so runs with SQL stay too.
     */
    void leaveOut(List<JobRun> needless, boolean streaming) {
      boolean readsSql = runs.values().stream().anyMatch(run -> run.sql != null);
      if (readsSql || needless.isEmpty() || runs.size() < 2 * NEWEST_KEPT) {
        return;
      }
      List<Instant> starts =
          runs.values().stream()
              .filter(run -> run.outline != null)
              .map(run -> run.outline.start())
              .sorted()
              .toList();
      if (starts.size() < NEWEST_KEPT) {
        return; // the others are only known by events of a far future
      }
      Instant newest = starts.get(starts.size() - NEWEST_KEPT);
      for (JobRun run : needless) {
        if (run.start().isBefore(newest)) {
          runs.remove(run.run());
          boolean later = leftOutUntil == null || leftOutUntil.isBefore(run.start());
          leftOutUntil = later ? run.start() : leftOutUntil;
        }
      }
      leftOutAsStream = streaming;
    }

    /** Lets go of what is only needed within a batch. */
    void rest() {
      runs.values().forEach(run -> run.resolved = ResolvedLineage.NONE);
      texts = Map.of();
    }
  }

  private final Stores stores;
  private final NameIds ids;
  private final CurrentFacets current;
  private final RunSql sql;
  private final WorkspaceItems items;
  private final Declarations declarations;
  private final Cache<Subject, History> histories =
      WeightedCache.of(MAX_HISTORIES_WEIGHT, History::weight);

  /** The unions of lineages, by their digests. */
  private final Cache<SortedSet<String>, ResolvedLineage> unions =
      WeightedCache.of(
          MAX_LINEAGES_WEIGHT,
          union -> 1 + union.links().size() + union.lineage().columns().size());

  JobWriter(Stores stores, NameIds ids, CurrentFacets current, RunSql sql, WorkspaceItems items) {
    this.items = items;
    this.declarations = new Declarations(stores);
    this.stores = stores;
    this.ids = ids;
    this.current = current;
    this.sql = sql;
  }

  void forget() {
    histories.invalidateAll();
    unions.invalidateAll();
  }

  /**
   * Brings owners up to date.
   *
   * @param owners the jobs that ran or were declared, and the datasets that declare lineage
   * @param runs the runs of this batch as they were just written
   * @param reported what lineages the events of this batch reported of which run
   * @param texts the digests of the SQL facets of those runs that reported one
   * @param declaring those of the owners that declared something in this batch
   */
  Changes write(
      Collection<Subject> owners,
      Map<RunKey, RunWriter.Outline> runs,
      Map<RunKey, String> texts,
      Map<RunKey, Map<String, ReportedLineage>> reported,
      Set<Subject> declaring) {
    Map<Subject, Map<String, JsonNode>> facets =
        current.of(List.copyOf(owners), JobWriter::mattersForLinks);
    Set<Subject> again = needingAll(owners, runs, texts.keySet(), declaring, facets);
    Map<Subject, History> all = load(owners, declaring, again);
    runs.forEach(
        (key, outline) -> {
          Run run = all.get(Subject.job(key.job())).run(key.run());
          run.outline = outline;
          run.sql = texts.get(key);
        });
    var known = new HashMap<String, ReportedLineage>();
    reported.forEach(
        (key, lineages) -> {
          known.putAll(lineages);
          History history = all.get(Subject.job(key.job()));
          Run run = history.run(key.run());
          if (run.lineages == null || !run.lineages.containsAll(lineages.keySet())) {
            var grown = new TreeSet<>(lineages.keySet());
            if (run.lineages != null) {
              grown.addAll(run.lineages);
            }
            history.reported(run, grown);
          }
        });
    resolveLineages(all, known);
    var onlyInputs = new HashMap<RunKey, DatasetName>();
    for (RunKey key : runs.keySet()) {
      var inputs = all.get(Subject.job(key.job())).run(key.run()).resolved.lineage().inputs();
      if (inputs.size() == 1) {
        onlyInputs.put(key, inputs.first());
      }
    }
    return writeAll(all, facets, onlyInputs);
  }

  /** The owners whose runs were left out in part, and of which all are needed now. */
  private Set<Subject> needingAll(
      Collection<Subject> owners,
      Map<RunKey, RunWriter.Outline> runs,
      Set<RunKey> withSql,
      Set<Subject> declaring,
      Map<Subject, Map<String, JsonNode>> facets) {
    var needing = new HashSet<Subject>();
    for (Subject owner : owners) {
      History known = histories.getIfPresent(owner);
      if (known != null && known.leftOutUntil != null) {
        boolean streaming = isStreaming(facets.getOrDefault(owner, Map.of()).get(JOB_TYPE));
        if (declaring.contains(owner) || streaming != known.leftOutAsStream) {
          needing.add(owner);
        }
      }
    }
    runs.forEach(
        (key, outline) -> {
          Subject owner = Subject.job(key.job());
          History known = histories.getIfPresent(owner);
          if (known != null
              && known.leftOutUntil != null
              && (withSql.contains(key) || !outline.start().isAfter(known.leftOutUntil))) {
            needing.add(owner);
          }
        });
    return needing;
  }

  private Map<Subject, History> load(
      Collection<Subject> owners, Set<Subject> declaring, Set<Subject> again) {
    var all = new LinkedHashMap<Subject, History>();
    var missing = new ArrayList<Long>();
    var undeclared = new HashSet<>(declaring);
    for (Subject owner : owners) {
      History known = again.contains(owner) ? null : histories.getIfPresent(owner);
      all.put(owner, known == null ? new History() : known);
      if (known == null) {
        undeclared.add(owner);
      }
      if (known == null && owner.isJob()) {
        missing.add(owner.id());
      }
    }
    if (!missing.isEmpty()) {
      readRuns(all, missing.toArray(Long[]::new));
    }
    declared(all, undeclared);
    return all;
  }

  private void readRuns(Map<Subject, History> all, Long[] jobs) {
    for (RunQueries.Outline row : stores.runs().outlines(jobs)) {
      all.get(Subject.job(row.job())).run(row.run()).outline =
          new RunWriter.Outline(
              Instant.ofEpochSecond(row.startS(), row.startN()),
              row.code(),
              row.state().equals("completed"),
              row.reportedRunning(),
              row.parent());
    }
    for (RunFactQueries.LineagesOfRun row : stores.runFacts().lineages(jobs)) {
      History history = all.get(Subject.job(row.job()));
      history.reported(history.run(row.run()), new TreeSet<>(List.of(row.digests())));
    }
    for (RunFactQueries.SqlOfRun row : stores.runFacts().sql(jobs)) {
      all.get(Subject.job(row.job())).run(row.run()).sql = row.digest();
    }
  }

  /** Reads the declarations of these owners. */
  private void declared(Map<Subject, History> all, Set<Subject> owners) {
    Map<Subject, JobHistory.Declared> read = declarations.of(owners);
    owners.forEach(owner -> all.get(owner).declared = read.get(owner));
  }

  /** Gives each run the union of its lineages: nearly all runs of a job share one. */
  private void resolveLineages(Map<Subject, History> all, Map<String, ReportedLineage> known) {
    var made = new HashMap<SortedSet<String>, ResolvedLineage>();
    var open = new LinkedHashSet<SortedSet<String>>();
    var missing = new TreeSet<String>();
    for (History history : all.values()) {
      for (SortedSet<String> digests : history.reported()) {
        ResolvedLineage union = unions.getIfPresent(digests);
        if (union != null) {
          made.put(digests, union);
        } else if (open.add(digests)) {
          digests.stream().filter(d -> !known.containsKey(d)).forEach(missing::add);
        }
      }
    }
    if (!missing.isEmpty()) {
      for (RunFactQueries.Body row : stores.runFacts().lineageBodies(Columns.digests(missing))) {
        known.put(row.digest(), LineageText.read(StoredText.text(row.body())));
      }
    }
    for (SortedSet<String> digests : open) {
      ResolvedLineage union =
          ResolvedLineage.of(ReportedLineage.union(digests.stream().map(known::get).toList()));
      made.put(digests, union);
      unions.put(digests, union);
    }
    for (History history : all.values()) {
      for (Run run : history.runs.values()) {
        if (run.lineages != null) {
          run.resolved = made.get(run.lineages);
        }
      }
    }
  }

  private Changes writeAll(
      Map<Subject, History> all,
      Map<Subject, Map<String, JsonNode>> facets,
      Map<RunKey, DatasetName> onlyInputs) {
    Map<Subject, View> views = views(all, facets);
    readTexts(all.values());
    prepareSql(all.values(), views.values());
    Map<Subject, DatasetName> ends = ends(all.keySet());
    var runs = new LinkedHashMap<Subject, List<JobRun>>();
    all.forEach(
        (owner, history) -> {
          boolean streaming = isStreaming(facets.getOrDefault(owner, Map.of()).get(JOB_TYPE));
          runs.put(owner, runs(owner, history, streaming));
        });
    resolveQueries(all, runs, ends);
    Map<Subject, Instant> gone = items.goneSince(facets);
    Map<Subject, List<JobHistory.Recorded>> recorded = recorded(facets);
    var lineages = new LinkedHashMap<Subject, JobLineage>();
    var names = new HashSet<DatasetName>();
    var targets = new HashSet<DatasetName>();
    all.forEach(
        (owner, history) -> {
          var needless = new ArrayList<JobRun>();
          JobLineage lineage =
              JobHistory.of(
                  runs.get(owner),
                  ended(declared(owner, history, views.get(owner)), gone.get(owner)),
                  recorded.getOrDefault(owner, List.of()),
                  ends.get(owner),
                  needless::add);
          history.leaveOut(
              needless, isStreaming(facets.getOrDefault(owner, Map.of()).get(JOB_TYPE)));
          lineages.put(owner, lineage);
          for (HeldLink held : lineage.links()) {
            names.add(held.link().from().dataset());
            targets.add(held.link().to().dataset());
          }
        });
    names.addAll(targets);
    ids.internDatasets(names);
    targets.removeIf(DatasetName::isJob);
    var rows = new LinkWriter(ids, stores);
    var held = new HashMap<Subject, LinkWriter.Held>();
    all.forEach(
        (owner, history) -> {
          if (history.held != null) {
            held.put(owner, history.held);
          }
        });
    Map<Subject, LinkWriter.Held> after = rows.add(lineages, held);
    rows.write();
    all.forEach(
        (owner, history) -> {
          history.held = after.get(owner);
          history.rest();
        });
    sql.storePending(all.keySet());
    all.forEach(histories::put);
    return new Changes(rows.relinked(), rows.newVersions(), onlyInputs, targets);
  }

  /** What people recorded of owners. */
  private Map<Subject, List<JobHistory.Recorded>> recorded(
      Map<Subject, Map<String, JsonNode>> facets) {
    var recorded = new HashMap<Subject, List<JobHistory.Recorded>>();
    facets.forEach(
        (owner, byKey) -> {
          if (RecordedLineage.anyIn(byKey.keySet())) {
            DatasetName dataset =
                owner.isJob()
                    ? null
                    : DatasetName.parse(
                        stores.names().datasetsById(new Long[] {owner.id()}).get(0).ref());
            recorded.put(owner, RecordedLineage.of(byKey, dataset));
          }
        });
    return recorded;
  }

  private static boolean mattersForLinks(String key) {
    return key.equals(JOB_TYPE)
        || key.equals(RunSql.VIEW)
        || key.equals(WorkspaceEvents.ITEM)
        || RecordedLineage.anyIn(List.of(key));
  }

  /** Each job as the end of its one-sided lineage. */
  private Map<Subject, DatasetName> ends(Collection<Subject> owners) {
    Map<Long, JobName> jobs =
        ids.jobNames(owners.stream().filter(Subject::isJob).map(Subject::id).toList());
    var ends = new HashMap<Subject, DatasetName>();
    for (Subject owner : owners) {
      if (owner.isJob()) {
        ends.put(owner, DatasetName.ofJob(Objects.requireNonNull(jobs.get(owner.id()))));
      }
    }
    return ends;
  }

  /** Reads the queries of jobs that write nothing. */
  private void resolveQueries(
      Map<Subject, History> all, Map<Subject, List<JobRun>> runs, Map<Subject, DatasetName> ends) {
    var queries = new QueryOnlyJobs(sql);
    runs.forEach(
        (owner, list) -> {
          History history = all.get(owner);
          JobHistory.Declared declared = history.declared;
          boolean writes =
              list.stream().anyMatch(run -> !run.lineage().outputs().isEmpty())
                  || (declared != null && !declared.resolved().lineage().outputs().isEmpty());
          if (owner.isJob() && !writes && !history.texts.isEmpty()) {
            queries.add(
                owner, ends.get(owner), list, history.texts, id -> history.run(id).resolved);
          }
        });
    queries.resolve();
  }

  /** Of the texts with one fingerprint one stands for all: which, depends on the runs alone. */
  private void readTexts(Collection<History> histories) {
    var digests = new HashSet<String>();
    for (History history : histories) {
      history.runs.values().stream()
          .map(run -> run.sql)
          .filter(d -> d != null)
          .forEach(digests::add);
    }
    Map<String, RunSql.Text> texts = sql.texts(digests);
    for (History history : histories) {
      history.texts = new HashMap<>();
      for (Run run : history.runs.values()) {
        RunSql.Text text = texts.get(run.sql);
        if (text != null && run.outline != null && run.outline.code() != null) {
          history.texts.merge(run.outline.code(), text, RunSql.Text::or);
        }
      }
    }
  }

  /** A declaration of what is no more, up to when it was there. */
  private static JobHistory.@Nullable Declared ended(
      JobHistory.@Nullable Declared declared, @Nullable Instant gone) {
    return declared == null || gone == null
        ? declared
        : new JobHistory.Declared(
            declared.at(), declared.last(), declared.resolved(), gone, declared.earlier());
  }

  /**
   * The query that a dataset or a declared job stands for, and what it declares besides.
   *
   * @param at since when the query is like this
   * @param last when it was reported so last
   */
  private record View(RunSql.Text text, Instant at, Instant last, ResolvedLineage reported) {}

  private Map<Subject, View> views(
      Map<Subject, History> all, Map<Subject, Map<String, JsonNode>> facets) {
    var texts = new LinkedHashMap<Subject, RunSql.Text>();
    for (Subject owner : all.keySet()) {
      JsonNode facet = facets.getOrDefault(owner, Map.of()).get(RunSql.VIEW);
      RunSql.Text text = RunSql.Text.of(facet, ""); // the facet that stands is the only one
      if (text != null) {
        texts.put(owner, text);
      }
    }
    var views = new LinkedHashMap<Subject, View>();
    if (texts.isEmpty()) {
      return views;
    }
    var names = new HashMap<Long, DatasetName>();
    for (NameQueries.Named row : stores.names().datasetsById(datasets(texts.keySet()))) {
      names.put(row.id(), DatasetName.parse(row.ref()));
    }
    Map<Subject, Instant> since = declarations.queriesSince(texts.keySet());
    var winners = current.winners(texts.keySet());
    texts.forEach(
        (owner, text) -> {
          JobHistory.Declared declared = all.get(owner).declared;
          ReportedLineage own =
              owner.isJob()
                  ? ReportedLineage.EMPTY
                  : ReportedLineage.EMPTY.writing(names.get(owner.id()));
          ReportedLineage reported =
              declared == null
                  ? own
                  : ReportedLineage.union(List.of(own, declared.resolved().lineage()));
          Instant last = winners.get(owner).get(RunSql.VIEW).at();
          views.put(owner, new View(text, since.get(owner), last, ResolvedLineage.of(reported)));
        });
    return views;
  }

  private static Long[] datasets(Collection<Subject> owners) {
    return owners.stream().filter(o -> !o.isJob()).map(Subject::id).toArray(Long[]::new);
  }

  private JobHistory.@Nullable Declared declared(
      Subject owner, History history, @Nullable View view) {
    JobHistory.Declared declared = history.declared;
    if (view == null) {
      return declared;
    }
    ResolvedLineage resolved = sql.resolve(owner, view.text(), view.at(), view.reported());
    return declared == null
        ? new JobHistory.Declared(view.at(), view.last(), resolved, null, List.of())
        : new JobHistory.Declared(
            later(view.at(), declared.at()),
            later(view.last(), declared.last()),
            resolved,
            null,
            declared.earlier());
  }

  private static Instant later(Instant a, Instant b) {
    return a.isAfter(b) ? a : b;
  }

  private void prepareSql(Collection<History> histories, Collection<View> views) {
    var asked = new HashMap<RunSql.Text, Set<ResolvedLineage>>();
    for (View view : views) {
      asked
          .computeIfAbsent(view.text(), k -> Collections.newSetFromMap(new IdentityHashMap<>()))
          .add(view.reported());
    }
    for (History history : histories) {
      if (history.texts.isEmpty()) {
        continue;
      }
      for (Run run : history.runs.values()) {
        RunSql.Text text = run.outline == null ? null : history.texts.get(run.outline.code());
        if (text != null) {
          asked
              .computeIfAbsent(text, k -> Collections.newSetFromMap(new IdentityHashMap<>()))
              .add(run.resolved);
        }
      }
    }
    if (!asked.isEmpty()) {
      sql.prepare(asked);
    }
  }

  private List<JobRun> runs(Subject owner, History history, boolean streaming) {
    var runs = new ArrayList<JobRun>(history.runs.size());
    var asked = new HashMap<RunSql.Text, Map<ResolvedLineage, RunSql.Question>>();
    for (Run run : history.runs.values()) {
      if (run.outline != null) {
        RunSql.Text text = history.texts.get(run.outline.code());
        ResolvedLineage whole =
            text == null
                ? run.resolved
                : asked
                    .computeIfAbsent(text, k -> new IdentityHashMap<>())
                    .computeIfAbsent(run.resolved, k -> sql.question(owner, text, run.resolved))
                    .at(run.outline.start());
        String kind =
            text == null || history.texts.size() < 2 ? null : Fingerprint.verb(text.query());
        runs.add(run.asOf(run.outline, kind, streaming, whole));
      }
    }
    return runs;
  }

  private static boolean isStreaming(@Nullable JsonNode type) {
    return type != null
        && "STREAMING".equalsIgnoreCase(type.path("processingType").stringValue(""));
  }
}
