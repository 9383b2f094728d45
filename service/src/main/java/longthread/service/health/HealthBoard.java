package longthread.service.health;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import longthread.core.asset.Reference;
import longthread.core.cause.Causes;
import longthread.core.cause.EstateHealth;
import longthread.core.cause.OwnHealth;
import longthread.core.graph.Direction;
import longthread.core.graph.LineageGraph;
import longthread.core.graph.Reach;
import longthread.core.graph.Walk;
import longthread.core.trust.HealthState;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.GraphFollower;
import longthread.service.notices.NoticeBoard;
import longthread.service.runs.RunReader;
import longthread.service.storage.log.RecentEventQueries;
import longthread.service.storage.runs.HealthQueries;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;

/**
 * How every job and asset does, in memory. It follows the events that are applied: what they are
 * about is judged again, and so is what becomes late while nothing comes. Each replica keeps its
 * own.
 */
@Component
public class HealthBoard {
  private static final Logger LOG = LoggerFactory.getLogger(HealthBoard.class);
  private static final int AT_ONCE = 300; // jobs or datasets judged in one step
  private static final int MAX_EVENTS = 5_000;
  private static final int NEAR = 60; // assets upstream that may say that all is well
  private static final Duration ALL_AGAIN = Duration.ofMinutes(30);
  private static final Duration GRAPH_AGAIN = Duration.ofSeconds(10);

  private final Catalog catalog;
  private final GraphFollower follower;
  private final HealthQueries stored;
  private final RunReader reader;
  private final RecentEventQueries recent;
  private final NoticeBoard notices;
  private final Clock clock;

  private final Map<String, OwnHealth> own = new ConcurrentHashMap<>();
  private final Map<String, String> pipelineOf = new ConcurrentHashMap<>();
  private volatile EstateHealth estate = EstateHealth.NOTHING;
  private volatile Instant judgedAt = Instant.EPOCH;
  private Instant allAt = Instant.EPOCH;
  private Instant foldedAt = Instant.EPOCH;
  private long block = -1;
  private int position;

  HealthBoard(
      Catalog catalog,
      GraphFollower follower,
      HealthQueries stored,
      RunReader reader,
      RecentEventQueries recent,
      NoticeBoard notices,
      Clock clock) {
    this.catalog = catalog;
    this.follower = follower;
    this.stored = stored;
    this.reader = reader;
    this.recent = recent;
    this.notices = notices;
    this.clock = clock;
  }

  /** What is wrong in the whole estate. */
  public EstateHealth estate() {
    return estate;
  }

  /** As of when everything was judged. */
  public Instant judgedAt() {
    return judgedAt;
  }

  @Scheduled(fixedDelay = 1_000)
  void tick() {
    try {
      judge();
    } catch (RuntimeException e) {
      LOG.warn("health cannot be judged now: {}", e.getMessage());
    }
  }

  /** Judges what has changed since the last call, and what has become late. */
  public synchronized void judge() {
    Instant now = clock.instant();
    boolean changed;
    if (now.isAfter(allAt.plus(ALL_AGAIN))) {
      judgeAll(now);
      changed = true;
    } else {
      changed = judgeTouched(now);
    }
    LineageGraph graph = follower.graph();
    boolean otherGraph = graph != estate.graph() && now.isAfter(foldedAt.plus(GRAPH_AGAIN));
    if (changed || otherGraph) {
      var bad = new LinkedHashMap<String, OwnHealth>();
      own.forEach((ref, health) -> addBad(bad, ref, health));
      estate = EstateHealth.of(graph, bad, pipelineOf);
      foldedAt = now;
    }
    judgedAt = now;
  }

  private void addBad(Map<String, OwnHealth> bad, String ref, OwnHealth health) {
    if (health.state().isBad() && !isGone(ref)) {
      bad.put(ref, health);
    }
  }

  /** What was retired cannot be late. */
  private boolean isGone(String ref) {
    return catalog.known(ref).map(asset -> asset.card().retired()).orElse(false);
  }

