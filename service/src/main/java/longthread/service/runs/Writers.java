package longthread.service.runs;

import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import longthread.core.graph.Direction;
import longthread.core.graph.LineageGraph;
import longthread.core.graph.Reach;
import longthread.core.graph.Walk;
import longthread.service.live.Asset;
import longthread.service.live.GraphFollower;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Component;

/** The runs that an asset's present data rests on directly. */
@Component
public class Writers {
  private static final int NEAR = 200;
  private static final int RUNS = 30;

  private final RunReader runs;
  private final GraphFollower follower;

  Writers(RunReader runs, GraphFollower follower) {
    this.runs = runs;
    this.follower = follower;
  }

  /**
   * Returns the newest runs that wrote the asset; of one that is shown live, such as a report,
   * those that wrote the nearest assets it is made of.
   */
  public List<RunReader.RunRow> of(Asset asset) {
    List<RunReader.RunRow> own = runs.runsWriting(asset.parts(), RUNS);
    if (!own.isEmpty()) {
      return own;
    }
    LineageGraph graph = follower.graph();
    int ordinal = graph.asset(asset.ref()).orElse(-1);
    if (ordinal < 0) {
      return List.of();
    }
    Reach reach =
        Walk.assets(
            graph, new int[] {graph.rowsOf(ordinal)}, Direction.UPSTREAM, Integer.MAX_VALUE, NEAR);
    for (int at = 0, hop = 0; at < reach.size(); hop++) {
      var level = new ArrayList<String>();
      for (; at < reach.size() && reach.hops()[at] == hop; at++) {
        level.add(graph.assetReference(graph.assetOf(reach.nodes()[at])));
      }
      List<RunReader.RunRow> found = runs.runsWriting(level, RUNS);
      if (!found.isEmpty()) {
        return found;
      }
    }
    return List.of();
  }

  /**
   * The run that decides how fresh the asset is: of each job's newest completed run, the oldest,
   * since a page made of several loads is only as fresh as the stalest of them.
   */
  public static RunReader.@Nullable RunRow freshest(List<RunReader.RunRow> newestFirst) {
    var newest = new LinkedHashMap<String, RunReader.RunRow>();
    for (RunReader.RunRow run : newestFirst) {
      if (run.state().equals("completed")) {
        newest.putIfAbsent(run.job(), run);
      }
    }
    return newest.values().stream().min((a, b) -> ended(a).compareTo(ended(b))).orElse(null);
  }

  private static Instant ended(RunReader.RunRow run) {
    return run.end() == null ? run.start() : run.end();
  }
}
