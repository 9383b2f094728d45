package longthread.service.coverage;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import longthread.core.asset.AssetGrouping;
import longthread.core.asset.Kind;
import longthread.core.asset.Reference;
import longthread.core.event.HandFacet;
import longthread.core.graph.Direction;
import longthread.core.graph.LineageGraph;
import longthread.core.graph.Reach;
import longthread.core.graph.Walk;
import longthread.core.trust.LineageCoverage;
import longthread.core.trust.LineageCoverage.Depth;
import longthread.core.workspace.WorkspaceEvents;
import longthread.service.intake.Emitters;
import longthread.service.job.JobSql;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.GraphFollower;
import longthread.service.statements.RecordedLinks;
import longthread.service.statements.Statements;
import longthread.service.storage.StoredText;
import longthread.service.storage.coverage.CoverageQueries;
import longthread.service.storage.facts.FacetQueries;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.JsonNode;

/** What the catalog has reason to expect and does not have, as a list to work off. */
@Service
public class BlindSpots {
  /** The words for what is missing, in the order in which they are best worked off. */
  public static final List<String> KINDS =
      List.of(
          "silent-emitter",
          "unmatched-source",
          "never-written",
          "sql-not-understood",
          "job-without-outputs",
          "never-observed",
          "recorded-questioned",
          "recorded-ending",
          "recorded-ended",
          "unowned",
          "over-merged");

  private static final Duration DECLARED_AGE = Duration.ofDays(7);
  private static final int MUCH_READ = 3; // assets, or twenty reads
  private static final long MANY_READS = 20;
  private static final int MAX_REACH = 200_000;
  private static final Set<Kind> ITEMS =
      Set.of(Kind.MODEL, Kind.CHART, Kind.REPORT, Kind.DASHBOARD);

  /**
   * A blind spot.
   *
   * @param id by which it is set aside
   * @param kind one of {@link #KINDS}
   * @param ref what it is about; absent for an emitter
   * @param why one sentence that says what is missing
   * @param since since when; absent where that is not known
   * @param rests how many assets downstream rest on it
   * @param action what helps: {@code connect}, {@code record}, {@code match}, {@code own}, {@code
   *     renew}, {@code repair} or {@code separate}
   * @param ignored who set it aside, until when and why; absent if it is open
   */
  public record BlindSpot(
      String id,
      String kind,
      @Nullable String ref,
      String name,
      String system,
      String why,
      List<String> owners,
      @Nullable Instant since,
      int rests,
      String action,
      @Nullable IgnoredSpot ignored) {}

  /** That a blind spot was set aside. */
  public record IgnoredSpot(String by, String reason, @Nullable Instant until) {}

  private final Catalog catalog;
  private final GraphFollower follower;
  private final CoverageQueries stored;
  private final FacetQueries facets;
  private final Emitters emitters;
  private final RecordedLinks recorded;
  private final Statements statements;
  private final JobSql sql;
  private final Clock clock;

  BlindSpots(
      Catalog catalog,
      GraphFollower follower,
      CoverageQueries stored,
      FacetQueries facets,
      Emitters emitters,
      RecordedLinks recorded,
      Statements statements,
      JobSql sql,
      Clock clock) {
    this.catalog = catalog;
    this.follower = follower;
    this.stored = stored;
    this.facets = facets;
    this.emitters = emitters;
    this.recorded = recorded;
    this.statements = statements;
    this.sql = sql;
    this.clock = clock;
  }

  /**
   * All blind spots: by kind in the order of {@link #KINDS}, those on which most rests first.
   *
   * @param kind only of this kind; null for all
   * @param system only in this system; null for all
   * @param ignored those that were set aside, instead of the open ones
   */
  @Transactional(readOnly = true)
  public List<BlindSpot> all(@Nullable String kind, @Nullable String system, boolean ignored) {
    if (kind != null && !KINDS.contains(kind)) {
      throw ProblemException.badRequest(
          "unknown-word",
          "'" + kind + "' is no kind of blind spot; use " + String.join(", ", KINDS));
    }
    var spots = new Listing();
    spots.assets();
    spots.jobs();
    spots.records();
    spots.emitters();
    spots.overMerged();
    Map<String, IgnoredSpot> setAside = setAside();
    return spots.found.stream()
        .map(spot -> withIgnored(spot, ignoredBy(spot, setAside)))
        .filter(spot -> (spot.ignored() != null) == ignored)
        .filter(spot -> kind == null || spot.kind().equals(kind))
        .filter(spot -> system == null || spot.system().equals(system))
        .sorted(
            Comparator.comparing((BlindSpot spot) -> KINDS.indexOf(spot.kind()))
                .thenComparing(spot -> -spot.rests())
                .thenComparing(BlindSpot::name))
        .toList();
  }