  private void judgeAll(Instant now) {
    recent.newest().ifPresent(this::moveTo);
    var seen = new HashSet<String>();
    for (String after = ""; ; ) {
      List<String> jobs = stored.jobsAfter(after, AT_ONCE);
      if (jobs.isEmpty()) {
        break;
      }
      judge(jobs, List.of(), now);
      seen.addAll(jobs);
      after = jobs.get(jobs.size() - 1);
    }
    for (String after = ""; ; ) {
      List<String> datasets = stored.datasetsAfter(after, AT_ONCE);
      if (datasets.isEmpty()) {
        break;
      }
      Set<String> leads = leads(datasets);
      judge(List.of(), leads, now);
      seen.addAll(leads);
      after = datasets.get(datasets.size() - 1);
    }
    own.keySet().retainAll(seen);
    pipelineOf.keySet().retainAll(seen);
    allAt = now;
  }

  private void moveTo(RecentEventQueries.Place place) {
    block = place.block();
    position = place.position();
  }

  private boolean judgeTouched(Instant now) {
    List<RecentEventQueries.Place> events = recent.after(block, position, MAX_EVENTS);
    var jobs = new LinkedHashSet<String>();
    var touched = new LinkedHashSet<String>();
    var described = new LinkedHashSet<String>();
    for (RecentEventQueries.Place event : events) {
      if (Reference.isJob(event.about())) {
        touched.add(event.about());
      } else {
        described.add("@" + event.about()); // a workspace, with the refreshes of its items
      }
    }
    for (String prefix : described) {
      stored.jobsAfter(prefix, AT_ONCE).stream()
          .filter(job -> job.startsWith(prefix))
          .forEach(touched::add);
    }
    jobs.addAll(touched);
    own.forEach(
        (ref, health) -> {
          Instant recheck = health.recheckAt();
          if (recheck != null && recheck.isBefore(now) && Reference.isJob(ref)) {
            jobs.add(ref);
          }
        });
    List<String> all = List.copyOf(jobs);
    for (int from = 0; from < all.size(); from += AT_ONCE) {
      judge(all.subList(from, Math.min(all.size(), from + AT_ONCE)), List.of(), now);
    }
    List<String> read = List.copyOf(touched);
    for (int from = 0; from < read.size(); from += AT_ONCE) {
      String[] some =
          read.subList(from, Math.min(read.size(), from + AT_ONCE)).toArray(String[]::new);
      judge(List.of(), leads(stored.datasetsOf(some)), now);
    }
    if (!events.isEmpty()) {
      moveTo(events.get(events.size() - 1));
    }
    return !all.isEmpty();
  }

  private Set<String> leads(Collection<String> datasets) {
    var leads = new LinkedHashSet<String>();
    datasets.forEach(dataset -> leads.add(catalog.leadOf(dataset)));
    return leads;
  }

  private void judge(Collection<String> jobs, Collection<String> datasets, Instant now) {
    if (jobs.isEmpty() && datasets.isEmpty()) {
      return;
    }
    var health = new StoredHealth(stored, reader, catalog, now);
    health.prepareState(jobs, datasets);
    pipelineOf.putAll(health.pipelineOf());
    jobs.forEach(job -> own.put(job, OwnHealth.ofJob(job, health.runs(job), now)));
    datasets.forEach(of -> own.put(of, OwnHealth.ofDataset(of, health, now)));
  }

  // ------------------------------------------------------------------ as it is shown

  /** How a job or dataset does by itself; empty if nothing is known of it. */
  public Optional<OwnHealth> own(String ref) {
    return Optional.ofNullable(own.get(ref));
  }

