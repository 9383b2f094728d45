package longthread.service.intake;

import java.time.Instant;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import longthread.service.web.StoredText;
import org.jspecify.annotations.Nullable;
import org.springframework.jdbc.core.JdbcTemplate;
import tools.jackson.databind.JsonNode;

/** Which value of each facet stands now, and the values by their digests. */
final class CurrentFacets {
  private static final long VALUES_WEIGHT = 24 << 20; // bytes of compressed text
  private static final int MOST_SUBJECTS = 40_000;

  /** The value that stands for a facet, with when it was stated. */
  record Winner(Instant at, String digest) {
    boolean beats(@Nullable Winner other) {
      int time = other == null ? 1 : at.compareTo(other.at);
      return time != 0 ? time > 0 : digest.compareTo(other.digest) > 0;
    }
  }

  private record Value(JsonNode value, int weight) {}

  private final JdbcTemplate jdbc;
  private final Remembered<String, Value> values = new Remembered<>(VALUES_WEIGHT, Value::weight);
  private final Remembered<Subject, Map<String, Winner>> winners =
      new Remembered<>(MOST_SUBJECTS, any -> 1);
  private @Nullable Set<Long> oldNames; // datasets that got another name; null until asked for

  CurrentFacets(JdbcTemplate jdbc) {
    this.jdbc = jdbc;
  }

  void forget() {
    values.clear();
    winners.clear();
    oldNames = null;
  }

  /** Whether a value is stored, as far as it is remembered. */
  boolean hasValue(String digest) {
    return values.has(digest);
  }

  /** Remembers a value that was just stored. */
  void stored(String digest, JsonNode value, int packedLength) {
    values.put(digest, new Value(value, packedLength));
  }

  /** Remembers that a dataset got another name. */
  void renamed(long dataset) {
    oldNames().add(dataset);
  }

  boolean anyRenamed() {
    return !oldNames().isEmpty();
  }

  private Set<Long> oldNames() {
    if (oldNames == null) {
      oldNames = new HashSet<>(jdbc.queryForList("select from_dataset from renamed", Long.class));
    }
    return oldNames;
  }

  /** The winners of subjects; those of one subject are one map, whoever asks for them. */
  Map<Subject, Map<String, Winner>> winners(Collection<Subject> subjects) {
    var now = new HashMap<Subject, Map<String, Winner>>();
    for (Subject subject : subjects) {
      Map<String, Winner> known = winners.get(subject);
      if (known != null) {
        now.put(subject, known);
      }
    }
    for (int kind : new int[] {Subject.DATASET, Subject.JOB}) {
      Long[] ids =
          subjects.stream()
              .filter(s -> s.kind() == kind && !now.containsKey(s))
              .map(Subject::id)
              .toArray(Long[]::new);
      if (ids.length == 0) {
        continue;
      }
      for (Long id : ids) {
        var subject = new Subject(kind, id);
        now.put(subject, new HashMap<>());
        winners.put(subject, now.get(subject));
      }
      jdbc.query(
          "select subject_id, key, at_s, at_n, encode(digest, 'hex') from facet_now"
              + " where subject_kind = ? and subject_id = any(?)",
          row -> {
            var at = Instant.ofEpochSecond(row.getLong(3), row.getInt(4));
            now.get(new Subject(kind, row.getLong(1)))
                .put(row.getString(2), new Winner(at, row.getString(5)));
          },
          kind,
          ids);
    }
    return now;
  }

  /** Those of some datasets of which a drop, a rename or the like was told. */
  Set<Subject> withLife(Collection<Subject> datasets) {
    Set<Long> renamed = oldNames();
    var found = new HashSet<Subject>();
    winners(datasets)
        .forEach(
            (subject, facets) -> {
              if (facets.containsKey("lifecycleStateChange") || renamed.contains(subject.id())) {
                found.add(subject);
              }
            });
    return found;
  }

  /** The current facets of subjects, by key. */
  Map<Subject, Map<String, JsonNode>> of(Collection<Subject> subjects) {
    Map<Subject, Map<String, Winner>> now = winners(subjects);
    var digests = new HashSet<String>();
    now.values().forEach(facets -> facets.values().forEach(w -> digests.add(w.digest())));
    Map<String, JsonNode> known = values(digests);
    var current = new HashMap<Subject, Map<String, JsonNode>>();
    now.forEach(
        (subject, facets) -> {
          var byKey = new HashMap<String, JsonNode>();
          facets.forEach((key, winner) -> byKey.put(key, known.get(winner.digest())));
          current.put(subject, byKey);
        });
    return current;
  }

  /** The values with these digests. */
  Map<String, JsonNode> values(Set<String> digests) {
    var found = new HashMap<String, JsonNode>();
    var missing = new TreeSet<String>();
    for (String digest : digests) {
      Value value = values.get(digest);
      if (value == null) {
        missing.add(digest);
      } else {
        found.put(digest, value.value());
      }
    }
    if (!missing.isEmpty()) {
      jdbc.query(
          "select encode(digest, 'hex'), body from facet_body where digest = any(?)",
          row -> {
            byte[] packed = row.getBytes(2);
            JsonNode value = StoredText.json(packed);
            stored(row.getString(1), value, packed.length);
            found.put(row.getString(1), value);
          },
          (Object) missing.stream().map(FactRows::bytes).toArray(byte[][]::new));
    }
    return found;
  }
}
