package longthread.core.cause;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import longthread.core.asset.Reference;
import longthread.core.cause.Causes.Effect;
import longthread.core.cause.Causes.Incident;
import longthread.core.cause.Causes.Suspect;
import longthread.core.cause.Causes.What;
import longthread.core.graph.Direction;
import longthread.core.graph.LineageGraph;
import longthread.core.graph.Reach;
import longthread.core.graph.ThreadFinder;
import longthread.core.graph.Walk;
import longthread.core.history.RunState;
import longthread.core.trust.Cadence;
import org.jspecify.annotations.Nullable;

/**
 * Walks upstream of a symptom and separates causes from effects.
 *
 * <p>An incident is a failed, missing, late or empty run of a job on the symptom's threads, or a
 * failed check on a dataset there. An incident follows from another if the other lies upstream of
 * it and did not begin later. What follows from nothing is a suspect; the earliest comes first.
 */
public final class CauseSearch {
  /** How many runs of each job are looked at. */
  public static final int RUNS_WANTED = 15;

  private static final Duration SAME_TIME = Duration.ofMinutes(10);
  private static final int OVERDUE_FACTOR = 3;
  private static final int MIN_GAPS = 2; // between runs, below which nothing is expected of a job

  private final LineageGraph graph;
  private final Health health;
  private final Instant now;
  private final int symptom;

  /** By job, or by dataset for a failed check: where its harm enters the graph. */
  private final Map<String, Set<Integer>> placeOf = new HashMap<>();

  private final Map<String, List<Health.Run>> runsOf = new LinkedHashMap<>();

  private CauseSearch(LineageGraph graph, Health health, Instant now, int symptom) {
    this.graph = graph;
    this.health = health;
    this.now = now;
    this.symptom = symptom;
  }

  /**
   * Returns the suspects for a symptom in O(u + i²) for u nodes upstream and i incidents.
   *
   * @param symptom the node of an asset or column
   * @param now the moment as of which things are judged
   */
  public static Causes of(LineageGraph graph, int symptom, Health health, Instant now) {
    return new CauseSearch(graph, health, now, symptom).search();
  }

  private Causes search() {
    Set<Integer> upstream = assetsUpstream();
    for (int asset : upstream) {
      graph.forEachLink(
          graph.rowsOf(asset),
          Direction.UPSTREAM,
          (from, flow, masking, owner) -> {
            if (graph.isRows(from)) {
              placeOf.computeIfAbsent(graph.owner(owner), k -> new TreeSet<>()).add(asset);
            }
          });
    }
    var incidents = new ArrayList<Incident>();
    for (String owner : List.copyOf(placeOf.keySet())) {
      if (Reference.isJob(owner)) {
        runsOf.put(owner, health.runs(owner));
        incidentOf(owner).ifPresent(incidents::add);
      }
    }
    for (int asset : upstream) {
      String dataset = graph.assetReference(asset);
      for (List<Health.CheckResult> results : health.checks(dataset)) {
        failedCheck(dataset, results)
            .ifPresent(
                incident -> {
                  incidents.add(incident);
                  placeOf.computeIfAbsent(dataset, k -> new TreeSet<>()).add(asset);
                });
      }
    }
    incidents.sort(Comparator.comparing(Incident::at).thenComparing(Incident::ref));
    return judged(incidents);
  }

  private Set<Integer> assetsUpstream() {
    Reach reach =
        graph.isRows(symptom)
            ? Walk.assets(
                graph,
                new int[] {symptom},
                Direction.UPSTREAM,
                Integer.MAX_VALUE,
                Integer.MAX_VALUE)
            : Walk.everything(
                graph,
                new int[] {symptom},
                Direction.UPSTREAM,
                Integer.MAX_VALUE,
                Integer.MAX_VALUE);
    var assets = new java.util.LinkedHashSet<Integer>();
    for (int node : reach.nodes()) {
      assets.add(graph.assetOf(node));
    }
    return assets;
  }