  /** A blind spot is set aside alone, or with all of its kind in its system. */
  private static @Nullable IgnoredSpot ignoredBy(
      BlindSpot spot, Map<String, IgnoredSpot> setAside) {
    IgnoredSpot own = setAside.get(spot.id());
    return own != null ? own : setAside.get(spot.kind() + ":system:" + spot.system());
  }

  private static BlindSpot withIgnored(BlindSpot spot, @Nullable IgnoredSpot ignored) {
    return ignored == null
        ? spot
        : new BlindSpot(
            spot.id(),
            spot.kind(),
            spot.ref(),
            spot.name(),
            spot.system(),
            spot.why(),
            spot.owners(),
            spot.since(),
            spot.rests(),
            spot.action(),
            ignored);
  }

  /** What people set aside and what has not come back since. */
  private Map<String, IgnoredSpot> setAside() {
    var ignored = new HashMap<String, IgnoredSpot>();
    String under = HandFacet.REGISTER + "/dismissed/";
    statements
        .standing(HandFacet.DISMISSED)
        .forEach(
            (ref, byKey) -> {
              JsonNode facet = byKey.get(HandFacet.DISMISSED);
              JsonNode value = facet.path("value");
              Instant until =
                  value.has("until")
                      ? OffsetDateTime.parse(value.path("until").stringValue()).toInstant()
                      : null;
              if (value.isObject() && (until == null || until.isAfter(clock.instant()))) {
                ignored.put(
                    ref.substring(under.length()),
                    new IgnoredSpot(
                        facet.path("by").stringValue(""),
                        facet.path("reason").stringValue(""),
                        until));
              }
            });
    return ignored;
  }

  /** The blind spots while they are gathered. */
  private final class Listing {
    private final LineageGraph graph = follower.graph();
    private final List<BlindSpot> found = new ArrayList<>();
    private final Map<String, Set<String>> evidence = new HashMap<>();
    private final Map<String, Instant> evidenceSince = new HashMap<>();

    Listing() {
      for (CoverageQueries.OwnerEvidence row : stored.evidence()) {
        evidence.computeIfAbsent(row.owner(), k -> new HashSet<>()).add(row.evidence());
        evidenceSince.merge(row.owner(), row.lastSeen(), (a, b) -> a.isBefore(b) ? a : b);
      }
    }

    private void add(
        String kind, Asset asset, String why, @Nullable Instant since, int rests, String action) {
      found.add(
          new BlindSpot(
              kind + ":" + asset.ref(),
              kind,
              asset.ref(),
              asset.shown(),
              asset.system(),
              why,
              asset.ownerNames(),
              since,
              rests,
              action,
              null));
    }

    void assets() {
      Map<String, Long> reads = reads();
      var candidates = new LinkedHashMap<Asset, LineageCoverage>();
      for (Asset asset : catalog.all()) {
        if (!asset.isJob() && !asset.card().retired()) {
          candidates.put(asset, covered(asset));
        }
      }
      // What links know and no event names: sources that SQL or workspaces mention.
      for (int ordinal = 0; ordinal < graph.assetCount(); ordinal++) {
        String ref = graph.assetReference(ordinal);
        if (!Reference.isJob(ref)) {
          catalog
              .asset(ref)
              .filter(asset -> asset.ref().equals(ref) && graph.isLinked(rows(ref)))
              .ifPresent(asset -> candidates.putIfAbsent(asset, covered(asset)));
        }
      }
      var refs = new TreeSet<String>();
      candidates.forEach((asset, covered) -> refs.add(asset.ref()));
      Map<String, Instant> since = new HashMap<>();
      stored.knownSince(refs.toArray(String[]::new)).forEach(row -> since.put(row.ref(), row.at()));
      candidates.forEach((asset, covered) -> asset(asset, covered, reads, since.get(asset.ref())));
    }

    private int rows(String ref) {
      return graph.rowsOf(graph.asset(ref).orElseThrow());
    }

