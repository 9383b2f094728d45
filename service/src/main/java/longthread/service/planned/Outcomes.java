package longthread.service.planned;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import longthread.core.asset.Reference;
import longthread.core.cause.Aftermath;
import longthread.core.graph.Direction;
import longthread.core.graph.LineageGraph;
import longthread.service.health.StoredHealth;
import longthread.service.impact.ChangeJudge;
import longthread.service.job.JobParts;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.GraphFollower;
import longthread.service.runs.RunReader;
import longthread.service.storage.runs.HealthQueries;
import longthread.service.storage.runs.RunSearch;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Component;

/**
 * What occurred after a change was made, against what was foretold: runs that failed, data that no
 * run wrote any more, and figures that left what was usual.
 */
@Component
class Outcomes {
  static final Duration WINDOW = Duration.ofDays(7);
  private static final int MAX_RUNS = 200;
  private static final int MAX_FAILED = 1_000;
  private static final int MAX_MEASURED = 500; // assets whose figures are looked at

  private final RunReader runs;
  private final Catalog catalog;
  private final JobParts jobParts;
  private final HealthQueries health;
  private final GraphFollower follower;
  private final Clock clock;

  Outcomes(
      RunReader runs,
      Catalog catalog,
      JobParts jobParts,
      HealthQueries health,
      GraphFollower follower,
      Clock clock) {
    this.health = health;
    this.follower = follower;
    this.jobParts = jobParts;
    this.runs = runs;
    this.catalog = catalog;
    this.clock = clock;
  }

  /** Compares what was foretold with what the runs since then show. */
  Plan.Outcome of(ChangeJudge.Judgement foretold, Instant done) {
    Instant until = done.plus(WINDOW);
    var found = new ArrayList<Plan.Occurrence>();
    var broken = new LinkedHashSet<String>();
    var read = new HashMap<String, List<RunReader.RunRow>>();
    for (ChangeJudge.JudgedItem item : foretold.items()) {
      if (item.verdict().equals("breaks")) {
        broken.add(item.ref());
        found.add(broke(item, done, until, read));
      } else if (item.verdict().equals("goes-stale")) {
        found.add(stale(item, done, until, read));
      }
    }
    found.addAll(shifts(foretold, done, until, read));
    found.addAll(misses(broken, foretold, done, until, read));
    found.sort(Comparator.comparing(Plan.Occurrence::kind, Outcomes::worstFirst));
    return new Plan.Outcome(
        done,
        until,
        !clock.instant().isBefore(until),
        count(found, "hit"),
        count(found, "false-alarm"),
        count(found, "miss"),
        count(found, "open"),
        found);
  }

  private static final List<String> ORDER = List.of("miss", "hit", "false-alarm", "open");

  private static int worstFirst(String one, String other) {
    return ORDER.indexOf(one) - ORDER.indexOf(other);
  }

  private static int count(List<Plan.Occurrence> found, String kind) {
    return (int) found.stream().filter(o -> o.kind().equals(kind)).count();
  }

  private static Plan.Occurrence occurrence(
      String kind, ChangeJudge.JudgedItem item, @Nullable String words, @Nullable Instant at) {
    return new Plan.Occurrence(
        kind, item.ref(), item.name(), item.verdict(), item.certainty(), words, at);
  }

  /** Whether a job, or what makes an asset, failed after the change. */
  private Plan.Occurrence broke(
      ChangeJudge.JudgedItem item,
      Instant done,
      Instant until,
      Map<String, List<RunReader.RunRow>> read) {
    List<RunReader.RunRow> since = since(item.ref(), done, until, read);
    RunReader.RunRow failed =
        since.stream().filter(run -> run.state().equals("failed")).findFirst().orElse(null);
    if (failed != null) {
      return occurrence("hit", item, failed.job() + " failed" + why(failed), failed.start());
    }
    boolean ran = since.stream().anyMatch(run -> run.state().equals("completed"));
    return ran
        ? occurrence("false-alarm", item, "it ran and completed", since.get(0).start())
        : occurrence("open", item, "it has not run since", null);
  }

