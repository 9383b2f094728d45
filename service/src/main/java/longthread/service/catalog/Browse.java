package longthread.service.catalog;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import java.util.TreeMap;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Service;

/** Containers, opened level by level: system, schema, asset; workspace, report; pipeline, task. */
@Service
class Browse {
  /** A level: the containers below it, and the assets that are directly in it, page by page. */
  record Level(
      List<String> path,
      List<Container> containers,
      List<Search.Hit> assets,
      int total,
      @Nullable String cursor) {}

  record Container(String name, int assets) {}

  private final Catalog catalog;
  private final Search search;

  Browse(Catalog catalog, Search search) {
    this.search = search;
    this.catalog = catalog;
  }

  /** The level at a path of containers, outermost first. O(n) for n assets. */
  Level level(List<String> path) {
    var containers = new TreeMap<String, Integer>();
    var assets = new ArrayList<Search.Hit>();
    for (Asset asset : catalog.all()) {
      var place = new ArrayList<String>(List.of(asset.system()));
      place.addAll(asset.card().container());
      if (place.size() < path.size() || !place.subList(0, path.size()).equals(path)) {
        continue;
      }
      if (place.size() > path.size()) {
        containers.merge(place.get(path.size()), 1, Integer::sum);
      } else {
        assets.add(search.hit(asset, List.of(), 1));
      }
    }
    // A pipeline is the container of its tasks; it is opened as such and not listed beside itself.
    Set<String> names = new LinkedHashSet<>(containers.keySet());
    assets.sort(
        Comparator.comparing((Search.Hit hit) -> names.contains(hit.name()) ? 0 : 1)
            .thenComparing(Search.Hit::kind)
            .thenComparing(Search.Hit::name));
    return new Level(
        path,
        containers.entrySet().stream().map(e -> new Container(e.getKey(), e.getValue())).toList(),
        assets,
        assets.size(),
        null);
  }
}