  private Optional<Incident> incidentOf(String job) {
    List<Health.Run> runs = Objects.requireNonNull(runsOf.get(job));
    if (runs.isEmpty()) {
      return Optional.empty();
    }
    Health.Run last = runs.get(0);
    if (last.state() == RunState.FAILED || last.state() == RunState.ABORTED) {
      Health.Run first = last;
      int streak = 0;
      for (Health.Run run : runs) {
        if (run.state() != RunState.FAILED && run.state() != RunState.ABORTED) {
          break;
        }
        first = run;
        streak++;
      }
      String evidence =
          streak == 1
              ? "its last run " + last.state().word()
              : "its last " + streak + " runs " + last.state().word();
      return Optional.of(new Incident(job, What.FAILED, ended(first), evidence, last.error()));
    }
    Optional<Cadence> cadence = cadence(runs);
    if (last.state() == RunState.RUNNING) {
      return overdue(job, runs, last);
    }
    if (cadence.isPresent() && cadence.get().isMissing(last.start(), now)) {
      Instant due = cadence.get().nextAfter(last.start());
      return Optional.of(
          new Incident(
              job,
              What.MISSING,
              due,
              "it runs every "
                  + spoken(cadence.get().usual())
                  + ", was due then and has not run since "
                  + last.start(),
              null));
    }
    if (last.rows() != null && last.rows() == 0 && usualRows(runs) > 0) {
      return Optional.of(
          new Incident(
              job,
              What.EMPTY,
              ended(last),
              "its last run wrote no rows; usual are " + usualRows(runs),
              null));
    }
    return Optional.empty();
  }

  private Optional<Incident> overdue(String job, List<Health.Run> runs, Health.Run last) {
    var durations = new ArrayList<Duration>();
    for (Health.Run run : runs) {
      if (run.end() != null) {
        durations.add(Duration.between(run.start(), run.end()));
      }
    }
    if (durations.size() < 2) {
      return Optional.empty();
    }
    durations.sort(null);
    Duration usual = durations.get(durations.size() / 2);
    Instant due = last.start().plus(usual.multipliedBy(OVERDUE_FACTOR)).plus(Duration.ofMinutes(1));
    return due.isBefore(now)
        ? Optional.of(
            new Incident(
                job,
                What.LATE,
                due,
                "it has run since " + last.start() + "; usual is " + spoken(usual),
                null))
        : Optional.empty();
  }

  private static Instant ended(Health.Run run) {
    return run.end() == null ? run.start() : run.end();
  }

  private static long usualRows(List<Health.Run> runs) {
    long[] rows =
        runs.stream()
            .skip(1)
            .filter(run -> run.rows() != null)
            .mapToLong(run -> Objects.requireNonNull(run.rows()))
            .sorted()
            .toArray();
    return rows.length == 0 ? 0 : rows[rows.length / 2];
  }

  private static String spoken(Duration duration) {
    if (duration.toMinutes() < 2) {
      return duration.toSeconds() + " s";
    }
    return duration.toHours() < 2 ? duration.toMinutes() + " min" : duration.toHours() + " h";
  }

  private static Optional<Incident> failedCheck(String dataset, List<Health.CheckResult> results) {
    if (results.isEmpty() || results.get(0).passed()) {
      return Optional.empty();
    }
    Health.CheckResult last = results.get(0);
    Health.CheckResult first = last;
    for (Health.CheckResult result : results) {
      if (result.passed()) {
        break;
      }
      first = result;
    }
    String column = last.column() == null ? "" : " on " + last.column();
    return Optional.of(
        new Incident(
            dataset,
            What.CHECK_FAILED,
            first.at(),
            "check " + last.check() + column + " fails",
            last.detail()));
  }

  private Causes judged(List<Incident> incidents) {
    var reaches = new HashMap<Incident, Set<Integer>>();
    for (Incident incident : incidents) {
      reaches.put(incident, assetsBelow(incident.ref()));
    }
    var rootOf = new HashMap<Incident, Incident>();
    for (Incident effect : incidents) {
      for (Incident cause : incidents) {
        if (cause != effect && follows(effect, cause, reaches) && !rootOf.containsKey(cause)) {
          rootOf.put(effect, cause);
          break;
        }
      }
    }
    // A cause may turn out to be an effect of an earlier one: name the first of the chain.
    rootOf.replaceAll(
        (effect, cause) -> {
          Incident root = cause;
          for (int steps = 0; rootOf.containsKey(root) && steps < incidents.size(); steps++) {
            root = rootOf.get(root);
          }
          return root;
        });
    var suspects = new ArrayList<Suspect>();
    var effects = new ArrayList<Effect>();
    for (Incident incident : incidents) {
      if (rootOf.containsKey(incident)) {
        effects.add(new Effect(incident, rootOf.get(incident).ref()));
        continue;
      }
      List<Incident> explains =
          incidents.stream().filter(other -> rootOf.get(other) == incident).toList();
      double score = (1.0 + explains.size()) / incidents.size();
      suspects.add(new Suspect(incident, score, explains, threadFrom(incident.ref())));
    }
    Instant recovery = suspects.isEmpty() ? null : recovery(suspects.get(0).incident());
    return new Causes(suspects, effects, recovery);
  }

