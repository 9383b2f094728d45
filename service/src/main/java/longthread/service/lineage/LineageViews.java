package longthread.service.lineage;

import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import longthread.core.asset.Reference;
import longthread.core.graph.Direction;
import longthread.core.graph.GraphView;
import longthread.core.graph.LineageGraph;
import longthread.core.graph.ThreadFinder;
import longthread.core.lineage.Flow;
import longthread.service.exact.ExactLineage;
import longthread.service.health.AssetHealth;
import longthread.service.health.HealthBoard;
import longthread.service.job.ConstantBranches;
import longthread.service.job.JobParts;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.Glossary;
import longthread.service.live.GraphFollower;
import longthread.service.live.LabelBoard;
import longthread.service.live.PastGraphs;
import longthread.service.live.References;
import longthread.service.log.EventLog;
import longthread.service.storage.graph.LinkQueries;
import longthread.service.storage.runs.CheckQueries;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Service;
import org.springframework.transaction.PlatformTransactionManager;
import org.springframework.transaction.TransactionException;
import org.springframework.transaction.support.TransactionTemplate;

/** The neighbourhood of an asset or column, and the thread between two, dressed for answers. */
@Service
class LineageViews {
  private static final Logger LOG = LoggerFactory.getLogger(LineageViews.class);

  /**
   * A node of a view.
   *
   * @param hops links from the focus
   * @param side where it lies: focus, upstream or downstream
   * @param place the schema, folder, workspace or pipeline it is in; null if it is in none
   * @param written when the newest run that wrote it completed; null if none is known
   * @param rows how many rows that run wrote, where it wrote nothing else
   * @param checks how many checks there are, and {@code failedChecks} how many failed last
   * @param described false for what is only mentioned somewhere
   * @param more how many further neighbours lie in each direction beyond the view
   * @param health of the asset or job; absent for systems
   */
  record ViewNode(
      String ref,
      String kind,
      String name,
      String system,
      @Nullable String place,
      @Nullable String description,
      @Nullable String column,
      int hops,
      String side,
      boolean described,
      boolean retired,
      List<String> owners,
      List<String> labels,
      List<String> terms,
      @Nullable String state,
      @Nullable Instant written,
      @Nullable Long rows,
      @Nullable Integer checks,
      @Nullable Integer failedChecks,
      @Nullable String url,
      int moreUpstream,
      int moreDownstream,
      @Nullable AssetHealth health) {}

  /**
   * A link of a view.
   *
   * @param via between two runs, the asset whose data the later one read; else absent
   * @param doubt between two runs, why it is not certain that it read it; absent if it is
   */
  record ViewLink(
      String from,
      String to,
      String flow,
      String how,
      List<String> flows,
      boolean masking,
      String evidence,
      boolean confirmed,
      @Nullable String job,
      @Nullable Integer jobVersion,
      @Nullable Instant firstSeen,
      @Nullable Instant lastSeen,
      @Nullable String via,
      @Nullable String doubt) {}

  /**
   * A branch on which a job sets a column of the view to a constant: nothing comes from upstream.
   */
  record ViewConstant(String column, String text, String job) {}

  /**
   * A view.
   *
   * @param constants of the columns upstream of a column, the branches that carry no data
   * @param gap what is missing, and why; absent if nothing is
   * @param exact of a view of runs, what each read and how certain that is
   */
  record View(
      ViewNode focus,
      List<ViewNode> nodes,
      List<ViewLink> links,
      List<ViewLink> deciding,
      List<ViewConstant> constants,
      boolean truncated,
      long graphChange,
      @Nullable String gap,
      ExactLineage.@Nullable ExactAnswer exact) {}

  /** A thread; {@code basis} is values, decides or assets, from the strongest to the weakest. */
  record ThreadAnswer(
      String from, String to, String basis, boolean reversed, List<Hops.Hop> hops) {}

  private final Catalog catalog;
  private final Glossary glossary;
  private final LabelBoard labels;
  private final GraphFollower follower;
  private final PastGraphs graphs;
  private final JobParts jobParts;
  private final ConstantBranches constantBranches;
  private final LinkQueries links;
  private final ViewFacts viewFacts;
  private final EventLog log;
  private final HealthBoard health;
  private final TransactionTemplate reading;

