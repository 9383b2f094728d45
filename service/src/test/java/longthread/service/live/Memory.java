package longthread.service.live;

import java.nio.file.Path;
import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.TreeSet;
import longthread.core.graph.Direction;
import longthread.core.graph.LineageGraph;
import longthread.service.storage.catalog.CardQueries;
import longthread.service.storage.facts.RenameQueries;
import longthread.service.storage.graph.HeadQueries;
import longthread.service.storage.graph.LinkQueries;
import longthread.service.testing.RunningService;

/**
 * What is held in memory, as lines in order: as it has become, and as it would be after a start.
 */
public final class Memory {
  private Memory() {}

  /** What the running service holds. */
  public static List<String> held(RunningService service) {
    return lines(
        service.bean(Catalog.class),
        service.bean(GraphFollower.class),
        service.bean(ColumnMaps.class),
        service.bean(LabelBoard.class));
  }

  /** What is held by a follower that has just loaded the tables. */
  public static List<String> loaded(RunningService service) {
    return new Started(service, new GraphFile("")).lines();
  }

  /**
   * What is held by a follower that started from the graph that an earlier call kept in a file, if
   * one did; it keeps its own there.
   */
  public static List<String> caughtUp(RunningService service, Path file) {
    var started = new Started(service, new GraphFile(file.toString()));
    started.follower.keep();
    return started.lines();
  }

  /** The graph of a moment, made out of the graph of now. */
  public static List<String> changedTo(Instant at, RunningService service) {
    LineageGraph graph = service.bean(PastGraphs.class).changed(at, 0).orElseThrow();
    return List.copyOf(withAssets(graph));
  }

  /** The graph of a moment, read from the tables. */
  public static List<String> readAt(Instant at, RunningService service) {
    return List.copyOf(withAssets(service.bean(PastGraphs.class).read(at)));
  }

  private static TreeSet<String> withAssets(LineageGraph graph) {
    TreeSet<String> lines = lines(graph);
    graph.assets().stream().forEach(asset -> lines.add("asset " + graph.assetReference(asset)));
    return lines;
  }

  /** A catalog that has just started. */
  private static final class Started {
    private final Catalog catalog = new Catalog("", List.of());
    private final ColumnMaps maps;
    private final GraphFollower follower;
    private final LabelBoard labels;

    Started(RunningService service, GraphFile file) {
      maps = new ColumnMaps(service.bean(LinkQueries.class), catalog);
      follower =
          new GraphFollower(
              service.bean(HeadQueries.class),
              service.bean(CardQueries.class),
              service.bean(LinkQueries.class),
              service.bean(RenameQueries.class),
              service.bean(longthread.service.storage.statements.StatementQueries.class),
              catalog,
              maps,
              file,
              Clock.systemUTC());
      follower.start();
      var settings =
          new LabelSettings(
              service.bean(longthread.service.storage.statements.StatementQueries.class), follower);
      labels =
          new LabelBoard(new LabelScheme(settings), settings, catalog, follower, Clock.systemUTC());
    }

    List<String> lines() {
      return Memory.lines(catalog, follower, maps, labels);
    }
  }

  private static List<String> lines(
      Catalog catalog, GraphFollower follower, ColumnMaps maps, LabelBoard labels) {
    var lines = new TreeSet<String>();
    LabelBoard.State labelled = labels.now();
    labelled
        .spreads()
        .forEach(
            (label, spread) -> {
              for (int node : spread.nodes()) {
                lines.add(
                    "label "
                        + label
                        + " "
                        + labelled.graph().reference(node)
                        + " "
                        + spread.at(node));
              }
            });
    catalog
        .all()
        .forEach(
            asset -> {
              lines.add("asset " + asset);
              asset.parts().forEach(part -> lines.add("part " + part + " " + catalog.leadOf(part)));
              lines.add("tied " + asset.ref() + new TreeSet<>(catalog.tiedBy(asset.ref())));
            });
    maps.texts().forEach((owner, text) -> lines.add("map " + owner + " " + text));
    lines.addAll(lines(follower.graph()));
    return List.copyOf(lines);
  }

  private static TreeSet<String> lines(LineageGraph graph) {
    var lines = new TreeSet<String>();
    for (int asset : graph.assets().stream().toArray()) {
      var nodes = new ArrayList<Integer>(List.of(graph.rowsOf(asset)));
      graph.forEachColumn(asset, nodes::add);
      for (int node : nodes) {
        if (nodes.size() > 1 || graph.isLinked(node)) {
          lines.add("node " + graph.reference(node));
        }
        for (Direction direction : Direction.values()) {
          graph.forEachLink(
              node,
              direction,
              (end, flow, masking, owner) ->
                  lines.add(
                      String.join(
                          " ",
                          direction.name(),
                          graph.reference(node),
                          graph.reference(end),
                          flow.name(),
                          "" + masking,
                          graph.owner(owner))));
        }
      }
    }
    return lines;
  }
}
