package longthread.service.exact;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import longthread.core.asset.Reference;
import longthread.core.exact.Contents;
import longthread.core.exact.Contribution;
import longthread.core.exact.Doubt;
import longthread.core.exact.Execution;
import longthread.core.exact.Recall;
import longthread.core.exact.RunLineage;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.GraphFollower;
import longthread.service.live.Sight;
import longthread.service.storage.facts.FacetQueries;
import longthread.service.storage.facts.RunFactQueries;
import longthread.service.storage.graph.LinkQueries;
import longthread.service.storage.runs.ExactQueries;
import longthread.service.storage.runs.JobVersionQueries;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** The runs behind what is in an asset, and what rests on a run, dressed for answers. */
@Service
public class ExactLineage {
  /**
   * A run.
   *
   * @param state completed, failed, aborted, running, or unknown
   * @param hops how many readings lie between it and the focus
   * @param certain whether its data is there whichever way the runs fell together
   * @param version the version of its job that it ran; null if that is not known
   * @param newest the newest version of its job that ran since; null if it ran the newest
   */
  public record ExactRun(
      String ref,
      String job,
      String name,
      String state,
      Instant start,
      @Nullable Instant end,
      int hops,
      boolean certain,
      @Nullable Integer version,
      @Nullable NewerVersion newest) {}

  /**
   * A version of a job that has run since another one was run.
   *
   * @param since when it first ran; of one that had run before too and returned, when it last ran
   */
  public record NewerVersion(int number, Instant since, List<String> changes) {}

  /**
   * That a run's data was there, or may have been.
   *
   * @param doubts why it is not certain, in words; empty if it is
   */
  public record ExactLoad(String run, String asset, boolean certain, List<ExactDoubt> doubts) {}

  /** A reason for which something is not certain. */
  public record ExactDoubt(String kind, String words) {}

  /**
   * One reading of an asset.
   *
   * @param reader the run that read; null for the focus itself
   * @param part which part was read, in words; null for all of it
   * @param through the assets that were really read, where the asset shows them as they are
   * @param by whether {@code version} or {@code time} decided what was there
   * @param source whether no run is known that ever wrote it
   * @param problem what is missing from the answer here; null if nothing is
   */
  public record ExactUse(
      @Nullable String reader,
      String asset,
      String name,
      String kind,
      @Nullable String part,
      List<String> through,
      String by,
      boolean source,
      List<ExactLoad> loads,
      @Nullable String problem) {}

  /**
   * The runs behind something.
   *
   * @param outdated the jobs of which an older version stands behind it, in words
   * @param ambiguous how many readings have more than one possible answer
   */
  public record ExactAnswer(
      String ref,
      Instant at,
      String summary,
      List<String> outdated,
      int ambiguous,
      List<ExactRun> runs,
      List<ExactUse> uses,
      List<String> sources,
      boolean truncated) {}

  /**
   * An asset on a recall list.
   *
   * @param state holds, may-hold, or replaced
   * @param newest the newest run that wrote it and rests on the run
   * @param replacedBy the run that replaced its data since; null if it is there still
   * @param through the asset that it shows as it is; null if runs wrote it
   */
  public record RecallItem(
      String ref,
      String name,
      String kind,
      String system,
      List<String> owners,
      String state,
      int hops,
      @Nullable String newest,
      @Nullable Instant newestAt,
      @Nullable String replacedBy,
      @Nullable Instant replacedAt,
      @Nullable String through,
      @Nullable String url) {}

  /** What rests on a run. */
  public record RecallList(
      ExactRun of,
      Instant at,
      int holds,
      int mayHold,
      int replaced,
      List<RecallItem> items,
      List<RecalledRun> runs,
      boolean truncated) {}

  /** A run that used the data. */
  public record RecalledRun(ExactRun run, @Nullable String from, List<ExactDoubt> doubts) {}

  private static final int MAX_RUNS = 2_000;

  private final StoredRuns.Tables tables;
  private final Catalog catalog;
  private final GraphFollower follower;

  ExactLineage(
      ExactQueries runs,
      RunFactQueries facts,
      FacetQueries facets,
      JobVersionQueries versions,
      LinkQueries links,
      Catalog catalog,
      GraphFollower follower) {
    this.tables = new StoredRuns.Tables(runs, facts, facets, versions, links);
    this.catalog = catalog;
    this.follower = follower;
  }

  /** Which runs to look for. */
  public record Wanted(
      Asset asset, @Nullable String column, Instant at, boolean past, int hops, int limit) {}

