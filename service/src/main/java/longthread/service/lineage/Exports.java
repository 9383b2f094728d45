package longthread.service.lineage;

import java.time.Instant;
import java.util.ArrayList;
import java.util.BitSet;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Stream;
import longthread.core.asset.Card;
import longthread.core.asset.Reference;
import longthread.core.export.ExportedGraph;
import longthread.core.graph.Direction;
import longthread.core.graph.LineageGraph;
import longthread.core.graph.Reach;
import longthread.core.graph.Walk;
import longthread.service.job.JobParts;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.PastGraphs;
import longthread.service.live.References;
import longthread.service.live.Sight;
import longthread.service.storage.graph.LinkQueries;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** Chooses a part of the graph that is to be taken out, with all that formats say of it. */
@Service
class Exports {
  private static final int MAX_ASSETS = 20_000;
  private static final int MAX_LINKS = 400_000; // of about 200 bytes each while it is written

  /**
   * Which part.
   *
   * @param focus null for everything
   * @param hops how far to look from the focus, in links
   * @param asOf the moment of which to take it; null for now
   */
  record Part(
      References.@Nullable Named focus,
      boolean upstream,
      boolean downstream,
      int hops,
      @Nullable Instant asOf) {}

  private final Catalog catalog;
  private final PastGraphs graphs;
  private final JobParts jobParts;
  private final LinkQueries links;

  Exports(Catalog catalog, PastGraphs graphs, JobParts jobParts, LinkQueries links) {
    this.catalog = catalog;
    this.graphs = graphs;
    this.jobParts = jobParts;
    this.links = links;
  }

  /**
   * All links among the assets that a part reaches.
   *
   * @throws ProblemException if these are too many for one file
   */
  @Transactional(readOnly = true)
  public ExportedGraph of(Part part) {
    ExportedGraph graph = around(part);
    if (graph.assets().isEmpty() && graph.jobs().isEmpty() && part.focus() != null) {
      throw ProblemException.badRequest(
          "no-lineage",
          part.focus().ref() + " has no lineage that any event reported; there is nothing to take");
    }
    return graph;
  }

  /** The same, and an empty graph where the focus had no lineage. */
  @Transactional(readOnly = true)
  public ExportedGraph around(Part part) {
    LineageGraph graph = graphs.of(part.asOf());
    return new Chosen(graph, reached(graph, part, true)).export();
  }

  /**
   * The datasets that a part reaches, as far as the caller may see them.
   *
   * @param bothEnds whether what a job reads and writes is in it, whichever direction is asked for
   */
  List<String> datasets(Part part, boolean bothEnds) {
    LineageGraph graph = graphs.of(part.asOf());
    return reached(graph, part, bothEnds).stream()
        .mapToObj(graph::assetReference)
        .filter(ref -> !Reference.isJob(ref) && catalog.isSeen(ref))
        .toList();
  }

  private BitSet reached(LineageGraph graph, Part part, boolean bothEnds) {
    var reached = new BitSet();
    if (part.focus() == null) {
      reached.or(graph.assets());
      refuseIfTooMany(reached);
      return reached;
    }
    Asset focus = part.focus().asset();
    if (focus.isJob()) {
      JobParts.Parts now = jobParts.of(focus.ref());
      int near = Math.max(0, part.hops() - 1);
      if (part.upstream() || bothEnds) {
        int[] rows = LineageViews.rows(graph, now.inputs());
        add(graph, reached, rows, Direction.UPSTREAM, part.upstream() ? near : 0);
      }
      if (part.downstream() || bothEnds) {
        int[] rows = LineageViews.rows(graph, now.outputs());
        add(graph, reached, rows, Direction.DOWNSTREAM, part.downstream() ? near : 0);
      }
      return reached;
    }
    int node = part.focus().node(graph);
    if (node < 0) {
      return reached;
    }
    reached.set(graph.assetOf(node));
    boolean byValues = part.focus().column() != null && !graph.isRows(node);
    for (Direction direction : Direction.values()) {
      boolean isWanted = direction == Direction.UPSTREAM ? part.upstream() : part.downstream();
      if (isWanted && byValues) {
        note(
            graph,
            reached,
            Walk.values(graph, new int[] {node}, direction, part.hops(), Integer.MAX_VALUE));
      } else if (isWanted) {
        int[] rows = {graph.rowsOf(graph.assetOf(node))};
        add(graph, reached, rows, direction, part.hops());
      }
    }
    return reached;
  }

  private static void add(
      LineageGraph graph, BitSet reached, int[] rows, Direction direction, int hops) {
    note(graph, reached, Walk.assets(graph, rows, direction, hops, Integer.MAX_VALUE));
  }

