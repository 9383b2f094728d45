package longthread.service.job;

import java.util.stream.Stream;
import longthread.core.graph.Direction;
import longthread.core.graph.LineageGraph;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.GraphFollower;
import longthread.service.live.Sight;
import org.springframework.stereotype.Component;

/**
 * Whether all is seen that the program text and the raw facets of an asset may name. Where it is
 * not, these are not shown: they say anything, in words that nobody can take apart.
 */
@Component
public class Surroundings {
  private final JobParts parts;
  private final Catalog catalog;
  private final GraphFollower follower;

  Surroundings(JobParts parts, Catalog catalog, GraphFollower follower) {
    this.parts = parts;
    this.catalog = catalog;
    this.follower = follower;
  }

  /** Whether the caller sees everything one step away from an asset or job. */
  public boolean areSeen(Asset asset) {
    if (Sight.now().isWhole()) {
      return true;
    }
    if (asset.isJob()) {
      JobParts.Parts now = parts.of(asset.ref());
      return Stream.concat(now.inputs().stream(), now.outputs().stream()).allMatch(catalog::isSeen);
    }
    LineageGraph graph = follower.graph();
    int ordinal = graph.asset(asset.ref()).orElse(-1);
    boolean[] seen = {true};
    for (Direction direction : Direction.values()) {
      if (ordinal >= 0) {
        graph.forEachLink(
            graph.rowsOf(ordinal),
            direction,
            (end, flow, masking, owner) ->
                seen[0] &=
                    catalog.isSeen(graph.assetReference(graph.assetOf(end)))
                        && catalog.isSeen(graph.owner(owner)));
      }
    }
    return seen[0];
  }
}