  LineageViews(
      Catalog catalog,
      Glossary glossary,
      GraphFollower follower,
      PastGraphs graphs,
      JobParts jobParts,
      ConstantBranches constantBranches,
      LinkQueries links,
      ViewFacts viewFacts,
      EventLog log,
      HealthBoard health,
      LabelBoard labels,
      PlatformTransactionManager transactions) {
    this.log = log;
    this.labels = labels;
    this.health = health;
    this.reading = new TransactionTemplate(transactions);
    this.reading.setReadOnly(true);
    this.catalog = catalog;
    this.glossary = glossary;
    this.follower = follower;
    this.graphs = graphs;
    this.jobParts = jobParts;
    this.constantBranches = constantBranches;
    this.links = links;
    this.viewFacts = viewFacts;
  }

  /**
   * Which part of the graph to show.
   *
   * @param detail as the caller spells it; null for columns of a column and assets of an asset
   * @param asOf the moment of which to show it; null for now
   */
  record Wanted(
      References.Named focus,
      boolean upstream,
      boolean downstream,
      int hops,
      @Nullable String detail,
      @Nullable Instant asOf,
      int maxNodes) {}

  /**
   * A part of the graph, nearest first. While the database is unreachable it is shown from memory,
   * without what only the database has.
   */
  public View view(Wanted wanted) {
    References.Named named = wanted.focus();
    GraphView.Detail level = detail(wanted.detail(), named);
    LineageGraph graph = graphs.of(wanted.asOf());
    GraphView view =
        GraphView.of(
            graph,
            focus(graph, named, level),
            wanted.upstream(),
            wanted.downstream(),
            wanted.hops(),
            wanted.maxNodes(),
            level,
            catalog::systemOf);
    if (log.unreachableSince() == null) {
      try {
        Records records = reading.execute(status -> records(view));
        return dress(graph, view, named, level, records);
      } catch (DataAccessException | TransactionException e) {
        LOG.warn("a graph is shown without what only the database has: {}", e.getMessage());
      }
    }
    return dress(graph, view, named, level, Records.NONE);
  }

  /**
   * What the database adds to a view.
   *
   * @param gap what is missing, if it is
   */
  private record Records(
      ViewFacts.Facts facts,
      @Nullable LinkEvidence evidence,
      List<ViewConstant> constants,
      @Nullable String gap) {
    private static final Records NONE =
        new Records(
            new ViewFacts.Facts(),
            null,
            List.of(),
            "run states, constants and why links are believed are missing: the database is"
                + " unreachable");
  }

  private Records records(GraphView view) {
    var evidence = new LinkEvidence(links, catalog);
    evidence.load(view);
    return new Records(viewFacts.of(view), evidence, constants(view.nodes()), null);
  }

  private static GraphView.Detail detail(@Nullable String word, References.Named named) {
    if (word == null) {
      return named.column() == null ? GraphView.Detail.ASSETS : GraphView.Detail.COLUMNS;
    }
    try {
      return GraphView.Detail.valueOf(word.toUpperCase(Locale.ROOT));
    } catch (IllegalArgumentException e) {
      throw ProblemException.badRequest(
          "bad-detail",
          "'" + word + "' is not a detail level; use systems, assets, steps or columns");
    }
  }

  private GraphView.Focus focus(
      LineageGraph graph, References.Named named, GraphView.Detail level) {
    String ref = named.asset().ref();
    if (Reference.isJob(ref)) {
      JobParts.Parts parts = jobParts.of(ref);
      return new GraphView.Focus(
          ref, null, rows(graph, parts.inputs()), rows(graph, parts.outputs()));
    }
    int node = named.node(graph);
    if (node < 0) {
      return new GraphView.Focus(named.ref(), new int[0], new int[0], new int[0]);
    }
    boolean whole = named.column() == null && level == GraphView.Detail.COLUMNS;
    int[] nodes = whole ? longthread.core.graph.Walk.originsOf(graph, node) : new int[] {node};
    return new GraphView.Focus(named.ref(), nodes, new int[0], new int[0]);
  }

