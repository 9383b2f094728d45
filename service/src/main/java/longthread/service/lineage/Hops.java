package longthread.service.lineage;

import java.util.List;
import longthread.core.asset.Reference;
import longthread.core.graph.GraphLink;
import longthread.core.graph.LineageGraph;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import org.jspecify.annotations.Nullable;

/** Threads as they appear in answers. */
public final class Hops {
  /**
   * One link of a thread.
   *
   * @param how how the link works, in words
   * @param job the job that makes the link; null where a dataset declares it or holds the other
   * @param fromName what people call the source
   * @param toName what people call the target
   */
  public record Hop(
      String from,
      String to,
      String flow,
      String how,
      boolean masking,
      @Nullable String job,
      String fromName,
      String toName) {}

  private Hops() {}

  public static List<Hop> of(LineageGraph graph, List<GraphLink> links, Catalog catalog) {
    return links.stream()
        .map(
            link -> {
              String owner = graph.owner(link.owner());
              return new Hop(
                  graph.reference(link.from()),
                  graph.reference(link.to()),
                  link.flow().name(),
                  link.flow().words(),
                  link.masking(),
                  Reference.isJob(owner) ? owner : null,
                  name(graph, link.from(), catalog),
                  name(graph, link.to(), catalog));
            })
        .toList();
  }

  /** What people call a node: the asset, and the column if it is one. */
  public static String name(LineageGraph graph, int node, Catalog catalog) {
    String ref = graph.assetReference(graph.assetOf(node));
    Asset asset = catalog.asset(ref).orElse(null);
    String name = asset == null ? ref : asset.shown();
    boolean isWhole = graph.isRows(node) || (asset != null && asset.isRestricted());
    return isWhole ? name : name + "#" + graph.columnOf(node);
  }
}