    private LineageCoverage covered(Asset asset) {
      var ordinal = graph.asset(asset.ref());
      return ordinal.isPresent()
          ? LineageCoverage.of(graph, ordinal.getAsInt())
          : new LineageCoverage(Depth.NONE, false);
    }

    private void asset(
        Asset asset, LineageCoverage covered, Map<String, Long> reads, @Nullable Instant since) {
      boolean item = ITEMS.contains(asset.kind());
      if (covered.upstream() == Depth.NONE && covered.isRead()) {
        boolean onlyItems = !asset.card().described() && readOnlyByItems(asset);
        if (onlyItems) {
          add(
              "unmatched-source",
              asset,
              "A workspace reads it, and nothing else in the catalog has this name.",
              since,
              rests(asset),
              "match");
        } else if (!item) {
          add(
              "never-written",
              asset,
              "It is read, and nothing is known to write it.",
              since,
              rests(asset),
              "connect");
        }
      }
      long looks = reads.getOrDefault(asset.ref(), 0L);
      if (asset.card().owners().isEmpty() && asset.card().described()) {
        int readers = readers(asset);
        if (readers >= MUCH_READ || looks >= MANY_READS) {
          add(
              "unowned",
              asset,
              "It has no owner, and "
                  + (looks >= MANY_READS
                      ? "it was read " + looks + " times."
                      : readers + " assets are made from it directly."),
              since,
              rests(asset),
              "own");
        }
      }
      Set<String> own = evidence.getOrDefault(asset.ref(), Set.of());
      if (!item && own.equals(Set.of("declared"))) {
        neverObserved(asset);
      }
    }

    private void neverObserved(Asset owner) {
      Instant since = evidenceSince.get(owner.ref());
      if (since != null && since.plus(DECLARED_AGE).isBefore(clock.instant())) {
        add(
            "never-observed",
            owner,
            "Its lineage was declared, and no run has reported it.",
            since,
            rests(owner),
            "connect");
      }
    }

    private boolean readOnlyByItems(Asset asset) {
      boolean[] only = {true};
      forEachReader(
          asset,
          reader -> {
            boolean isItem =
                catalog
                    .asset(reader)
                    .map(
                        a ->
                            ITEMS.contains(a.kind())
                                || a.card().details().stream()
                                    .anyMatch(d -> d.value().equals("preparation step")))
                    .orElse(false);
            only[0] &= isItem;
          });
      return only[0];
    }

    private int readers(Asset asset) {
      var readers = new HashSet<String>();
      forEachReader(asset, readers::add);
      readers.remove(asset.ref());
      return readers.size();
    }

    private void forEachReader(Asset asset, java.util.function.Consumer<String> each) {
      var ordinal = graph.asset(asset.ref());
      if (ordinal.isEmpty()) {
        return;
      }
      var nodes = new ArrayList<Integer>(List.of(graph.rowsOf(ordinal.getAsInt())));
      graph.forEachColumn(ordinal.getAsInt(), nodes::add);
      var seen = new TreeSet<String>();
      for (int node : nodes) {
        graph.forEachLink(
            node,
            Direction.DOWNSTREAM,
            (end, flow, masking, owner) -> seen.add(graph.assetReference(graph.assetOf(end))));
      }
      seen.remove(asset.ref());
      seen.forEach(each);
    }

    /** How many assets downstream rest on one, over links of rows. */
    private int rests(Asset asset) {
      var ordinal = graph.asset(asset.ref());
      if (ordinal.isEmpty()) {
        return 0;
      }
      int rows = graph.rowsOf(ordinal.getAsInt());
      Reach reach =
          Walk.everything(
              graph, Walk.originsOf(graph, rows), Direction.DOWNSTREAM, 1_000, MAX_REACH);
      var assets = new HashSet<Integer>();
      for (int i = 0; i < reach.size(); i++) {
        assets.add(graph.assetOf(reach.nodes()[i]));
      }
      assets.remove(ordinal.getAsInt());
      assets.removeIf(a -> Reference.isJob(graph.assetReference(a)));
      return assets.size();
    }

    /** How often workspaces and databases say that each asset was read. */
    private Map<String, Long> reads() {
      var reads = new HashMap<String, Long>();
      for (FacetQueries.Value row : facets.allCurrent(WorkspaceEvents.USAGE)) {
        for (JsonNode period : StoredText.json(row.body()).path("periods")) {
          reads.merge(catalog.leadOf(row.ref()), period.path("reads").longValue(0), Long::sum);
        }
      }
      return reads;
    }

