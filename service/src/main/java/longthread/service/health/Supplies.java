package longthread.service.health;

import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import longthread.core.graph.Direction;
import longthread.core.graph.LineageGraph;
import longthread.core.graph.Reach;
import longthread.core.graph.Walk;
import longthread.core.trust.Supply;
import longthread.service.live.Asset;
import longthread.service.live.GraphFollower;
import longthread.service.storage.runs.HealthQueries;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Component;

/** As of when an asset's data is: how old the oldest input behind it is, run by run. */
@Component
public class Supplies {
  private static final int RUNS = 40; // of each job, among which one began early enough

  /** The source with the oldest data, and when it was last taken from there. */
  public record Oldest(String ref, Instant takenAt) {}

  private final GraphFollower follower;
  private final HealthQueries stored;
  private final Clock clock;

  Supplies(GraphFollower follower, HealthQueries stored, Clock clock) {
    this.follower = follower;
    this.stored = stored;
    this.clock = clock;
  }

  /** The oldest input behind an asset; null if nothing is upstream of it. */
  public @Nullable Oldest oldest(Asset asset) {
    LineageGraph graph = follower.graph();
    int ordinal = asset.isJob() ? -1 : graph.asset(asset.ref()).orElse(-1);
    if (ordinal < 0) {
      return null;
    }
    Instant now = clock.instant();
    Map<String, List<Supply.Load>> loads = loads(graph, ordinal, now);
    return Supply.of(graph, ordinal, job -> loads.getOrDefault(job, List.of()), now)
        .oldest()
        .filter(source -> source.asset() != ordinal)
        .map(source -> new Oldest(graph.assetReference(source.asset()), source.takenAt()))
        .orElse(null);
  }

  private Map<String, List<Supply.Load>> loads(LineageGraph graph, int ordinal, Instant now) {
    Reach reach =
        Walk.assets(
            graph,
            new int[] {graph.rowsOf(ordinal)},
            Direction.UPSTREAM,
            Integer.MAX_VALUE,
            Integer.MAX_VALUE);
    Set<String> jobs = new LinkedHashSet<>();
    for (int node : reach.nodes()) {
      graph.forEachLink(
          node, Direction.UPSTREAM, (from, flow, masking, owner) -> jobs.add(graph.owner(owner)));
    }
    var loads = new HashMap<String, List<Supply.Load>>();
    for (HealthQueries.JobRun run : stored.runs(jobs.toArray(String[]::new), now, RUNS)) {
      Instant end = run.end();
      if (run.state().equals("completed") && end != null) {
        loads
            .computeIfAbsent(run.job(), k -> new ArrayList<>())
            .add(new Supply.Load(run.start(), end));
      }
    }
    return loads;
  }
}