  /** Returns the runs behind what is in an asset or column at a moment. */
  @Transactional(readOnly = true)
  public ExactAnswer behind(Wanted wanted) {
    StoredRuns runs = runs(wanted.past() ? wanted.at() : null);
    String ref = wanted.asset().ref();
    RunLineage.Found found =
        RunLineage.of(
            runs,
            ref,
            wanted.column(),
            runs,
            wanted.at(),
            wanted.hops(),
            Math.min(wanted.limit(), MAX_RUNS));
    String shown = wanted.column() == null ? ref : ref + '#' + wanted.column();
    return answer(shown, wanted.at(), found, runs);
  }

  /** Returns the runs behind what a run wrote. */
  @Transactional(readOnly = true)
  public ExactAnswer behind(UUID id, int hops, int limit) {
    StoredRuns runs = runs(null);
    Execution run = one(id, runs);
    RunLineage.Found found = RunLineage.of(runs, run, hops, Math.min(limit, MAX_RUNS));
    return answer(
        Reference.RUN_PREFIX + id, run.end() == null ? run.start() : run.end(), found, runs);
  }

  /** Returns what rests on what a run wrote, as it stands at a moment. */
  @Transactional(readOnly = true)
  public RecallList recall(UUID id, Instant at) {
    StoredRuns runs = runs(null);
    Execution run = one(id, runs);
    Recall.Found found = Recall.of(runs, run, at, MAX_RUNS);
    var items = found.assets().stream().map(this::item).toList();
    var users = new ArrayList<RecalledRun>();
    Map<String, StoredRuns.Newest> newest =
        newest(
            Stream.concat(Stream.of(run), found.runs().stream().map(Recall.Member::run)), runs, at);
    for (Recall.Member member : found.runs()) {
      if (member.hops() > 0) {
        Execution user = member.run();
        users.add(
            new RecalledRun(
                run(user, member.hops(), member.certain(), newest.get(user.job())),
                member.from(),
                doubts(member.doubts())));
      }
    }
    return new RecallList(
        run(run, 0, true, newest.get(run.job())),
        at,
        count(found, Recall.State.HOLDS),
        count(found, Recall.State.MAY_HOLD),
        count(found, Recall.State.REPLACED),
        items,
        users,
        found.truncated());
  }

  private static int count(Recall.Found found, Recall.State state) {
    return (int) found.assets().stream().filter(a -> a.state() == state).count();
  }

  /** The versions of the jobs of runs that ran last by a moment, in one query. */
  private static Map<String, StoredRuns.Newest> newest(
      Stream<Execution> runs, StoredRuns stored, Instant at) {
    return stored.newest(runs.map(Execution::job).collect(Collectors.toSet()), at);
  }

  private StoredRuns runs(@Nullable Instant past) {
    return new StoredRuns(tables, catalog, follower, past);
  }

  private static Execution one(UUID id, StoredRuns runs) {
    return runs.run(id).stream()
        .max(
            Comparator.comparing((Execution run) -> run.writes().size())
                .thenComparing(Execution::job))
        .orElseThrow(
            () ->
                new ProblemException(
                    HttpStatus.NOT_FOUND,
                    "unknown-run",
                    "No event of this run was taken in",
                    "no event named the run " + id + "; list runs with GET /api/v1/runs"));
  }

  // ------------------------------------------------------------------ dressing

  private ExactAnswer answer(String ref, Instant at, RunLineage.Found found, StoredRuns stored) {
    var runs = new ArrayList<ExactRun>();
    Map<String, StoredRuns.Newest> newest =
        newest(found.members().stream().map(RunLineage.Member::run), stored, at);
    for (RunLineage.Member member : found.members()) {
      Execution run = member.run();
      runs.add(run(run, member.hops(), member.certain(), newest.get(run.job())));
    }
    List<ExactUse> uses = found.uses().stream().map(this::use).toList();
    int ambiguous =
        (int) uses.stream().filter(u -> u.loads().stream().anyMatch(l -> !l.certain())).count();
    var outdated = new ArrayList<String>();
    for (ExactRun run : runs) {
      if (run.newest() != null && run.version() != null) {
        String words =
            run.name()
                + " as version "
                + run.version()
                + "; version "
                + run.newest().number()
                + " has run since "
                + run.newest().since();
        if (!outdated.contains(words)) {
          outdated.add(words);
        }
      }
    }
    return new ExactAnswer(
        ref,
        at,
        summary(runs, uses, found, ambiguous, outdated.size()),
        outdated,
        ambiguous,
        runs,
        uses,
        found.sources(),
        found.truncated());
  }

