package longthread.service.intake;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.TreeMap;
import longthread.core.event.FacetFact;
import org.jspecify.annotations.Nullable;
import org.springframework.jdbc.core.JdbcTemplate;
import tools.jackson.databind.JsonNode;

/** Which schema a dataset had when, as far as it was told. */
final class SchemaTimes {
  private static final long MOST = 200_000; // changes of schemas

  private final JdbcTemplate jdbc;
  private final CurrentFacets current;
  private final Remembered<Long, TreeMap<Instant, String>> changes =
      new Remembered<>(MOST, times -> 1 + times.size());

  SchemaTimes(JdbcTemplate jdbc, CurrentFacets current) {
    this.jdbc = jdbc;
    this.current = current;
  }

  void forget() {
    changes.clear();
  }

  /** Drops what is remembered of datasets of which another schema was told. */
  void forget(Collection<Long> datasets) {
    datasets.forEach(changes::remove);
  }

  /** Reads the changes of the schemas of these datasets, unless they are remembered. */
  void load(Collection<Long> datasets) {
    Long[] missing = datasets.stream().filter(id -> !changes.has(id)).toArray(Long[]::new);
    if (missing.length == 0) {
      return;
    }
    record Row(long dataset, Instant at, String digest) {}
    List<Row> rows = new ArrayList<>();
    jdbc.query(
        "select subject_id, at_s, at_n, encode(digest, 'hex') from (select subject_id, at_s, at_n,"
            + " digest, lag(digest) over (partition by subject_id order by at_s, at_n, digest)"
            + " as before from facet where subject_kind = ? and key = 'schema' and not far"
            + " and subject_id = any(?)) told where before is distinct from digest"
            + " order by subject_id, at_s, at_n, digest",
        row -> {
          rows.add(
              new Row(
                  row.getLong(1),
                  Instant.ofEpochSecond(row.getLong(2), row.getInt(3)),
                  row.getString(4)));
        },
        Subject.DATASET,
        missing);
    var digests = new HashSet<String>();
    rows.forEach(row -> digests.add(row.digest()));
    Map<String, JsonNode> values = current.values(digests);
    var times = new HashMap<Long, TreeMap<Instant, String>>();
    for (Row row : rows) {
      // A schema without columns is no schema, and wipes none.
      if (!FacetFact.tellsNothing("schema", values.get(row.digest()))) {
        times.computeIfAbsent(row.dataset(), k -> new TreeMap<>()).put(row.at(), row.digest());
      }
    }
    for (Long id : missing) {
      changes.put(id, times.getOrDefault(id, new TreeMap<>()));
    }
  }

  /**
   * The digest of the schema at a moment, else of the earliest one known later; null if none is.
   */
  @Nullable String at(long dataset, Instant moment) {
    load(List.of(dataset)); // unless it is remembered, as after preparing it mostly is
    TreeMap<Instant, String> times = Objects.requireNonNull(changes.get(dataset));
    if (times.isEmpty()) {
      return null;
    }
    Map.Entry<Instant, String> then = times.floorEntry(moment);
    return then == null ? times.firstEntry().getValue() : then.getValue();
  }
}