  private static String why(RunReader.RunRow run) {
    String error = run.error();
    return error == null ? "" : ": " + error.lines().findFirst().orElse("");
  }

  /** Whether an asset stayed without a completed run while its jobs ran, or should have. */
  private Plan.Occurrence stale(
      ChangeJudge.JudgedItem item,
      Instant done,
      Instant until,
      Map<String, List<RunReader.RunRow>> read) {
    List<RunReader.RunRow> since = since(item.ref(), done, until, read);
    RunReader.RunRow wrote =
        since.stream().filter(run -> run.state().equals("completed")).findFirst().orElse(null);
    if (wrote != null) {
      return occurrence("false-alarm", item, wrote.job() + " wrote it", wrote.start());
    }
    RunReader.RunRow failed =
        since.stream().filter(run -> run.state().equals("failed")).findFirst().orElse(null);
    if (failed != null) {
      return occurrence(
          "hit", item, "nothing wrote it: " + failed.job() + " failed", failed.start());
    }
    boolean over = !clock.instant().isBefore(until);
    boolean hasWriters = !lastRuns(item.ref(), read).isEmpty();
    return over && hasWriters
        ? occurrence("hit", item, "nothing has written it since", null)
        : occurrence("open", item, hasWriters ? "nothing has run since" : "no runs write it", null);
  }

  /** The newest runs of a job, or of what writes an asset; read once for each of an outcome. */
  private List<RunReader.RunRow> lastRuns(String ref, Map<String, List<RunReader.RunRow>> read) {
    return read.computeIfAbsent(ref, this::newestRuns);
  }

  private List<RunReader.RunRow> newestRuns(String ref) {
    if (Reference.isJob(ref)) {
      return runs.runs(RunSearch.Filter.ofJob(ref), MAX_RUNS);
    }
    return catalog
        .known(ref)
        .map(Asset::parts)
        .map(parts -> runs.runsWriting(parts, MAX_RUNS))
        .orElse(List.of());
  }

  private List<RunReader.RunRow> since(
      String ref, Instant done, Instant until, Map<String, List<RunReader.RunRow>> read) {
    return lastRuns(ref, read).stream()
        .filter(run -> run.start().isAfter(done) && !run.start().isAfter(until))
        .toList();
  }

  /** Whether figures left what was usual: those foretold to shift, and those that read them. */
  private List<Plan.Occurrence> shifts(
      ChangeJudge.Judgement foretold,
      Instant done,
      Instant until,
      Map<String, List<RunReader.RunRow>> read) {
    List<ChangeJudge.JudgedItem> shifting =
        foretold.items().stream().filter(item -> item.verdict().endsWith("-shift")).toList();
    List<ChangeJudge.JudgedItem> looked =
        shifting.subList(0, Math.min(MAX_MEASURED, shifting.size()));
    List<String> others = unforetold(foretold);
    var jobs = new LinkedHashMap<String, Set<String>>(); // that wrote it, by asset
    looked.forEach(item -> jobs.put(item.ref(), writersOf(item.ref(), read)));
    others.forEach(ref -> jobs.put(ref, writersOf(ref, read)));
    var stored = new StoredHealth(health, runs, catalog, until);
    stored.prepare(jobs.values().stream().flatMap(Set::stream).distinct().toList(), jobs.keySet());
    var found = new ArrayList<Plan.Occurrence>();
    for (ChangeJudge.JudgedItem item : looked) {
      Aftermath.Seen seen =
          seen(item.ref(), jobs.get(item.ref()), item.verdict().equals("rows-shift"), stored, done);
      String kind =
          switch (seen.state()) {
            case MOVED -> "hit";
            case STAYED -> "false-alarm";
            case UNMEASURED -> "open";
          };
      found.add(occurrence(kind, item, seen.words(), seen.at()));
    }
    for (ChangeJudge.JudgedItem item : shifting.subList(looked.size(), shifting.size())) {
      found.add(
          occurrence(
              "open", item, "figures are looked at of the first " + MAX_MEASURED + " alone", null));
    }
    for (String ref : others) {
      Aftermath.Seen seen = seen(ref, jobs.get(ref), false, stored, done);
      if (seen.state() == Aftermath.State.MOVED) {
        found.add(miss(ref, seen.words(), seen.at()));
      }
    }
    return found;
  }