  private static String summary(
      List<ExactRun> runs,
      List<ExactUse> uses,
      RunLineage.Found found,
      int ambiguous,
      int outdated) {
    long real = runs.stream().filter(run -> run.hops() > 0).count();
    if (real == 0) {
      return uses.stream().anyMatch(ExactUse::source)
          ? "No run is known that wrote it or what it shows."
          : "No run had written it by then.";
    }
    long certain = runs.stream().filter(run -> run.hops() > 0 && run.certain()).count();
    var words = new StringBuilder();
    words.append(certain).append(certain == 1 ? " run" : " runs").append(" for certain");
    if (real > certain) {
      words.append(", ").append(real - certain).append(" more possibly");
    }
    words.append(", back to ").append(found.sources().size());
    words.append(found.sources().size() == 1 ? " source" : " sources");
    if (outdated > 0) {
      words.append("; ").append(outdated).append(outdated == 1 ? " job has" : " jobs have");
      words.append(" a newer version than the one behind it");
    }
    if (ambiguous > 0) {
      words.append("; ").append(ambiguous);
      words.append(ambiguous == 1 ? " reading is" : " readings are").append(" ambiguous");
    }
    return words.append(found.truncated() ? "; more lies behind these" : "").append('.').toString();
  }

  private ExactRun run(
      Execution run, int hops, boolean certain, StoredRuns.@Nullable Newest newest) {
    return new ExactRun(
        ref(run),
        run.job(),
        catalog.asset(run.job()).map(Asset::shown).orElse(run.job()),
        run.state().word(),
        run.start(),
        run.end(),
        hops,
        certain,
        run.version(),
        newer(run, newest));
  }

  /** The version of a run's job that ran last, if it is another and ran later: new or returned. */
  private static @Nullable NewerVersion newer(Execution run, StoredRuns.@Nullable Newest newest) {
    if (run.version() == null
        || newest == null
        || newest.version().number() == run.version()
        || !newest.started().isAfter(run.start())) {
      return null;
    }
    JobVersionQueries.Held version = newest.version();
    boolean isNew = version.firstRun().isAfter(run.start());
    return new NewerVersion(
        version.number(), isNew ? version.firstRun() : newest.started(), changes(version));
  }

  /** What changed in words, which name what a limited caller may not see. */
  private static List<String> changes(JobVersionQueries.Held version) {
    return Sight.now().isWhole() ? List.of(version.changes()) : List.of();
  }

  private static String ref(Execution run) {
    return Reference.RUN_PREFIX + run.run();
  }

  private ExactUse use(RunLineage.Use use) {
    var loads = new ArrayList<ExactLoad>();
    boolean byVersion = false;
    boolean unknownVersion = false;
    for (var entry : use.contents().entrySet()) {
      Contents.Answer answer = entry.getValue();
      byVersion |= answer.byVersion();
      unknownVersion |= answer.unknownVersion();
      for (Contribution one : answer.contributions()) {
        loads.add(
            new ExactLoad(ref(one.by()), entry.getKey(), one.certain(), doubts(one.doubts())));
      }
    }
    String words = use.part().words();
    Asset asset = catalog.asset(use.asset()).orElse(null);
    return new ExactUse(
        use.reader() == null ? null : Reference.RUN_PREFIX + use.reader().run(),
        use.asset(),
        asset == null ? use.asset() : asset.shown(),
        asset == null ? "dataset" : asset.kind().word(),
        words.isEmpty() || !catalog.isSeen(use.asset()) ? null : words,
        use.through(),
        byVersion ? "version" : "time",
        use.contents().isEmpty(),
        loads,
        unknownVersion
            ? "it read a version of the data that no run reported to have made, so the time decides"
            : use.cut()
                ? "runs older than the newest 2,000 that wrote it were not looked at"
                : null);
  }

  private static List<ExactDoubt> doubts(java.util.Set<Doubt> doubts) {
    return doubts.stream()
        .sorted()
        .map(doubt -> new ExactDoubt(doubt.word(), doubt.words()))
        .toList();
  }

  private RecallItem item(Recall.Held held) {
    Asset asset = catalog.asset(held.asset()).orElse(null);
    Execution newest = held.newest();
    Execution replaced = held.replacedBy();
    return new RecallItem(
        held.asset(),
        asset == null ? held.asset() : asset.shown(),
        asset == null ? "dataset" : asset.kind().word(),
        catalog.systemOf(held.asset()),
        asset == null ? List.of() : asset.ownerNames(),
        held.state().word(),
        held.hops(),
        newest == null ? null : ref(newest),
        newest == null ? null : newest.end() == null ? newest.start() : newest.end(),
        replaced == null ? null : ref(replaced),
        replaced == null ? null : replaced.end() == null ? replaced.start() : replaced.end(),
        held.through(),
        asset == null ? null : asset.card().url());
  }
}