  private static void note(LineageGraph graph, BitSet reached, Reach reach) {
    for (int node : reach.nodes()) {
      reached.set(graph.assetOf(node));
    }
    refuseIfTooMany(reached);
  }

  private static void refuseIfTooMany(BitSet reached) {
    if (reached.cardinality() > MAX_ASSETS) {
      throw tooLarge("more than " + MAX_ASSETS + " assets are reached");
    }
  }

  static ProblemException tooLarge(String what) {
    return ProblemException.badRequest("too-large", what + "; ask for fewer hops or one direction");
  }

  /** The chosen assets of a graph while they are written out, as the caller may see them. */
  private final class Chosen {
    private final LineageGraph graph;
    private final BitSet assets;
    private final Sight sight = Sight.now();
    private final Map<Integer, Set<String>> linked = new HashMap<>(); // columns, by asset
    private final Set<String> makers = new TreeSet<>(); // as they are

    Chosen(LineageGraph graph, BitSet assets) {
      this.graph = graph;
      this.assets = assets;
    }

    ExportedGraph export() {
      List<ExportedGraph.Link> all = links();
      return new ExportedGraph(
          assets.stream()
              .filter(asset -> !Reference.isJob(graph.assetReference(asset)))
              .mapToObj(this::asset)
              .toList(),
          jobs(),
          all);
    }

    private List<ExportedGraph.Link> links() {
      var all = new ArrayList<ExportedGraph.Link>();
      assets.stream()
          .forEach(
              asset ->
                  graph.forEachColumn(
                      asset, node -> addLinks(node, all))); // columns only, rows below
      assets.stream().forEach(asset -> addLinks(graph.rowsOf(asset), all));
      return all;
    }

    private void addLinks(int node, List<ExportedGraph.Link> all) {
      graph.forEachLink(
          node,
          Direction.DOWNSTREAM,
          (end, flow, masking, owner) -> {
            if (assets.get(graph.assetOf(end))) {
              if (all.size() == MAX_LINKS) {
                throw tooLarge("more than " + MAX_LINKS + " links are reached");
              }
              String maker = graph.owner(owner);
              makers.add(maker);
              all.add(
                  new ExportedGraph.Link(
                      asset(graph.assetReference(graph.assetOf(node)), null),
                      column(node),
                      asset(graph.assetReference(graph.assetOf(end)), null),
                      column(end),
                      flow,
                      masking,
                      asset(maker, null)));
            }
          });
    }

    /** A reference as it may leave the service. */
    private String asset(String ref, @Nullable String column) {
      String whole = column == null ? ref : ref + "#" + column;
      return catalog.isSeen(ref) ? whole : sight.alias(whole);
    }

    private String column(int node) {
      if (graph.isRows(node)) {
        return graph.columnOf(node);
      }
      String shown = asset(graph.assetReference(graph.assetOf(node)), graph.columnOf(node));
      String column = shown.substring(shown.indexOf('#') + 1);
      linked.computeIfAbsent(graph.assetOf(node), k -> new HashSet<>()).add(column);
      return column;
    }

    private ExportedGraph.Asset asset(int ordinal) {
      String ref = graph.assetReference(ordinal);
      Asset asset = catalog.asset(ref).orElse(null);
      var columns = new ArrayList<ExportedGraph.Column>();
      var left = new TreeSet<>(linked.getOrDefault(ordinal, Set.of()));
      for (Card.Column column : asset == null ? List.<Card.Column>of() : asset.card().columns()) {
        columns.add(new ExportedGraph.Column(column.path(), column.type(), column.description()));
        left.remove(column.path());
      }
      left.forEach(path -> columns.add(new ExportedGraph.Column(path, null, null)));
      return new ExportedGraph.Asset(
          asset(ref, null),
          asset == null ? "dataset" : asset.kind().word(),
          asset == null ? ref : asset.shown(),
          catalog.systemOf(ref),
          asset == null ? null : asset.card().description(),
          asset == null ? List.of() : asset.card().owners(),
          columns);
    }

    private List<ExportedGraph.Job> jobs() {
      String[] known = makers.stream().filter(Reference::isJob).toArray(String[]::new);
      var seenAt = new HashMap<String, Instant>();
      links.lastSeen(known).forEach(row -> seenAt.put(row.owner(), row.at()));
      return Stream.of(known)
          .map(
              ref -> {
                Asset job = catalog.asset(ref).orElse(null);
                return new ExportedGraph.Job(
                    asset(ref, null),
                    job == null ? "job" : job.kind().word(),
                    job == null ? ref : job.shown(),
                    catalog.systemOf(ref),
                    job == null ? List.of() : job.card().owners(),
                    seenAt.getOrDefault(ref, Instant.EPOCH));
              })
          .toList();
    }
  }
}