  private Set<String> writersOf(String ref, Map<String, List<RunReader.RunRow>> read) {
    return Reference.isJob(ref)
        ? Set.of()
        : lastRuns(ref, read).stream().map(RunReader.RunRow::job).collect(Collectors.toSet());
  }

  /**
   * What the figures of an asset did: the counts of rows that its writers wrote, and the figures of
   * its columns. Where rows were to shift and nobody counts them, figures that moved show it too.
   */
  private static Aftermath.Seen seen(
      String ref, Set<String> writers, boolean rowsFirst, StoredHealth stored, Instant done) {
    Aftermath.Seen values = Aftermath.values(stored.series(ref), done);
    if (!rowsFirst) {
      return values;
    }
    Aftermath.Seen best = null;
    for (String job : writers) {
      Aftermath.Seen rows = Aftermath.rows(stored.runs(job), done);
      if (best == null || rows.state().compareTo(best.state()) < 0) {
        best = rows;
      }
    }
    boolean isCounted = best != null && best.state() != Aftermath.State.UNMEASURED;
    return isCounted || (best != null && values.state() != Aftermath.State.MOVED) ? best : values;
  }

  /** The assets that read what was touched and of which nothing was foretold. */
  private List<String> unforetold(ChangeJudge.Judgement foretold) {
    Set<String> touched = touched(foretold);
    LineageGraph graph = follower.graph();
    var others = new LinkedHashSet<String>();
    for (String ref : touched) {
      graph
          .asset(ref)
          .ifPresent(
              asset ->
                  graph.forEachLink(
                      graph.rowsOf(asset),
                      Direction.DOWNSTREAM,
                      (to, flow, masking, owner) -> {
                        String reader = graph.assetReference(graph.assetOf(to));
                        if (others.size() < MAX_MEASURED && !touched.contains(reader)) {
                          others.add(reader);
                        }
                      }));
    }
    return List.copyOf(others);
  }

  private static Set<String> touched(ChangeJudge.Judgement foretold) {
    var touched = new HashSet<String>();
    foretold.steps().forEach(step -> touched.add(Reference.assetOf(step.of())));
    foretold.items().forEach(item -> touched.add(Reference.assetOf(item.ref())));
    return touched;
  }

  private Plan.Occurrence miss(String ref, String words, @Nullable Instant at) {
    String name = catalog.asset(ref).map(Asset::shown).orElse(ref);
    return new Plan.Occurrence("miss", ref, name, null, null, words, at);
  }

  /**
   * Jobs that read what was touched, failed after the change though their last run before had not,
   * and were not foretold to break.
   */
  private List<Plan.Occurrence> misses(
      Set<String> broken,
      ChangeJudge.Judgement foretold,
      Instant done,
      Instant until,
      Map<String, List<RunReader.RunRow>> read) {
    Set<String> touched = touched(foretold);
    var found = new ArrayList<Plan.Occurrence>();
    var seen = new HashSet<>(broken);
    RunSearch.Filter failed = new RunSearch.Filter(null, null, "failed", null, null, until, false);
    for (RunReader.RunRow run : runs.runs(failed, MAX_FAILED)) {
      boolean late = run.start().isAfter(done);
      if (!late || !seen.add(run.job()) || !reads(run.job(), touched)) {
        continue;
      }
      boolean wasFailing =
          lastRuns(run.job(), read).stream()
              .filter(before -> !before.start().isAfter(done))
              .findFirst()
              .map(before -> before.state().equals("failed"))
              .orElse(false);
      if (!wasFailing) {
        found.add(miss(run.job(), "failed" + why(run), run.start()));
      }
    }
    return found;
  }

  /** Whether a job is among what was touched, or reads any of it. */
  private boolean reads(String job, Set<String> touched) {
    return touched.contains(job) || jobParts.of(job).inputs().stream().anyMatch(touched::contains);
  }
}