  /** The rows of those of some assets that the graph has. */
  static int[] rows(LineageGraph graph, List<String> refs) {
    return refs.stream()
        .map(graph::asset)
        .filter(java.util.OptionalInt::isPresent)
        .mapToInt(asset -> graph.rowsOf(asset.getAsInt()))
        .toArray();
  }

  private View dress(
      LineageGraph graph,
      GraphView view,
      References.Named named,
      GraphView.Detail level,
      Records records) {
    var refs = new LinkedHashSet<String>();
    view.nodes().forEach(node -> refs.add(node.ref()));
    LinkEvidence evidence = records.evidence();
    var nodes = new ArrayList<ViewNode>();
    for (GraphView.Node node : view.nodes()) {
      nodes.add(node(graph, node.ref(), node.hops(), refs, records.facts(), level));
    }
    ViewNode focus =
        nodes.stream()
            .filter(node -> node.ref().equals(named.ref()))
            .findFirst()
            .orElseGet(
                () ->
                    node(
                        graph,
                        level == GraphView.Detail.SYSTEMS
                            ? Reference.SYSTEM_PREFIX + named.asset().system()
                            : named.ref(),
                        0,
                        refs,
                        records.facts(),
                        level));
    return new View(
        focus,
        nodes,
        view.links().stream().map(link -> link(link, evidence)).toList(),
        view.deciding().stream().map(link -> link(link, evidence)).toList(),
        records.constants(),
        view.truncated(),
        follower.number(),
        records.gap(),
        null);
  }

  /** The constants of the columns in view that lie upstream of the focus, it included. */
  private List<ViewConstant> constants(List<GraphView.Node> nodes) {
    var columns = new LinkedHashSet<String>();
    var assets = new LinkedHashSet<Asset>();
    for (GraphView.Node node : nodes) {
      int hash = node.ref().indexOf('#');
      if (hash > 0 && node.hops() <= 0) {
        columns.add(node.ref());
        catalog.asset(node.ref().substring(0, hash)).ifPresent(assets::add);
      }
    }
    var found = new ArrayList<ViewConstant>();
    constantBranches
        .of(assets)
        .forEach(
            (column, branches) -> {
              if (columns.contains(column)) {
                branches.forEach(b -> found.add(new ViewConstant(column, b.text(), b.by())));
              }
            });
    return found;
  }

  private ViewNode node(
      LineageGraph graph,
      String ref,
      int hops,
      LinkedHashSet<String> shown,
      ViewFacts.Facts facts,
      GraphView.Detail level) {
    if (Reference.isSystem(ref)) {
      String name = ref.substring(Reference.SYSTEM_PREFIX.length());
      return new ViewNode(
          ref,
          "system",
          name,
          name,
          null,
          null,
          null,
          Math.abs(hops),
          side(hops),
          true,
          false,
          List.of(),
          List.of(),
          List.of(),
          null,
          null,
          null,
          null,
          null,
          null,
          0,
          0,
          null);
    }
    int hash = ref.indexOf('#');
    String assetRef = hash < 0 ? ref : ref.substring(0, hash);
    String column = hash < 0 ? null : ref.substring(hash + 1);
    Asset asset = catalog.asset(assetRef).orElse(null);
    CheckQueries.Summary summary = facts.checks().get(assetRef);
    boolean byAssets = level != GraphView.Detail.COLUMNS && !Reference.isJob(ref);
    return new ViewNode(
        ref,
        asset == null ? "dataset" : asset.kind().word(),
        asset == null ? assetRef : asset.shown(),
        catalog.systemOf(assetRef),
        asset == null ? null : place(asset),
        asset == null ? null : asset.card().description(),
        column,
        Math.abs(hops),
        side(hops),
        asset != null && asset.card().described(),
        asset != null && asset.card().retired(),
        asset == null ? List.of() : asset.ownerNames(),
        asset == null ? List.of() : labels.wordsOf(asset),
        asset == null ? List.of() : glossary.wordsOf(asset),
        facts.states().get(assetRef),
        facts.written().get(assetRef),
        facts.rows().get(assetRef),
        summary == null ? null : (int) summary.checks(),
        summary == null ? null : (int) summary.failed(),
        asset == null ? null : asset.card().url(),
        byAssets ? beyond(graph, assetRef, Direction.UPSTREAM, shown) : 0,
        byAssets ? beyond(graph, assetRef, Direction.DOWNSTREAM, shown) : 0,
        asset == null ? null : health.of(asset));
  }