  /** Whether the harm of {@code cause} runs into {@code effect}, and began no later. */
  private boolean follows(Incident effect, Incident cause, Map<Incident, Set<Integer>> reaches) {
    if (cause.at().isAfter(effect.at().plus(SAME_TIME))) {
      return false;
    }
    boolean sameAsset = cause.ref().equals(effect.ref());
    boolean upstream =
        placeOf.get(effect.ref()).stream()
            .anyMatch(Objects.requireNonNull(reaches.get(cause))::contains);
    if (sameAsset || !upstream) {
      return false;
    }
    // On a cycle each is upstream of the other; then only the earlier one can be the cause.
    boolean back =
        placeOf.get(cause.ref()).stream()
            .anyMatch(Objects.requireNonNull(reaches.get(effect))::contains);
    return !back
        || cause.at().isBefore(effect.at())
        || (cause.at().equals(effect.at()) && cause.ref().compareTo(effect.ref()) < 0);
  }

  private Set<Integer> assetsBelow(String ref) {
    Collection<Integer> places = placeOf.get(ref);
    int[] starts = places.stream().mapToInt(graph::rowsOf).toArray();
    Reach reach =
        Walk.assets(graph, starts, Direction.DOWNSTREAM, Integer.MAX_VALUE, Integer.MAX_VALUE);
    var assets = new TreeSet<Integer>();
    for (int node : reach.nodes()) {
      assets.add(graph.assetOf(node));
    }
    return assets;
  }

  private List<longthread.core.graph.GraphLink> threadFrom(String ref) {
    int target = graph.rowsOf(graph.assetOf(symptom));
    return placeOf.get(ref).stream()
        .map(asset -> ThreadFinder.find(graph, graph.rowsOf(asset), target))
        .flatMap(Optional::stream)
        .map(ThreadFinder.Found::hops)
        .min(Comparator.comparingInt(List::size))
        .orElse(List.of());
  }

  /**
   * The next time the cause is expected to run, and then as long as it usually takes from its start
   * until the symptom's own job is done.
   */
  private @Nullable Instant recovery(Incident cause) {
    List<Health.Run> causeRuns = runsOf.getOrDefault(cause.ref(), List.of());
    Optional<Cadence> cadence = cadence(causeRuns);
    if (cadence.isEmpty()) {
      return null;
    }
    Instant next = cadence.get().nextExpected(causeRuns.get(0).start(), now);
    return next.plus(usualLag(causeRuns, lastJobRuns(), cadence.get().usual()));
  }

  /** The runs of the job nearest to the symptom on its threads. */
  private List<Health.Run> lastJobRuns() {
    Reach reach =
        Walk.assets(
            graph,
            new int[] {graph.rowsOf(graph.assetOf(symptom))},
            Direction.UPSTREAM,
            Integer.MAX_VALUE,
            Integer.MAX_VALUE);
    for (int node : reach.nodes()) {
      for (var link : graph.links(node, Direction.UPSTREAM)) {
        List<Health.Run> runs = runsOf.get(graph.owner(link.owner()));
        if (runs != null && !runs.isEmpty()) {
          return runs;
        }
      }
    }
    return List.of();
  }

  private static Duration usualLag(
      List<Health.Run> causeRuns, List<Health.Run> lastRuns, Duration every) {
    var lags = new ArrayList<Duration>();
    for (Health.Run cause : causeRuns) {
      for (Health.Run last : lastRuns) {
        if (last.state() == RunState.COMPLETED && last.end() != null) {
          Duration lag = Duration.between(cause.start(), last.end());
          if (!lag.isNegative() && lag.compareTo(every) < 0) {
            lags.add(lag);
          }
        }
      }
    }
    lags.sort(null);
    return lags.isEmpty() ? Duration.ZERO : lags.get(lags.size() / 2);
  }

  private static Optional<Cadence> cadence(List<Health.Run> runs) {
    return Cadence.of(runs.stream().map(Health.Run::start).toList(), MIN_GAPS);
  }
}
