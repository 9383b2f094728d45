package longthread.core.trust;

import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.PriorityQueue;
import java.util.function.Function;
import longthread.core.asset.Reference;
import longthread.core.graph.Direction;
import longthread.core.graph.LineageGraph;
import org.jspecify.annotations.Nullable;

/**
 * Which loads the present content of an asset rests on: run by run upstream, the latest moment at
 * which data can have left each asset on its way there.
 *
 * <p>What a job wrote is made of what its inputs held when its newest completed run began. So data
 * of an input can be in the asset only up to that moment; over several ways the latest counts. A
 * job without a known run, or something shown live, takes its inputs as they are.
 *
 * <p>Built in O((a + l) log a) for a assets and l links upstream. Immutable.
 */
public final class Supply {
  /** A completed run. */
  public record Load(Instant start, Instant end) {}

  /** A place where data enters, and when it was last taken from there. */
  public record Source(int asset, Instant takenAt) {}

  private record Reached(int asset, Instant at) {}

  private final Map<Integer, Instant> takenAt = new HashMap<>();
  private final Map<String, Instant> usedBy = new HashMap<>();
  private @Nullable Source oldest;

  private Supply() {}

  /**
   * Follows the loads upstream of an asset.
   *
   * @param completed the completed runs of a job, newest first
   * @param now the moment at which the asset is looked at
   */
  public static Supply of(
      LineageGraph graph, int asset, Function<String, List<Load>> completed, Instant now) {
    var supply = new Supply();
    var open = new PriorityQueue<Reached>((a, b) -> b.at().compareTo(a.at()));
    open.add(new Reached(asset, now));
    while (!open.isEmpty()) {
      Reached next = open.poll();
      if (supply.takenAt.putIfAbsent(next.asset(), next.at()) == null) {
        supply.goOn(graph, next, completed, open);
      }
    }
    return supply;
  }

  private void goOn(
      LineageGraph graph,
      Reached at,
      Function<String, List<Load>> completed,
      PriorityQueue<Reached> open) {
    boolean[] isSource = {true};
    graph.forEachLink(
        graph.rowsOf(at.asset()),
        Direction.UPSTREAM,
        (from, flow, masking, owner) -> {
          boolean isData = !Reference.isJob(graph.assetReference(graph.assetOf(from)));
          if (graph.isRows(from) && isData && graph.assetOf(from) != at.asset()) {
            isSource[0] = false;
            String job = graph.owner(owner);
            Instant taken = Reference.isJob(job) ? start(job, at.at(), completed) : at.at();
            usedBy.merge(job, at.at(), (a, b) -> a.isAfter(b) ? a : b);
            if (!takenAt.containsKey(graph.assetOf(from))) { // what came before came from later
              open.add(new Reached(graph.assetOf(from), taken));
            }
          }
        });
    if (isSource[0] && (oldest == null || at.at().isBefore(oldest.takenAt()))) {
      oldest = new Source(at.asset(), at.at());
    }
  }

  private static Instant start(String job, Instant upTo, Function<String, List<Load>> completed) {
    for (Load load : completed.apply(job)) {
      if (!load.start().isAfter(upTo)) {
        return load.start();
      }
    }
    return upTo;
  }

  /**
   * Until when data of an asset can have reached the one looked at; empty if it is not upstream.
   */
  public Optional<Instant> takenAt(int asset) {
    return Optional.ofNullable(takenAt.get(asset));
  }

  /** The latest start of a run of this job whose output can be in the asset. */
  public Optional<Instant> usedUpTo(String job) {
    return Optional.ofNullable(usedBy.get(job));
  }

  /** The source whose data is the oldest behind the asset; empty if nothing is upstream. */
  public Optional<Source> oldest() {
    return Optional.ofNullable(oldest);
  }
}
