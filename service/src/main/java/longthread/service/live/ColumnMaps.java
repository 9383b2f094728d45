package longthread.service.live;

import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import longthread.core.asset.Card;
import longthread.service.storage.graph.LinkQueries;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Component;

/**
 * Of which output columns each job or dataset reports the sources: what makes lineage complete
 * enough to be certain of. One thread changes it, any number read it.
 */
@Component
public class ColumnMaps {
  /** By the asset's reference, the columns that an owner reports the sources of. */
  private record ColumnMap(Map<String, Set<String>> described, boolean gap) {}

  private final LinkQueries links;
  private final Catalog catalog;
  private final Map<String, ColumnMap> maps = new ConcurrentHashMap<>();

  ColumnMaps(LinkQueries links, Catalog catalog) {
    this.links = links;
    this.catalog = catalog;
  }

  /** Reads all maps anew. */
  void reload() {
    Map<String, ColumnMap> read = read(links.described());
    maps.keySet().retainAll(read.keySet());
    maps.putAll(read);
  }

  /** Reads the maps of these owners anew. */
  void reload(String[] owners) {
    maps.putAll(read(links.describedBy(owners)));
  }

  private Map<String, ColumnMap> read(List<LinkQueries.Described> rows) {
    var read = new HashMap<String, ColumnMap>();
    for (LinkQueries.Described row : rows) {
      var described = new HashMap<String, Set<String>>();
      for (String column : row.columns()) {
        int hash = column.indexOf('#');
        described
            .computeIfAbsent(catalog.leadOf(column.substring(0, hash)), k -> new HashSet<>())
            .add(column.substring(hash + 1));
      }
      read.put(row.owner(), new ColumnMap(described, row.gap()));
    }
    return read;
  }

  /**
   * What is missing before an owner's column map into an asset can be called complete, in words;
   * null if it is complete.
   */
  public @Nullable String missing(String owner, String target) {
    ColumnMap map = maps.get(owner);
    Set<String> described = map == null ? Set.of() : map.described().getOrDefault(target, Set.of());
    if (map == null || described.isEmpty()) {
      return owner + " reports nothing about the columns of " + target;
    }
    if (map.gap()) {
      return "the emitter of " + owner + " could not read parts of it";
    }
    Collection<Card.Column> columns =
        catalog.asset(target).map(asset -> asset.card().columns()).orElse(List.of());
    List<String> lacking =
        columns.stream().map(Card.Column::path).filter(path -> !described.contains(path)).toList();
    return lacking.isEmpty()
        ? null
        : owner
            + " does not report the sources of "
            + lacking.size()
            + " of "
            + columns.size()
            + " columns of "
            + target
            + ", such as "
            + lacking.get(0);
  }
}
