package longthread.core.cause;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.BitSet;
import java.util.HashMap;
import java.util.HashSet;
import java.util.IdentityHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.OptionalInt;
import java.util.Set;
import longthread.core.cause.Causes.Incident;
import longthread.core.cause.Causes.What;
import longthread.core.graph.Direction;
import longthread.core.graph.LineageGraph;
import longthread.core.graph.Reach;
import longthread.core.graph.ReachTable;
import longthread.core.graph.Walk;
import longthread.core.history.RunState;
import org.jspecify.annotations.Nullable;

/**
 * Which incidents follow from which: an effect lies downstream of its cause on a thread that can
 * carry its sort of harm, and began no earlier.
 */
final class EffectFolding {
  private static final Duration SAME_TIME = Duration.ofMinutes(10);
  private static final Duration SCHEMA_LASTS = Duration.ofDays(8);
  private static final int RUNS_TO_SHOW = 2; // of a new version, until its effect shows

  private final LineageGraph graph;
  private final Map<String, Set<Integer>> placeOf;
  private final Map<String, List<Health.Run>> runsOf;
  private final Map<Incident, Finding> findings;
  private final @Nullable BitSet within;
  private final Map<Incident, Integer> numberOf = new IdentityHashMap<>();
  private final List<BitSet> reachedBy = new ArrayList<>(); // by number, what it is downstream of
  private final Map<Incident, BitSet> below = new HashMap<>();

  /**
   * @param placeOf by job or dataset, the assets where its harm enters the graph
   * @param within the assets that count; null for all
   */
  EffectFolding(
      LineageGraph graph,
      Map<String, Set<Integer>> placeOf,
      Map<String, List<Health.Run>> runsOf,
      Map<Incident, Finding> findings,
      @Nullable BitSet within) {
    this.within = within;
    this.graph = graph;
    this.placeOf = placeOf;
    this.runsOf = runsOf;
    this.findings = findings;
  }

  /**
   * The cause that each incident follows from in the end; those that follow from nothing are left
   * out.
   */
  Map<Incident, Incident> roots(List<Incident> incidents) {
    findReaching(incidents);
    var parent = new HashMap<Incident, Incident>();
    for (Incident effect : incidents) {
      Incident cause = null;
      BitSet reaching = reachedBy.get(Objects.requireNonNull(numberOf.get(effect)));
      for (int n = reaching.nextSetBit(0); n >= 0; n = reaching.nextSetBit(n + 1)) {
        Incident other = incidents.get(n);
        if (other.at().isAfter(effect.at().plus(SAME_TIME))) {
          break; // they are in the order of time
        }
        boolean better = cause == null || (cause.what().isChange() && !other.what().isChange());
        if (better && other != effect && follows(effect, other)) {
          cause = other;
        }
      }
      if (cause != null) {
        parent.put(effect, cause);
      }
    }
    var rootOf = new HashMap<Incident, Incident>();
    for (Incident effect : parent.keySet()) {
      Incident root = parent.get(effect);
      for (int steps = 0; parent.containsKey(root) && steps < incidents.size(); steps++) {
        root = parent.get(root);
      }
      if (root != effect) {
        rootOf.put(effect, root);
      }
    }
    return rootOf;
  }

  /** Finds for each incident which others lie upstream of it by whole assets. */
  private void findReaching(List<Incident> incidents) {
    var ends = new HashSet<Integer>();
    incidents.forEach(incident -> ends.addAll(places(incident)));
    List<int[]> starts =
        incidents.stream()
            .map(incident -> places(incident).stream().mapToInt(Integer::intValue).toArray())
            .toList();
    var table = new ReachTable(graph, starts, ends, within);
    for (Incident incident : incidents) {
      var reaching = new BitSet();
      places(incident).forEach(place -> reaching.or(table.reaching(place)));
      numberOf.put(incident, reachedBy.size());
      reachedBy.add(reaching);
    }
  }

  private Set<Integer> places(Incident incident) {
    return placeOf.getOrDefault(incident.ref(), Set.of());
  }

