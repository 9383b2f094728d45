package longthread.service.lineage;

import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.storage.graph.LinkQueries;
import longthread.service.web.ProblemException;
import org.springframework.stereotype.Component;

/**
 * The stretches of time over which links held, by the link of the graph: who states it, from and to
 * which asset and column, and its flow. A new partition of a dataset brings no new link of the
 * dataset.
 */
@Component
class LinkStretches {
  private static final int MAX_STRETCHES = 300_000;

  private final LinkQueries links;
  private final Catalog catalog;

  LinkStretches(LinkQueries links, Catalog catalog) {
    this.links = links;
    this.catalog = catalog;
  }

  /** Of all links that these jobs or datasets ever made. */
  Map<List<String>, List<LinkQueries.Stretch>> of(Collection<String> makers) {
    return byLink(links.stretches(makers.toArray(String[]::new)));
  }

  /**
   * Of all links that ever led into some assets, from others, or among a third group.
   *
   * @throws ProblemException if these are too many to be looked at
   */
  Map<List<String>, List<LinkQueries.Stretch>> of(
      Collection<String> into, Collection<String> from, Collection<String> among) {
    List<LinkQueries.Stretch> stretches =
        links.stretches(parts(into), parts(from), parts(among), MAX_STRETCHES + 1);
    if (stretches.size() > MAX_STRETCHES) {
      throw Exports.tooLarge("more than " + MAX_STRETCHES + " links began there");
    }
    return byLink(stretches);
  }

  private String[] parts(Collection<String> assets) {
    return assets.stream()
        .flatMap(ref -> catalog.known(ref).map(Asset::parts).orElse(List.of(ref)).stream())
        .toArray(String[]::new);
  }

  private Map<List<String>, List<LinkQueries.Stretch>> byLink(List<LinkQueries.Stretch> stretches) {
    var byLink = new LinkedHashMap<List<String>, List<LinkQueries.Stretch>>();
    for (LinkQueries.Stretch stretch : stretches) {
      byLink.computeIfAbsent(key(stretch), k -> new ArrayList<>()).add(stretch);
    }
    return byLink;
  }

  private List<String> key(LinkQueries.Stretch stretch) {
    String source = catalog.leadOf(stretch.from());
    String target = catalog.leadOf(stretch.to());
    return List.of(
        stretch.owner(),
        source,
        catalog.columnOf(source, stretch.fromColumn()),
        target,
        catalog.columnOf(target, stretch.toColumn()),
        stretch.flow());
  }
}
