package longthread.service.lineage;

import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import longthread.service.live.Catalog;
import longthread.service.storage.graph.LinkQueries;
import org.springframework.stereotype.Component;

/**
 * The stretches of time over which links held, by the link of the graph: who states it, from and to
 * which asset and column, and its flow. A new partition of a dataset brings no new link of the
 * dataset.
 */
@Component
class LinkStretches {
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

  /** Of all links that ever led to these datasets or from them. */
  Map<List<String>, List<LinkQueries.Stretch>> touching(String[] datasets) {
    return byLink(links.stretchesTouching(datasets));
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
