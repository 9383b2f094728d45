package longthread.service.live;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import longthread.core.graph.GraphStore;
import longthread.core.graph.ImpactCounts;
import longthread.core.graph.LineageGraph;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;

/**
 * How many assets rest on each asset, near or far. Counted anew after the graph changed; while it
 * changes all the time, counting takes at most a twentieth of the time, so that on large estates
 * the numbers may be a minute old.
 */
@Component
public class Dependents {
  private static final int SHARE = 20;

  private record Counted(LineageGraph graph, int[] counts) {}

  private final GraphFollower follower;
  private final Clock clock;
  private volatile Counted counted;
  private Instant next = Instant.MIN;

  Dependents(GraphFollower follower, Clock clock) {
    this.follower = follower;
    this.clock = clock;
    this.counted = new Counted(new GraphStore().current(), new int[0]);
  }

  @Scheduled(fixedDelay = 500)
  void count() {
    LineageGraph graph = follower.graph();
    Instant began = clock.instant();
    if (graph == counted.graph() || began.isBefore(next)) {
      return;
    }
    counted = new Counted(graph, ImpactCounts.of(graph));
    next = began.plus(Duration.between(began, clock.instant()).multipliedBy(SHARE));
  }

  /** How many assets are downstream of one; 0 for what no link reaches, and for jobs. */
  public int of(String ref) {
    Counted now = counted;
    int asset = now.graph().asset(ref).orElse(-1);
    return asset < 0 || asset >= now.counts().length ? 0 : now.counts()[asset];
  }
}