  private static @Nullable String place(Asset asset) {
    List<String> container = asset.card().container();
    return container.isEmpty() ? null : String.join(".", container);
  }

  private static String side(int hops) {
    return hops == 0 ? "focus" : hops < 0 ? "upstream" : "downstream";
  }

  private static int beyond(
      LineageGraph graph, String ref, Direction direction, LinkedHashSet<String> shown) {
    int asset = graph.asset(ref).orElse(-1);
    if (asset < 0) {
      return 0;
    }
    var hidden = new LinkedHashSet<Integer>();
    graph.forEachLink(
        graph.rowsOf(asset),
        direction,
        (end, flow, masking, owner) -> {
          if (graph.isRows(end) && !shown.contains(graph.reference(end))) {
            hidden.add(end);
          }
        });
    return hidden.size();
  }

  private static ViewLink link(GraphView.Link link, @Nullable LinkEvidence evidence) {
    LinkEvidence.Seen seen = evidence == null ? null : evidence.of(link);
    String owner = link.owner();
    return new ViewLink(
        link.from(),
        link.to(),
        headline(link).name(),
        headline(link).words(),
        link.flows().stream().map(Flow::name).sorted().toList(),
        link.masking(),
        evidence == null ? "unknown" : seen == null ? "observed" : seen.word(),
        seen != null && seen.confirmed(),
        owner != null && Reference.isJob(owner) ? owner : null,
        seen == null ? null : seen.version(),
        seen == null ? null : seen.first(),
        seen == null ? null : seen.last(),
        null,
        null);
  }

  /** Of several ways a link works, the one that says the most: carrying before deciding. */
  private static Flow headline(GraphView.Link link) {
    for (Flow flow :
        List.of(Flow.AGGREGATION, Flow.TRANSFORMATION, Flow.IDENTITY, Flow.DIRECT, Flow.HOLDS)) {
      if (link.flows().contains(flow)) {
        return flow;
      }
    }
    return link.flows().iterator().next();
  }

  /** The shortest thread between two, in whichever direction there is one. */
  ThreadAnswer thread(References.Named source, References.Named target, @Nullable Instant asOf) {
    LineageGraph graph = graphs.of(asOf);
    int start = place(graph, source, true, asOf);
    int end = place(graph, target, false, asOf);
    Optional<ThreadFinder.Found> found = ThreadFinder.find(graph, start, end);
    boolean reversed = found.isEmpty();
    if (reversed) {
      found = ThreadFinder.find(graph, end, start);
    }
    ThreadFinder.Found thread =
        found.orElseThrow(
            () ->
                new ProblemException(
                    HttpStatus.NOT_FOUND,
                    "no-thread",
                    "No thread between the two",
                    "neither feeds the other, near or far: "
                        + source.ref()
                        + " and "
                        + target.ref()
                        + "; look at the upstream of each for what they share"));
    return new ThreadAnswer(
        source.ref(),
        target.ref(),
        thread.basis().name().toLowerCase(Locale.ROOT),
        reversed,
        Hops.of(graph, thread.hops(), catalog));
  }

  /** A job stands for the first thing it writes (as a source) or reads (as a target). */
  private int place(
      LineageGraph graph, References.Named named, boolean source, @Nullable Instant asOf) {
    String ref = named.asset().ref();
    int node;
    if (Reference.isJob(ref)) {
      JobParts.Parts parts = jobParts.of(ref);
      int[] rows = rows(graph, source ? parts.outputs() : parts.inputs());
      node = rows.length == 0 ? -1 : rows[0];
    } else {
      node = named.node(graph);
    }
    if (node < 0) {
      throw new ProblemException(
          HttpStatus.NOT_FOUND,
          "no-lineage",
          "No lineage is known",
          named.ref()
              + (asOf == null
                  ? " is in the catalog, but no event reported what feeds it or what it feeds"
                  : " had no lineage at "
                      + asOf
                      + " that any event reported; take a later moment"));
    }
    return node;
  }
}
