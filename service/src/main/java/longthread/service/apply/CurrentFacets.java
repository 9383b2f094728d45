package longthread.service.apply;

import com.github.benmanes.caffeine.cache.Cache;
import java.time.Instant;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import java.util.function.Predicate;
import java.util.stream.Collectors;
import longthread.service.storage.Columns;
import longthread.service.storage.StoredText;
import longthread.service.storage.facts.FacetQueries;
import longthread.service.storage.facts.RenameQueries;
import longthread.service.storage.facts.Subject;
import longthread.service.storage.facts.SubjectKind;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;

/** Which value of each facet stands now, and the values by their digests. */
final class CurrentFacets {
  private static final long MAX_VALUE_BYTES =
      24 << 20; // of compressed text; trees take 20 times that
  private static final int MAX_SUBJECTS = 40_000;

  /** The value that stands for a facet, with when it was reported. */
  record Winner(Instant at, String digest) {
    boolean beats(@Nullable Winner other) {
      int time = other == null ? 1 : at.compareTo(other.at);
      return time != 0 ? time > 0 : digest.compareTo(other.digest) > 0;
    }
  }

  private final FacetQueries stored;
  private final RenameQueries renames;
  private final Cache<String, byte[]> values =
      WeightedCache.of(MAX_VALUE_BYTES, packed -> packed.length);
  private final Cache<Subject, Map<String, Winner>> winners =
      WeightedCache.of(MAX_SUBJECTS, any -> 1);
  private @Nullable Set<Long> oldNames; // datasets that got another name; null until asked for
  private @Nullable Set<Long> livesReported; // that were created, dropped and so on; as above

  CurrentFacets(FacetQueries stored, RenameQueries renames) {
    this.stored = stored;
    this.renames = renames;
  }

  void forget() {
    values.invalidateAll();
    winners.invalidateAll();
    oldNames = null;
    livesReported = null;
  }

  /** Whether a value is known to be stored. */
  boolean hasValue(String digest) {
    return values.getIfPresent(digest) != null;
  }

  /** Caches a value that was just stored, compressed. */
  void stored(String digest, byte[] packed) {
    values.put(digest, packed);
  }

  /** Notes that a dataset was reported as created, dropped or the like. */
  void lifeReported(long dataset) {
    livesReported().add(dataset);
  }

  private Set<Long> livesReported() {
    if (livesReported == null) {
      livesReported = new HashSet<>(stored.withLifeCycle());
    }
    return livesReported;
  }

  /** Notes that a dataset got another name. */
  void renamed(long dataset) {
    oldNames().add(dataset);
  }

  boolean anyRenamed() {
    return !oldNames().isEmpty();
  }

  private Set<Long> oldNames() {
    if (oldNames == null) {
      oldNames = new HashSet<>(renames.oldNames());
    }
    return oldNames;
  }

  /** The winners of subjects; those of one subject are one map, whoever asks for them. */
  Map<Subject, Map<String, Winner>> winners(Collection<Subject> subjects) {
    var now = new HashMap<>(winners.getAllPresent(subjects));
    for (SubjectKind kind : SubjectKind.values()) {
      Long[] ids =
          subjects.stream()
              .filter(s -> s.kind() == kind && !now.containsKey(s))
              .map(Subject::id)
              .toArray(Long[]::new);
      if (ids.length == 0) {
        continue;
      }
      for (Long id : ids) {
        now.put(new Subject(kind, id), new HashMap<>());
      }
      for (FacetQueries.Current row : stored.current(kind.code(), ids)) {
        now.get(new Subject(kind, row.subject()))
            .put(row.key(), new Winner(Instant.ofEpochSecond(row.atS(), row.atN()), row.digest()));
      }
      for (Long id : ids) {
        var subject = new Subject(kind, id);
        winners.put(subject, now.get(subject));
      }
    }
    return now;
  }

  /** Those of some datasets of which a drop, a rename or the like was reported. */
  Set<Subject> withLife(Collection<Subject> datasets) {
    Set<Long> renamed = oldNames();
    Set<Long> reported = livesReported();
    return datasets.stream()
        .filter(dataset -> reported.contains(dataset.id()) || renamed.contains(dataset.id()))
        .collect(Collectors.toSet());
  }

  /** All current facets of subjects, by key. */
  Map<Subject, Map<String, JsonNode>> of(Collection<Subject> subjects) {
    return of(subjects, key -> true);
  }

  /** The current facets of subjects with some keys, by key. */
  Map<Subject, Map<String, JsonNode>> of(Collection<Subject> subjects, Predicate<String> wanted) {
    Map<Subject, Map<String, Winner>> now = winners(subjects);
    var digests = new HashSet<String>();
    now.values()
        .forEach(
            facets ->
                facets.forEach(
                    (key, winner) -> {
                      if (wanted.test(key)) {
                        digests.add(winner.digest());
                      }
                    }));
    Map<String, JsonNode> known = values(digests);
    var current = new HashMap<Subject, Map<String, JsonNode>>();
    now.forEach(
        (subject, facets) -> {
          var byKey = new HashMap<String, JsonNode>();
          facets.forEach(
              (key, winner) -> {
                if (wanted.test(key)) {
                  byKey.put(key, known.get(winner.digest()));
                }
              });
          current.put(subject, byKey);
        });
    return current;
  }

  /** The values with these digests. */
  Map<String, JsonNode> values(Set<String> digests) {
    var found = new HashMap<String, JsonNode>();
    var missing = new TreeSet<String>();
    for (String digest : digests) {
      byte[] packed = values.getIfPresent(digest);
      if (packed == null) {
        missing.add(digest);
      } else {
        found.put(digest, StoredText.json(packed));
      }
    }
    if (!missing.isEmpty()) {
      for (FacetQueries.Body row : stored.bodies(Columns.digests(missing))) {
        stored(row.digest(), row.body());
        found.put(row.digest(), StoredText.json(row.body()));
      }
    }
    return found;
  }
}
