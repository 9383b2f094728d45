package longthread.service.coverage;

import java.time.Clock;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import longthread.core.asset.Kind;
import longthread.core.graph.Direction;
import longthread.core.graph.LineageGraph;
import longthread.core.trust.LineageCoverage;
import longthread.core.trust.LineageCoverage.Depth;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.GraphFollower;
import longthread.service.storage.coverage.CoverageQueries;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Service;

/** How much of each system's and workspace's lineage is known. */
@Service
public class Coverage {
  private static final Logger LOG = LoggerFactory.getLogger(Coverage.class);
  private static final int TREND_DAYS = 90;
  private static final Set<Kind> ITEMS =
      Set.of(Kind.MODEL, Kind.CHART, Kind.REPORT, Kind.DASHBOARD);

  /**
   * How well a system or workspace is covered.
   *
   * @param workspace absent for a system as a whole
   * @param assets how many assets of data it has, without retired ones
   * @param columnLevel of how many it is known where their columns come from
   * @param tableLevel of how many only from which assets they are made
   * @param noLineage of how many nothing is known upstream
   * @param onlyRead of those without, how many are read by something: sources, or blind spots
   * @param evidence how many assets have upstream links of each kind of evidence
   * @param newest when any of their links was seen last
   * @param share of the assets whose origin is known
   */
  public record SystemCoverage(
      String system,
      @Nullable String workspace,
      int assets,
      int columnLevel,
      int tableLevel,
      int noLineage,
      int onlyRead,
      Map<String, Integer> evidence,
      @Nullable Instant newest,
      double share,
      List<CoveragePoint> trend) {}

  /** The counts on one day. */
  public record CoveragePoint(
      LocalDate day, int assets, int columnLevel, int tableLevel, int noLineage) {}

  private static final class Count {
    private int assets;
    private int column;
    private int table;
    private int none;
    private int onlyRead;
    private final Map<String, Integer> evidence = new TreeMap<>();
    private @Nullable Instant newest;

    double share() {
      return assets == 0 ? 0 : Math.round(1000.0 * (column + table) / assets) / 1000.0;
    }
  }

  private record Place(String system, String workspace) {}

  private final Catalog catalog;
  private final GraphFollower follower;
  private final CoverageQueries stored;
  private final Clock clock;

  Coverage(Catalog catalog, GraphFollower follower, CoverageQueries stored, Clock clock) {
    this.catalog = catalog;
    this.follower = follower;
    this.stored = stored;
    this.clock = clock;
  }

  /** The coverage of every system and workspace, by name; linear in the graph. */
  public List<SystemCoverage> all() {
    Map<Place, Count> counts = counts();
    Map<Place, List<CoveragePoint>> trends = trends();
    var all = new ArrayList<SystemCoverage>();
    counts.forEach(
        (place, count) ->
            all.add(
                new SystemCoverage(
                    place.system(),
                    place.workspace().isEmpty() ? null : place.workspace(),
                    count.assets,
                    count.column,
                    count.table,
                    count.none,
                    count.onlyRead,
                    count.evidence,
                    count.newest,
                    count.share(),
                    trends.getOrDefault(place, List.of()))));
    all.sort(
        Comparator.comparing(SystemCoverage::system)
            .thenComparing(c -> c.workspace() == null ? "" : c.workspace()));
    return all;
  }

  private Map<Place, Count> counts() {
    LineageGraph graph = follower.graph();
    Map<String, Map<String, Instant>> evidence = evidence();
    var counts = new HashMap<Place, Count>();
    for (Asset asset : catalog.all()) {
      if (asset.isJob() || asset.card().retired()) {
        continue;
      }
      var ordinal = graph.asset(asset.ref());
      LineageCoverage covered =
          ordinal.isPresent()
              ? LineageCoverage.of(graph, ordinal.getAsInt())
              : new LineageCoverage(Depth.NONE, false);
      var words = new HashSet<String>();
      Instant newest = null;
      if (ordinal.isPresent()) {
        for (String owner : ownersInto(graph, ordinal.getAsInt())) {
          for (var one : evidence.getOrDefault(owner, Map.of()).entrySet()) {
            words.add(one.getKey());
            newest = newest == null || one.getValue().isAfter(newest) ? one.getValue() : newest;
          }
        }
      }
      var places = new ArrayList<>(List.of(new Place(asset.system(), "")));
      if (ITEMS.contains(asset.kind()) && !asset.card().container().isEmpty()) {
        places.add(new Place(asset.system(), asset.card().container().get(0)));
      }
      for (Place place : places) {
        add(counts.computeIfAbsent(place, k -> new Count()), covered, words, newest);
      }
    }
    return counts;
  }

  private static void add(
      Count count, LineageCoverage covered, Set<String> evidence, @Nullable Instant newest) {
    count.assets++;
    switch (covered.upstream()) {
      case COLUMN -> count.column++;
      case TABLE -> count.table++;
      case NONE -> {
        count.none++;
        count.onlyRead += covered.isRead() ? 1 : 0;
      }
    }
    evidence.forEach(word -> count.evidence.merge(word, 1, Integer::sum));
    if (newest != null && (count.newest == null || newest.isAfter(count.newest))) {
      count.newest = newest;
    }
  }

  /** The evidence of each owner's current links; what SQL confirms was observed. */
  private Map<String, Map<String, Instant>> evidence() {
    var byOwner = new HashMap<String, Map<String, Instant>>();
    for (CoverageQueries.OwnerEvidence row : stored.evidence()) {
      String word = row.evidence().equals("confirmed") ? "observed" : row.evidence();
      byOwner
          .computeIfAbsent(row.owner(), k -> new HashMap<>())
          .merge(word, row.lastSeen(), (a, b) -> a.isAfter(b) ? a : b);
    }
    return byOwner;
  }

  private static Set<String> ownersInto(LineageGraph graph, int asset) {
    var owners = new TreeSet<String>();
    var nodes = new ArrayList<Integer>(List.of(graph.rowsOf(asset)));
    graph.forEachColumn(asset, nodes::add);
    for (int node : nodes) {
      graph.forEachLink(
          node, Direction.UPSTREAM, (end, flow, masking, owner) -> owners.add(graph.owner(owner)));
    }
    return owners;
  }

  private Map<Place, List<CoveragePoint>> trends() {
    var trends = new HashMap<Place, List<CoveragePoint>>();
    for (CoverageQueries.Day day : stored.since(today().minusDays(TREND_DAYS))) {
      trends
          .computeIfAbsent(new Place(day.system(), day.workspace()), k -> new ArrayList<>())
          .add(
              new CoveragePoint(
                  day.day(), day.assets(), day.columnLevel(), day.tableLevel(), day.noLineage()));
    }
    return trends;
  }

  private LocalDate today() {
    return LocalDate.ofInstant(clock.instant(), ZoneOffset.UTC);
  }

  /** Notes how it stands, for the trend; a later look on the same day replaces it. */
  @Scheduled(initialDelayString = "${longthread.coverage.first:5m}", fixedDelayString = "1h")
  void note() {
    try {
      var days = new ArrayList<CoverageQueries.Day>();
      counts()
          .forEach(
              (place, count) ->
                  days.add(
                      new CoverageQueries.Day(
                          today(),
                          place.system(),
                          place.workspace(),
                          count.assets,
                          count.column,
                          count.table,
                          count.none)));
      stored.put(days);
    } catch (RuntimeException e) {
      LOG.warn("the coverage of today cannot be noted now: {}", e.getMessage());
    }
  }
}