  /** Whether the harm of {@code cause} runs into {@code effect}, and began no later. */
  private boolean follows(Incident effect, Incident cause) {
    if (!cause.what().canCause(effect.what())
        || Objects.requireNonNull(findings.get(cause)).harmless()
        || cause.at().isAfter(effect.at().plus(SAME_TIME))
        || isLongAfter(effect, cause)
        || isWaitedFor(effect, cause)) {
      return false;
    }
    if (cause.ref().equals(effect.ref())) {
      return cause.what().isChange() && !effect.what().isChange()
          || cause.what() == What.VALUES_SHIFTED
              && effect.what() == What.CHECK_FAILED
              && runsInto(effect, cause);
    }
    if (!runsInto(effect, cause)) {
      return false;
    }
    // On a cycle each is upstream of the other; then only the earlier one can be the cause.
    return !runsInto(cause, effect)
        || cause.at().isBefore(effect.at())
        || (cause.at().equals(effect.at()) && cause.ref().compareTo(effect.ref()) < 0);
  }

  /**
   * What began after a slow run had ended took its whole result; only its lateness is owed to it.
   */
  private boolean isWaitedFor(Incident effect, Incident cause) {
    if (cause.what() != What.SLOW || OwnHealth.isBehind(effect.what())) {
      return false;
    }
    return runsOf.getOrDefault(cause.ref(), List.of()).stream()
        .filter(run -> run.end() != null && !run.start().isAfter(cause.at()))
        .findFirst()
        .map(run -> effect.at().isAfter(RunDeviations.ended(run).plus(SAME_TIME)))
        .orElse(false);
  }

  /** A change shows in the next run or two, not much later. */
  private boolean isLongAfter(Incident effect, Incident cause) {
    if (cause.what() == What.SCHEMA_CHANGED) {
      return Duration.between(cause.at(), effect.at()).compareTo(SCHEMA_LASTS) > 0;
    }
    if (cause.what() != What.CODE_CHANGED) {
      return false;
    }
    Instant before = effect.at().minus(SAME_TIME);
    return runsOf.getOrDefault(cause.ref(), List.of()).stream()
            .filter(run -> run.state() == RunState.COMPLETED)
            .filter(run -> run.start().isAfter(cause.at()) && run.start().isBefore(before))
            .count()
        >= RUNS_TO_SHOW;
  }

  private boolean runsInto(Incident effect, Incident cause) {
    if (cause.column() == null || cause.what() != What.VALUES_SHIFTED) {
      int number = Objects.requireNonNull(numberOf.get(cause));
      return reachedBy.get(Objects.requireNonNull(numberOf.get(effect))).get(number);
    }
    BitSet reached = below(cause);
    for (int place : placeOf.getOrDefault(effect.ref(), Set.of())) {
      OptionalInt column =
          effect.column() == null ? OptionalInt.empty() : graph.node(place, effect.column());
      boolean byColumn = cause.what() == What.VALUES_SHIFTED && column.isPresent();
      if (byColumn ? reached.get(column.getAsInt()) : reached.get(graph.rowsOf(place))) {
        return true;
      }
    }
    return false;
  }

  /** The nodes that harm of an incident runs to, walked once. */
  BitSet below(Incident incident) {
    return below.computeIfAbsent(incident, this::nodesBelow);
  }

  /**
   * The assets that harm of an incident runs to, sorted. Nodes are kept only where they are asked
   * for: of thousands of incidents in an estate of a million columns they would take gigabytes.
   */
  int[] assetsBelow(Incident incident) {
    BitSet known = below.get(incident);
    BitSet nodes = known == null ? nodesBelow(incident) : known;
    return nodes.stream().map(graph::assetOf).sorted().distinct().toArray();
  }

  /** The nodes that harm runs to; of every asset that is reached its rows node too. */
  private BitSet nodesBelow(Incident incident) {
    var reached = new BitSet();
    for (int place : placeOf.getOrDefault(incident.ref(), Set.of())) {
      OptionalInt column =
          incident.column() == null ? OptionalInt.empty() : graph.node(place, incident.column());
      Reach reach =
          column.isPresent() && incident.what() == What.VALUES_SHIFTED
              ? Walk.everything(
                  graph,
                  new int[] {column.getAsInt()},
                  Direction.DOWNSTREAM,
                  Integer.MAX_VALUE,
                  Integer.MAX_VALUE)
              : Walk.assets(
                  graph,
                  new int[] {graph.rowsOf(place)},
                  Direction.DOWNSTREAM,
                  Integer.MAX_VALUE,
                  Integer.MAX_VALUE);
      for (int end : reach.nodes()) {
        reached.set(end);
        reached.set(graph.rowsOf(graph.assetOf(end)));
      }
    }
    return reached;
  }
}