  /** How an asset does: itself, what writes it, and what is upstream. */
  public AssetHealth of(Asset asset) {
    if (asset.isRestricted()) {
      return AssetHealth.HIDDEN;
    }
    LineageGraph graph = follower.graph();
    int ordinal = graph.asset(asset.ref()).orElse(-1);
    Map<String, OwnHealth> near = near(graph, asset, ordinal);
    HealthState state = HealthState.UNKNOWN;
    Causes.@Nullable Incident worst = null;
    Instant written = null;
    Instant expected = null;
    for (OwnHealth health : near.values()) {
      if (health.state().compareTo(state) > 0) {
        state = health.state();
        worst = health.worst().orElse(null);
      }
      written = earlier(written, health.successAt());
      expected = later(expected, health.expectedAt());
    }
    AssetHealth.InheritedHealth inherited = inherited(asset, near.keySet());
    String reason = worst == null ? null : reason(asset, worst);
    if (state == HealthState.UNKNOWN && inherited == null && isWellUpstream(graph, ordinal)) {
      state = HealthState.HEALTHY;
      reason = "everything known upstream is as usual";
    }
    return new AssetHealth(
        state.word(),
        reason == null ? plain(state) : reason,
        worst == null ? null : worst.at(),
        worst == null || worst.ref().equals(asset.ref()) ? null : worst.ref(),
        inherited,
        written,
        expected,
        notices.on(asset));
  }

  private static String plain(HealthState state) {
    return state == HealthState.UNKNOWN
        ? "no run, check or figure is known"
        : "nothing deviates from what is usual";
  }

  /** The health of the asset itself and of the jobs that write it. */
  private Map<String, OwnHealth> near(LineageGraph graph, Asset asset, int ordinal) {
    var near = new HashMap<String, OwnHealth>();
    own(asset.ref()).ifPresent(health -> near.put(asset.ref(), health));
    if (ordinal >= 0 && !asset.isJob()) {
      graph.forEachLink(
          graph.rowsOf(ordinal),
          Direction.UPSTREAM,
          (from, flow, masking, owner) -> {
            String job = graph.owner(owner);
            own(job).ifPresent(health -> near.put(job, health));
          });
    }
    return near;
  }

  private AssetHealth.@Nullable InheritedHealth inherited(Asset asset, Set<String> near) {
    EstateHealth now = estate; // with the graph that its numbers are of
    LineageGraph graph = now.graph();
    if (graph == null || graph.asset(asset.ref()).isEmpty()) {
      return null;
    }
    for (EstateHealth.Cause cause : now.upstreamOf(graph.asset(asset.ref()).getAsInt())) {
      Causes.Incident incident = cause.incident();
      if (!near.contains(incident.ref()) && !incident.ref().equals(asset.ref())) {
        return new AssetHealth.InheritedHealth(
            cause.state().word(),
            name(incident.ref()) + ": " + incident.evidence(),
            incident.at(),
            incident.ref(),
            name(incident.ref()));
      }
    }
    return null;
  }

  private boolean isWellUpstream(LineageGraph graph, int ordinal) {
    if (ordinal < 0) {
      return false;
    }
    Reach reach =
        Walk.assets(
            graph, new int[] {graph.rowsOf(ordinal)}, Direction.UPSTREAM, Integer.MAX_VALUE, NEAR);
    boolean[] known = {false};
    for (int node : reach.nodes()) {
      graph.forEachLink(
          node,
          Direction.UPSTREAM,
          (from, flow, masking, owner) ->
              known[0] |=
                  own(graph.owner(owner))
                      .filter(health -> health.state() == HealthState.HEALTHY)
                      .isPresent());
    }
    return known[0];
  }

  private String reason(Asset asset, Causes.Incident incident) {
    return incident.ref().equals(asset.ref())
        ? incident.evidence()
        : name(incident.ref()) + ": " + incident.evidence();
  }

  private String name(String ref) {
    return catalog.asset(ref).map(Asset::shown).orElse(ref);
  }

  private static @Nullable Instant earlier(@Nullable Instant one, @Nullable Instant other) {
    return one == null || (other != null && other.isBefore(one)) ? other : one;
  }

  private static @Nullable Instant later(@Nullable Instant one, @Nullable Instant other) {
    return one == null || (other != null && other.isAfter(one)) ? other : one;
  }
}
