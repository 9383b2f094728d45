package longthread.service.apply;

import com.github.benmanes.caffeine.cache.Cache;
import java.time.Instant;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import longthread.core.event.FacetFact;
import longthread.service.storage.facts.FacetQueries;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;

/** Which schema a dataset had when, as far as events reported it. */
final class SchemaHistory {
  private static final long MAX_CHANGES = 200_000;

  private final FacetQueries stored;
  private final CurrentFacets current;
  private final Cache<Long, TreeMap<Instant, String>> changes =
      WeightedCache.of(MAX_CHANGES, times -> 1 + times.size());

  SchemaHistory(FacetQueries stored, CurrentFacets current) {
    this.stored = stored;
    this.current = current;
  }

  void forget() {
    changes.invalidateAll();
  }

  /** Drops what is cached of datasets of which another schema was reported. */
  void forget(Collection<Long> datasets) {
    changes.invalidateAll(datasets);
  }

  /** Reads the changes of the schemas of these datasets, unless they are cached. */
  Map<Long, TreeMap<Instant, String>> load(Collection<Long> datasets) {
    Map<Long, TreeMap<Instant, String>> loaded = new HashMap<>(changes.getAllPresent(datasets));
    Long[] missing =
        datasets.stream().filter(id -> !loaded.containsKey(id)).distinct().toArray(Long[]::new);
    if (missing.length == 0) {
      return loaded;
    }
    List<FacetQueries.Moment> rows = stored.schemaChanges(missing);
    var digests = new HashSet<String>();
    rows.forEach(row -> digests.add(row.digest()));
    Map<String, JsonNode> values = current.values(digests);
    for (Long id : missing) {
      loaded.put(id, new TreeMap<>());
    }
    for (FacetQueries.Moment row : rows) {
      // A schema without columns is no schema, and wipes none.
      if (!FacetFact.tellsNothing("schema", values.get(row.digest()))) {
        loaded.get(row.subject()).put(Instant.ofEpochSecond(row.atS(), row.atN()), row.digest());
      }
    }
    for (Long id : missing) {
      changes.put(id, loaded.get(id));
    }
    return loaded;
  }

  /**
   * The digest of the schema at a moment, else of the earliest one known later; null if none is.
   */
  @Nullable String at(long dataset, Instant moment) {
    TreeMap<Instant, String> times = changes.getIfPresent(dataset);
    if (times == null) {
      times = load(List.of(dataset)).get(dataset);
    }
    if (times.isEmpty()) {
      return null;
    }
    Map.Entry<Instant, String> then = times.floorEntry(moment);
    return then == null ? times.firstEntry().getValue() : then.getValue();
  }
}