    void jobs() {
      for (CoverageQueries.Since row : stored.jobsWithoutOutputs()) {
        catalog
            .asset(row.ref())
            .filter(job -> job.kind() != Kind.PIPELINE && !job.card().retired())
            .ifPresent(
                job ->
                    add(
                        "job-without-outputs",
                        job,
                        "It runs, and no run says what it writes.",
                        row.at(),
                        0,
                        "record"));
      }
      for (String owner : stored.gaps()) {
        catalog
            .asset(owner)
            .filter(job -> !job.card().retired())
            .ifPresent(
                job ->
                    add("sql-not-understood", job, problem(job), null, restsOfJob(job), "repair"));
      }
      for (Asset job : catalog.all()) {
        boolean onlyDeclared =
            job.isJob()
                && evidence.getOrDefault(job.ref(), Set.of()).equals(Set.of("declared"))
                && !job.card().retired()
                && job.card().details().stream().noneMatch(d -> d.name().equals("refreshed"));
        if (onlyDeclared && !isItemJob(job)) {
          neverObserved(job);
        }
      }
    }

    /** Jobs of workspaces are described, not declared in the hope of runs. */
    private boolean isItemJob(Asset job) {
      return facets.currentOfJob(new String[] {job.ref()}, WorkspaceEvents.ITEM).isPresent();
    }

    private String problem(Asset job) {
      var derived = job.isJob() ? sql.of(job) : null;
      return derived == null || derived.problems().isEmpty()
          ? "Its emitter could not read all of it, so its lineage is incomplete."
          : "Its SQL was not understood in full: " + derived.problems().get(0);
    }

    private int restsOfJob(Asset job) {
      int rests = 0;
      var owner = graph.ownerOrdinal(job.ref());
      if (owner.isEmpty()) {
        return 0;
      }
      var written = new TreeSet<String>();
      for (int asset = 0; asset < graph.assetCount(); asset++) {
        int rows = graph.rowsOf(asset);
        String ref = graph.assetReference(asset);
        graph.forEachLink(
            rows,
            Direction.UPSTREAM,
            (end, flow, masking, by) -> {
              if (by == owner.getAsInt()) {
                written.add(ref);
              }
            });
      }
      for (String ref : written) {
        rests += catalog.asset(ref).map(this::rests).orElse(0);
      }
      return rests;
    }

    void records() {
      for (RecordedLinks.RecordedLink link : recorded.all(null)) {
        boolean open =
            link.state().equals("questioned")
                || link.state().equals("ending")
                || link.state().equals("ended");
        if (!open) {
          continue;
        }
        String ref =
            link.job() != null ? link.job() : link.writes().isEmpty() ? null : link.writes().get(0);
        Asset asset = ref == null ? null : catalog.asset(ref).orElse(null);
        found.add(
            new BlindSpot(
                "recorded-" + link.state() + ":" + link.id(),
                "recorded-" + link.state(),
                asset == null ? null : asset.ref(),
                link.title() != null ? link.title() : asset == null ? link.id() : asset.shown(),
                asset == null ? "" : asset.system(),
                link.why(),
                List.of(link.by()),
                link.until() != null ? link.until() : link.since(),
                asset == null || asset.isJob() ? 0 : rests(asset),
                "renew",
                null));
      }
    }

    void emitters() {
      for (Emitters.Emitter emitter : emitters.all()) {
        Instant overdue = emitter.overdueSince();
        if (overdue != null) {
          found.add(
              new BlindSpot(
                  "silent-emitter:" + emitter.producer() + " " + emitter.namespace(),
                  "silent-emitter",
                  null,
                  emitter.producer(),
                  emitter.namespace(),
                  "It reports about "
                      + emitter.namespace()
                      + " and has been silent for longer than it ever rests.",
                  List.of(),
                  emitter.lastEvent(),
                  0,
                  "connect",
                  null));
        }
      }
    }

    void overMerged() {
      for (AssetGrouping.OverMerged one : catalog.overMerged()) {
        catalog
            .asset(one.from().reference())
            .ifPresent(
                asset ->
                    add(
                        "over-merged",
                        asset,
                        one.names()
                            + " names hang together and were not joined; the link between "
                            + one.from()
                            + " and "
                            + one.to()
                            + " is the one to cut.",
                        null,
                        rests(asset),
                        "separate"));
      }
    }
  }
}
