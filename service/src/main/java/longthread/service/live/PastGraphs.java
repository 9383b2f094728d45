package longthread.service.live;

import java.lang.ref.SoftReference;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import longthread.core.graph.GraphStore;
import longthread.core.graph.GraphStore.NamedLink;
import longthread.core.graph.LineageGraph;
import longthread.service.storage.graph.LinkQueries;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Component;

/** The graph as it stood at a moment, with all knowledge of today. */
@Component
public class PastGraphs {
  /** Of those who state links, one in so many may differ for the graph of now to begin with. */
  private static final int ONE_IN = 4;

  private final GraphFollower follower;
  private final LinkQueries links;
  private final Object lock = new Object(); // one is made at a time
  private SoftReference<Past> past = new SoftReference<>(null);

  PastGraphs(GraphFollower follower, LinkQueries links) {
    this.follower = follower;
    this.links = links;
  }

  /**
   * A graph of a moment, kept while there is room: who compares or walks through time asks again.
   *
   * @param number of the change up to which what is known of that moment goes
   */
  private record Past(Instant at, long number, LineageGraph graph) {}

  /**
   * The graph of a moment; that of now for null. Takes the time of what changed since, and where
   * that is much, of reading all links of then.
   */
  public LineageGraph of(@Nullable Instant at) {
    if (at == null) {
      return follower.graph();
    }
    synchronized (lock) {
      long now = follower.number();
      Past kept = past.get();
      if (kept != null && kept.at().equals(at) && kept.number() == now) {
        return kept.graph();
      }
      past.clear(); // two of them need not fit
      LineageGraph graph = changed(at, ONE_IN).orElseGet(() -> read(at));
      past = new SoftReference<>(new Past(at, now, graph));
      return graph;
    }
  }

  /**
   * The graph of now, changed to that of a moment.
   *
   * @return empty if more than one in so many of those who state links differ
   */
  Optional<LineageGraph> changed(Instant at, int oneIn) {
    GraphFollower.Fork now = follower.fork();
    // Links that ended since the last look may be in the graph of now or not.
    Instant sure = at.isBefore(now.endedUpTo()) ? at : now.endedUpTo();
    List<String> owners = links.changedSince(at, sure);
    if (owners.size() * oneIn > now.store().current().ownerCount()) {
      return Optional.empty();
    }
    Map<String, List<NamedLink>> then =
        follower.linkNames().byOwner(links.heldBy(owners.toArray(String[]::new), at));
    owners.forEach(owner -> then.putIfAbsent(owner, List.of()));
    now.store().replaceAll(then);
    return Optional.of(now.store().current().linkedOnly());
  }

  /** The same, read as a whole. */
  LineageGraph read(Instant at) {
    var store = new GraphStore();
    GraphStore.Loading loading = store.load();
    links.forEachAt(at, link -> loading.add(link.owner(), follower.linkNames().named(link)));
    loading.publish();
    return store.current();
  }
}
