package longthread.service.catalog;

import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import longthread.core.search.WordIndex;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.Sight;
import longthread.service.web.Pages;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Service;

/** Containers, opened level by level: system, schema, asset; workspace, report; pipeline, task. */
@Service
class Browse {
  /**
   * A level: the containers below it, and the assets that are directly in it, page by page.
   *
   * @param restricted of the outermost level, how many assets the caller may not see
   */
  record Level(
      List<String> path,
      List<Container> containers,
      List<Search.Hit> assets,
      int total,
      int restricted,
      @Nullable String cursor) {}

  record Container(String name, int assets) {}

  private final Catalog catalog;
  private final Search search;

  Browse(Catalog catalog, Search search) {
    this.search = search;
    this.catalog = catalog;
  }

  /** What is in a container: how many assets in each one below it, and those directly in it. */
  private static final class Place {
    private final TreeMap<String, Integer> containers = new TreeMap<>();
    private final List<Asset> assets = new ArrayList<>();
  }

  /** All places by their paths, as of a version of the catalog. */
  private record Tree(
      @Nullable WordIndex<Asset> index, int version, Map<List<String>, Place> places) {}

  private volatile Tree tree = new Tree(null, -1, Map.of());

  /**
   * The level at a path of containers, outermost first. Takes time linear in what is in it; after a
   * change of the catalog once in all assets.
   */
  Level level(List<String> path) {
    Place place = tree().places().getOrDefault(path, new Place());
    return new Level(
        path,
        place.containers.entrySet().stream()
            .map(e -> new Container(e.getKey(), e.getValue()))
            .toList(),
        Pages.made(place.assets, asset -> search.hit(asset, List.of(), 1)),
        place.assets.size(),
        path.isEmpty() ? catalog.hidden() : 0,
        null);
  }

  private Tree tree() {
    if (!Sight.now().isWhole()) {
      return new Tree(null, -1, places(catalog.seen()));
    }
    WordIndex<Asset> index = catalog.words();
    int version = index.version();
    Tree known = tree;
    if (known.index() == index && known.version() == version) {
      return known;
    }
    Tree made = new Tree(index, version, places(index.all()));
    tree = made;
    return made;
  }

  private static Map<List<String>, Place> places(Collection<Asset> assets) {
    var places = new HashMap<List<String>, Place>();
    for (Asset asset : assets) {
      var path = new ArrayList<String>(List.of(asset.system()));
      path.addAll(asset.card().container());
      places.computeIfAbsent(List.copyOf(path), k -> new Place()).assets.add(asset);
      for (int depth = 0; depth < path.size(); depth++) {
        places
            .computeIfAbsent(List.copyOf(path.subList(0, depth)), k -> new Place())
            .containers
            .merge(path.get(depth), 1, Integer::sum);
      }
    }
    // A pipeline is the container of its tasks; it is opened as such and not listed beside itself.
    for (Place place : places.values()) {
      place.assets.sort(
          Comparator.comparing(
                  (Asset asset) -> place.containers.containsKey(asset.card().name()) ? 0 : 1)
              .thenComparing(asset -> asset.kind().word())
              .thenComparing(asset -> asset.card().name()));
    }
    return places;
  }
}
