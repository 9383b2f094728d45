package longthread.core.cause;

import java.util.AbstractList;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.BitSet;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.Predicate;
import longthread.core.asset.Reference;
import longthread.core.cause.Causes.Incident;
import longthread.core.graph.Direction;
import longthread.core.graph.LineageGraph;
import longthread.core.trust.HealthState;
import org.jspecify.annotations.Nullable;

/**
 * Everything that is wrong in an estate at a moment: causes with their effects folded under them,
 * and which assets inherit from which cause. Immutable.
 *
 * <p>Made in O(l + i² + i·d) for l links of the graph, i incidents, and d nodes downstream of one.
 */
public final class EstateHealth {
  /**
   * An incident that follows from no other.
   *
   * @param state what it amounts to
   * @param effects what follows from it
   * @param affects how many assets lie downstream, what it is about or writes included
   */
  public record Cause(Incident incident, HealthState state, List<Incident> effects, int affects) {}

  /** Nothing is wrong. */
  public static final EstateHealth NOTHING = new EstateHealth(null, List.of(), List.of());

  private final @Nullable LineageGraph graph;
  private final List<Cause> causes;
  private final List<int[]> below; // the assets downstream of each cause, itself included, sorted

  // The same the other way round: every box that is drawn asks what it inherits.
  private final int[] firstOf; // by asset, where its causes begin
  private final int[] causesOf; // by their places in the list, the worst first

  private EstateHealth(@Nullable LineageGraph graph, List<Cause> causes, List<int[]> below) {
    this.graph = graph;
    this.causes = List.copyOf(causes);
    this.below = below;
    int assets = graph == null ? 0 : graph.assetCount();
    firstOf = new int[assets + 1];
    below.forEach(reached -> Arrays.stream(reached).forEach(asset -> firstOf[asset + 1]++));
    Arrays.parallelPrefix(firstOf, Integer::sum);
    causesOf = new int[firstOf[assets]];
    int[] end = Arrays.copyOf(firstOf, assets);
    for (int cause = 0; cause < below.size(); cause++) {
      for (int asset : below.get(cause)) {
        causesOf[end[asset]++] = cause;
      }
    }
  }

  /**
   * Folds what is wrong.
   *
   * @param bad the jobs and datasets with incidents, by reference
   * @param pipelineOf by task, the job that starts it
   */
  public static EstateHealth of(
      LineageGraph graph, Map<String, OwnHealth> bad, Map<String, String> pipelineOf) {
    var findings = new LinkedHashMap<Incident, Finding>();
    bad.values()
        .forEach(own -> own.incidents().forEach(i -> findings.put(i, new Finding(i, 1, 1))));
    List<Incident> incidents =
        findings.keySet().stream()
            .sorted(
                Comparator.comparing(Incident::at)
                    .thenComparing(Incident::ref)
                    .thenComparing(Incident::what)
                    .thenComparing(incident -> String.valueOf(incident.column())))
            .toList();
    var folding = new EffectFolding(graph, places(graph, bad.keySet()), Map.of(), findings, null);
    Map<Incident, Incident> rootOf = new HashMap<>(folding.roots(incidents));
    foldPipelines(incidents, pipelineOf, rootOf);
    var effects = new HashMap<Incident, List<Incident>>();
    rootOf.forEach((effect, root) -> effects.computeIfAbsent(root, k -> new ArrayList<>()));
    for (Incident incident : incidents) {
      Incident root = rootOf.get(incident);
      if (root != null) {
        Objects.requireNonNull(effects.get(root)).add(incident);
      }
    }
    var causes = new ArrayList<Cause>();
    var below = new HashMap<Cause, int[]>();
    for (Incident incident : incidents) {
      if (!rootOf.containsKey(incident)) {
        int[] assets = folding.assetsBelow(incident);
        HealthState state = stateOf(incident, bad);
        var cause =
            new Cause(incident, state, effects.getOrDefault(incident, List.of()), assets.length);
        causes.add(cause);
        below.put(cause, assets);
      }
    }
    causes.sort(
        Comparator.comparing(Cause::state)
            .thenComparing(Cause::affects)
            .reversed()
            .thenComparing(cause -> cause.incident().at())
            .thenComparing(cause -> cause.incident().ref())
            .thenComparing(cause -> cause.incident().what()));
    return new EstateHealth(graph, causes, causes.stream().map(below::get).toList());
  }

