package longthread.service.apply;

import com.github.benmanes.caffeine.cache.Cache;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import longthread.core.event.FacetFact;
import longthread.core.event.ReadSchemas;
import longthread.core.json.CanonicalJson;
import longthread.service.storage.StoredText;
import longthread.service.storage.facts.FacetQueries;
import longthread.service.storage.facts.SubjectKind;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;

/** Which schema a dataset had when, as far as events reported it. */
final class SchemaHistory {
  private static final long MAX_CHANGES = 200_000;
  private static final String READ = "read:"; // before the digest of what readers report together

  private final FacetQueries stored;
  private final CurrentFacets current;
  private final Cache<Long, TreeMap<Instant, String>> changes =
      WeightedCache.of(MAX_CHANGES, times -> 1 + times.size());

  SchemaHistory(FacetQueries stored, CurrentFacets current) {
    this.stored = stored;
    this.current = current;
  }

  /** What readers report together, by digest: as many as there are datasets with such. */
  private final Cache<String, byte[]> readSchemas = WeightedCache.of(MAX_CHANGES, any -> 1);

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
    List<FacetQueries.Moment> rows =
        stored.changes(SubjectKind.DATASET.code(), FacetFact.SCHEMA, missing);
    var digests = new HashSet<String>();
    rows.forEach(row -> digests.add(row.digest()));
    Map<String, JsonNode> values = current.values(digests);
    for (Long id : missing) {
      loaded.put(id, new TreeMap<>());
    }
    for (FacetQueries.Moment row : rows) {
      // A schema without columns is no schema, and wipes none.
      TreeMap<Instant, String> times = loaded.get(row.subject());
      boolean changes = times.isEmpty() || !times.lastEntry().getValue().equals(row.digest());
      if (changes && !FacetFact.tellsNothing(FacetFact.SCHEMA, values.get(row.digest()))) {
        times.put(Instant.ofEpochSecond(row.atS(), row.atN()), row.digest());
      }
    }
    addRead(loaded, Arrays.stream(missing).filter(id -> loaded.get(id).isEmpty()).toList());
    for (Long id : missing) {
      changes.put(id, loaded.get(id));
    }
    return loaded;
  }

  /** Where no writer reported a schema, what readers did counts, all of it and at any time. */
  private void addRead(Map<Long, TreeMap<Instant, String>> loaded, List<Long> unwritten) {
    if (unwritten.isEmpty()) {
      return;
    }
    var read = new LinkedHashMap<Long, List<String>>();
    for (FacetQueries.Moment row :
        stored.valuesEver(FacetFact.READ_SCHEMA, unwritten.toArray(Long[]::new))) {
      read.computeIfAbsent(row.subject(), k -> new ArrayList<>()).add(row.digest());
    }
    var digests = new HashSet<String>();
    read.values().forEach(digests::addAll);
    Map<String, JsonNode> values = current.values(digests);
    read.forEach(
        (id, newestFirst) -> {
          JsonNode union = ReadSchemas.union(newestFirst.stream().map(values::get).toList());
          if (!union.path("fields").isEmpty()) {
            String text = CanonicalJson.text(union);
            String digest = READ + CanonicalJson.digest(text);
            readSchemas.put(digest, StoredText.packed(text));
            loaded.get(id).put(Instant.MIN, digest);
          }
        });
  }

  /**
   * The schema with a digest that {@link #at} gave; null if it is one that a facet holds.
   *
   * @throws IllegalStateException if it was given too long ago
   */
  @Nullable JsonNode readSchema(String digest) {
    if (!digest.startsWith(READ)) {
      return null;
    }
    byte[] schema = readSchemas.getIfPresent(digest);
    if (schema == null) {
      throw new IllegalStateException("a schema was given and is forgotten");
    }
    return StoredText.json(schema);
  }

  /** Since when a writer reports the schema of a dataset as it is; null if none does. */
  @Nullable Instant since(long dataset) {
    TreeMap<Instant, String> times = times(dataset);
    return times.isEmpty() || times.firstKey().equals(Instant.MIN) ? null : times.lastKey();
  }

  /** The schema that readers of a dataset report together; null if a writer reports one. */
  @Nullable JsonNode asRead(long dataset) {
    TreeMap<Instant, String> times = times(dataset);
    return times.isEmpty() ? null : readSchema(times.lastEntry().getValue());
  }

  /** Whether no schema is known of a dataset that was reported by a moment. */
  boolean isBeforeAll(long dataset, Instant moment) {
    return times(dataset).floorKey(moment) == null;
  }

  private TreeMap<Instant, String> times(long dataset) {
    TreeMap<Instant, String> times = changes.getIfPresent(dataset);
    return times == null ? load(List.of(dataset)).get(dataset) : times;
  }

  /**
   * The digest of the schema at a moment, else of the earliest one known later; null if none is.
   */
  @Nullable String at(long dataset, Instant moment) {
    TreeMap<Instant, String> times = times(dataset);
    if (times.isEmpty()) {
      return null;
    }
    Map.Entry<Instant, String> then = times.floorEntry(moment);
    return then == null ? times.firstEntry().getValue() : then.getValue();
  }
}