  /** What is wrong with a pipeline follows from what is wrong with a task of it. */
  private static void foldPipelines(
      List<Incident> incidents, Map<String, String> pipelineOf, Map<Incident, Incident> rootOf) {
    var worstTask = new HashMap<String, Incident>(); // by pipeline; the earliest there is
    for (Incident incident : incidents) {
      String pipeline = pipelineOf.get(incident.ref());
      if (pipeline != null) {
        worstTask.putIfAbsent(pipeline, incident);
      }
    }
    for (Incident incident : incidents) {
      Incident task = worstTask.get(incident.ref());
      if (task != null && !rootOf.containsKey(incident)) {
        Incident root = rootOf.getOrDefault(task, task);
        if (!root.ref().equals(incident.ref())) {
          rootOf.put(incident, root);
          rootOf.replaceAll((effect, cause) -> cause.equals(incident) ? root : cause);
        }
      }
    }
  }

  private static HealthState stateOf(Incident incident, Map<String, OwnHealth> bad) {
    OwnHealth own = bad.get(incident.ref());
    boolean isWorst = own != null && own.worst().filter(incident::equals).isPresent();
    return isWorst ? own.state() : OwnHealth.state(incident.what());
  }

  /** Where the harm of each enters: the outputs of a job, or the dataset itself. */
  private static Map<String, Set<Integer>> places(LineageGraph graph, Set<String> bad) {
    var places = new HashMap<String, Set<Integer>>();
    var jobs = new BitSet();
    for (String ref : bad) {
      if (Reference.isJob(ref)) {
        graph.ownerOrdinal(ref).ifPresent(jobs::set);
      } else {
        graph.asset(ref).ifPresent(at -> places.computeIfAbsent(ref, k -> new TreeSet<>()).add(at));
      }
    }
    for (int asset = 0; asset < graph.assetCount() && !jobs.isEmpty(); asset++) {
      int place = asset;
      graph.forEachLink(
          graph.rowsOf(place),
          Direction.UPSTREAM,
          (from, flow, masking, owner) -> {
            if (jobs.get(owner) && graph.isRows(from)) {
              places.computeIfAbsent(graph.owner(owner), k -> new TreeSet<>()).add(place);
            }
          });
    }
    return places;
  }

  /** The graph by whose asset numbers it speaks; null for {@link #NOTHING}. */
  public @Nullable LineageGraph graph() {
    return graph;
  }

  /** The causes: the worst first, of equal ones the one on which the most rests. */
  public List<Cause> causes() {
    return causes;
  }

  /** The causes upstream of an asset or about it, the worst first; a view of what is held. */
  public List<Cause> upstreamOf(int asset) {
    if (asset + 1 >= firstOf.length) {
      return List.of(); // the asset came later
    }
    int first = firstOf[asset];
    return new AbstractList<>() {
      @Override
      public Cause get(int index) {
        return causes.get(causesOf[first + Objects.checkIndex(index, size())]);
      }

      @Override
      public int size() {
        return firstOf[asset + 1] - first;
      }
    };
  }

  /** The assets that a cause reaches, as far as a test holds for them. */
  public List<Integer> affected(Cause cause, Predicate<Integer> test) {
    int at = causes.indexOf(cause);
    return at < 0 ? List.of() : Arrays.stream(below.get(at)).boxed().filter(test).toList();
  }

  /** The cause that an incident follows from, or that it is. */
  public Optional<Cause> causeOf(Incident incident) {
    return causes.stream()
        .filter(c -> c.incident().equals(incident) || c.effects().contains(incident))
        .findFirst();
  }
}
