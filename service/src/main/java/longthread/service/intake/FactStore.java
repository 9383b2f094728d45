package longthread.service.intake;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.UUID;
import java.util.function.Function;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import longthread.core.event.CanonicalJson;
import longthread.core.event.EventFacts;
import longthread.core.event.FacetFact;
import longthread.core.event.Rename;
import longthread.core.event.RunFact;
import longthread.core.event.Stated;
import longthread.service.web.StoredText;
import org.jspecify.annotations.Nullable;
import org.springframework.jdbc.core.JdbcTemplate;
import tools.jackson.databind.JsonNode;

/**
 * Writes facts, in sets: a batch of events costs a bounded number of statements. Every write is an
 * insert that ignores what is there, or an update to the greater or lesser of two; so the order of
 * batches does not matter.
 *
 * <p>It remembers what it wrote lately, so it must be the only writer; see {@link #forget}.
 */
final class FactStore {
  static final int DATASET = 1;
  static final int JOB = 2;
  static final int OF_RUN = 0;
  static final int OF_INPUT = 1;
  static final int OF_OUTPUT = 2;
  static final int OF_CODE = 3;

  private static final List<String> CODE_FACETS =
      List.of("sql", "sourceCode", "sourceCodeLocation");
  private static final long BODIES_WEIGHT = 24 << 20; // bytes of compressed text
  private static final int MOST_SUBJECTS = 40_000;
  private static final int MOST_IDS = 2_000_000;

  /** A dataset or job by its id. */
  record Subject(int kind, long id) {}

  /** The value that stands for a facet now. */
  record Winner(long second, int nano, String digest) {
    boolean beats(@Nullable Winner other) {
      if (other == null || second != other.second) {
        return other == null || second > other.second;
      }
      return nano != other.nano ? nano > other.nano : digest.compareTo(other.digest) > 0;
    }
  }

  /** An event together with the block that brought it. */
  record Brought(EventFacts event, long block) {}

  /** A run of a job, as it is keyed. */
  record RunKey(UUID run, long job) {}

  private record Body(JsonNode value, int weight) {}

  /**
   * What a batch changed.
   *
   * @param facets the keys of the facets of which another value stands now
   * @param described what was only mentioned before, or not even that
   * @param runs what was told of which run
   * @param words for each event what was new in it
   */
  record Written(
      Map<Subject, Set<String>> facets,
      Set<Subject> described,
      Map<RunKey, Moments> runs,
      List<Set<String>> words) {}

  private final JdbcTemplate jdbc;
  private final Map<DatasetName, Long> datasetIds = new HashMap<>();
  private final Map<JobName, Long> jobIds = new HashMap<>();
  private final Remembered<String, Body> bodies = new Remembered<>(BODIES_WEIGHT, Body::weight);
  private final Remembered<Subject, Map<String, Winner>> winners =
      new Remembered<>(MOST_SUBJECTS, any -> 1);
  private final Set<Subject> described = new HashSet<>();
  private @Nullable Set<Long> oldNames; // datasets that got another name; null until asked for

  FactStore(JdbcTemplate jdbc) {
    this.jdbc = jdbc;
  }

  /** Drops all that is remembered: after a transaction was rolled back, or another wrote. */
  void forget() {
    datasetIds.clear();
    jobIds.clear();
    bodies.clear();
    winners.clear();
    described.clear();
    oldNames = null;
  }

  long id(DatasetName name) {
    return datasetIds.get(name);
  }

  long id(JobName name) {
    return jobIds.get(name);
  }

  /** Gives ids to all names that have none yet; returns the references that are new. */
  Set<String> internDatasets(Collection<DatasetName> names) {
    return intern("dataset", names, DatasetName::reference, datasetIds);
  }

  Set<String> internJobs(Collection<JobName> names) {
    return intern("job", names, JobName::reference, jobIds);
  }

  private <N> Set<String> intern(
      String table, Collection<N> names, Function<N, String> reference, Map<N, Long> ids) {
    if (ids.size() > MOST_IDS) {
      ids.clear();
    }
    var unknown = new TreeMap<String, N>();
    for (N name : names) {
      if (!ids.containsKey(name)) {
        unknown.put(reference.apply(name), name);
      }
    }
    var fresh = new HashSet<String>();
    if (unknown.isEmpty()) {
      return fresh;
    }
    jdbc.query(
        "select id, ref from " + table + " where ref = any(?)",
        row -> {
          ids.put(unknown.remove(row.getString(2)), row.getLong(1));
        },
        (Object) unknown.keySet().toArray(String[]::new));
    if (!unknown.isEmpty()) {
      fresh.addAll(unknown.keySet());
      jdbc.query(
          "insert into " + table + " (ref) select unnest(?) returning id, ref",
          row -> {
            ids.put(unknown.get(row.getString(2)), row.getLong(1));
          },
          (Object) unknown.keySet().toArray(String[]::new));
    }
    return fresh;
  }

  /** Writes the facts of events, whose names all have ids. */
  Written write(List<Brought> events) {
    var rows = new Rows(winnersOf(subjectsOf(events)));
    var words = new ArrayList<Set<String>>();
    for (Brought brought : events) {
      var changed = new LinkedHashSet<String>();
      rows.add(brought, changed);
      words.add(changed);
    }
    rows.write();
    return new Written(rows.changedFacets, rows.newlyDescribed, rows.moments, words);
  }

  private Set<Subject> subjectsOf(List<Brought> events) {
    var subjects = new HashSet<Subject>();
    for (Brought brought : events) {
      for (FacetFact fact : brought.event().facets()) {
        Subject subject = subject(fact.subject());
        if (subject != null) {
          subjects.add(subject);
        }
      }
    }
    return subjects;
  }

  private @Nullable Subject subject(FacetFact.Subject of) {
    if (of instanceof FacetFact.OfDataset dataset) {
      return new Subject(DATASET, id(dataset.dataset()));
    }
    return of instanceof FacetFact.OfJob job ? new Subject(JOB, id(job.job())) : null;
  }

  /** The winners of subjects; those of one subject are one map, whoever asks for them. */
  private Map<Subject, Map<String, Winner>> winnersOf(Collection<Subject> subjects) {
    var now = new HashMap<Subject, Map<String, Winner>>();
    for (Subject subject : subjects) {
      Map<String, Winner> known = winners.get(subject);
      if (known != null) {
        now.put(subject, known);
      }
    }
    for (int kind : new int[] {DATASET, JOB}) {
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
            now.get(new Subject(kind, row.getLong(1)))
                .put(row.getString(2), new Winner(row.getLong(3), row.getInt(4), row.getString(5)));
          },
          kind,
          ids);
    }
    return now;
  }

  /** Those of some datasets of which a drop, a rename or the like was told. */
  Set<Subject> withLife(Collection<Subject> datasets) {
    if (oldNames == null) {
      oldNames = new HashSet<>(jdbc.queryForList("select from_dataset from renamed", Long.class));
    }
    var found = new HashSet<Subject>();
    winnersOf(datasets)
        .forEach(
            (subject, facets) -> {
              if (facets.containsKey("lifecycleStateChange") || oldNames.contains(subject.id())) {
                found.add(subject);
              }
            });
    return found;
  }

  /** The current facets of subjects, by key. */
  Map<Subject, Map<String, JsonNode>> current(Collection<Subject> subjects) {
    Map<Subject, Map<String, Winner>> now = winnersOf(subjects);
    var digests = new HashSet<String>();
    now.values().forEach(facets -> facets.values().forEach(w -> digests.add(w.digest())));
    Map<String, JsonNode> values = values(digests);
    var current = new HashMap<Subject, Map<String, JsonNode>>();
    now.forEach(
        (subject, facets) -> {
          var byKey = new HashMap<String, JsonNode>();
          facets.forEach((key, winner) -> byKey.put(key, values.get(winner.digest())));
          current.put(subject, byKey);
        });
    return current;
  }

  /** The values with these digests. */
  Map<String, JsonNode> values(Set<String> digests) {
    var values = new HashMap<String, JsonNode>();
    var missing = new TreeSet<String>();
    for (String digest : digests) {
      Body body = bodies.get(digest);
      if (body == null) {
        missing.add(digest);
      } else {
        values.put(digest, body.value());
      }
    }
    if (!missing.isEmpty()) {
      byte[][] raw = missing.stream().map(FactStore::hex).toArray(byte[][]::new);
      jdbc.query(
          "select encode(digest, 'hex'), body from facet_body where digest = any(?)",
          row -> {
            byte[] packed = row.getBytes(2);
            JsonNode value = StoredText.json(packed);
            bodies.put(row.getString(1), new Body(value, packed.length));
            values.put(row.getString(1), value);
          },
          (Object) raw);
    }
    return values;
  }

  /** The rows of one batch. */
  private final class Rows {
    private final Map<Subject, Map<String, Winner>> now;
    private final Map<String, byte[]> newBodies = new TreeMap<>();
    private final Map<String, JsonNode> newValues = new HashMap<>();
    private final Set<List<Object>> facets = new LinkedHashSet<>();
    private final Map<Subject, Set<String>> moved = new LinkedHashMap<>();
    private final Map<Subject, Set<String>> changedFacets = new LinkedHashMap<>();
    private final Set<List<Object>> runFacets = new LinkedHashSet<>();
    private final Map<RunKey, Moments> moments = new LinkedHashMap<>();
    private final Map<String, Stated> shapes = new TreeMap<>();
    private final Set<List<Object>> runShapes = new LinkedHashSet<>();
    private final Set<List<Object>> declared = new LinkedHashSet<>();
    private final Map<Subject, Long> describedNow = new LinkedHashMap<>();
    private final Set<Subject> newlyDescribed = new LinkedHashSet<>();
    private final Set<List<Object>> renamed = new LinkedHashSet<>();

    Rows(Map<Subject, Map<String, Winner>> now) {
      this.now = now;
    }

    void add(Brought brought, Set<String> words) {
      EventFacts event = brought.event();
      long block = brought.block();
      Instant at = event.at().at();
      boolean far = event.at().farFuture();
      for (FacetFact fact : event.facets()) {
        if (!bodies.has(fact.digest()) && !newBodies.containsKey(fact.digest())) {
          newBodies.put(fact.digest(), StoredText.packed(CanonicalJson.text(fact.value())));
          newValues.put(fact.digest(), fact.value());
        }
        facet(event, fact, block, words);
      }
      if (!event.shape().isEmpty()) {
        shapes.putIfAbsent(event.stated().digest(), event.stated());
        byte[] digest = hex(event.stated().digest());
        if (event.run().isPresent()) {
          RunFact run = event.run().get();
          runShapes.add(key(run.run(), id(run.job()), event.stated().digest(), digest, block));
        } else if (event.job() != null) {
          declare(new Subject(JOB, id(event.job())), event.stated(), at, far, block);
        }
      }
      event
          .declared()
          .forEach(
              (dataset, stated) -> {
                shapes.putIfAbsent(stated.digest(), stated);
                declare(new Subject(DATASET, id(dataset)), stated, at, far, block);
              });
      event
          .run()
          .filter(run -> !run.farFuture())
          .ifPresent(
              run ->
                  moments
                      .computeIfAbsent(new RunKey(run.run(), id(run.job())), k -> new Moments())
                      .add(run, block));
      for (Rename rename : event.renames()) {
        if (oldNames != null) {
          oldNames.add(id(rename.from()));
        }
        renamed.add(
            List.of(
                id(rename.from()),
                id(rename.to()),
                rename.at().getEpochSecond(),
                rename.at().getNano(),
                block));
        words.add("renamed " + rename.from().reference() + " to " + rename.to().reference());
      }
      describe(event, block, words);
    }

    private void describe(EventFacts event, long block, Set<String> words) {
      var subjects = new LinkedHashMap<Subject, String>();
      if (event.job() != null) {
        subjects.put(new Subject(JOB, id(event.job())), event.job().reference());
      }
      if (event.dataset() != null) {
        subjects.put(new Subject(DATASET, id(event.dataset())), event.dataset().reference());
      }
      event
          .shape()
          .outputs()
          .forEach(o -> subjects.put(new Subject(DATASET, id(o)), o.reference()));
      for (FacetFact fact : event.facets()) {
        if (fact.subject() instanceof FacetFact.OfDataset of) {
          subjects.put(new Subject(DATASET, id(of.dataset())), of.dataset().reference());
        }
      }
      subjects.forEach(
          (subject, ref) -> {
            if (!described.contains(subject) && describedNow.putIfAbsent(subject, block) == null) {
              newlyDescribed.add(subject);
            }
          });
    }

    private void declare(Subject owner, Stated stated, Instant at, boolean far, long block) {
      declared.add(
          key(
              owner.kind(),
              owner.id(),
              at.getEpochSecond(),
              at.getNano(),
              stated.digest(),
              hex(stated.digest()),
              far,
              block));
    }

    private void facet(EventFacts event, FacetFact fact, long block, Set<String> words) {
      String key = StoredText.clean(fact.key());
      Instant at = fact.at().at();
      if (fact.subject() instanceof FacetFact.OfDataset of) {
        subject(new Subject(DATASET, id(of.dataset())), fact, key, block, words);
      } else if (fact.subject() instanceof FacetFact.OfJob of) {
        subject(new Subject(JOB, id(of.job())), fact, key, block, words);
        if (event.run().isPresent() && CODE_FACETS.contains(key)) {
          runFacet(event.run().get().run(), id(of.job()), OF_CODE, 0, key, fact, at, block);
        }
      } else if (fact.subject() instanceof FacetFact.OfRun of) {
        runFacet(of.run(), id(of.job()), OF_RUN, 0, key, fact, at, block);
      } else if (fact.subject() instanceof FacetFact.OfRunDataset of) {
        int role = of.output() ? OF_OUTPUT : OF_INPUT;
        runFacet(of.run(), id(of.job()), role, id(of.dataset()), key, fact, at, block);
      }
    }

    private void runFacet(
        UUID run,
        long job,
        int role,
        long dataset,
        String key,
        FacetFact fact,
        Instant at,
        long block) {
      runFacets.add(
          key(
              run,
              job,
              role,
              dataset,
              key,
              at.getEpochSecond(),
              at.getNano(),
              fact.digest(),
              hex(fact.digest()),
              fact.at().farFuture(),
              block));
    }

    private void subject(
        Subject subject, FacetFact fact, String key, long block, Set<String> words) {
      Instant at = fact.at().at();
      boolean far = fact.at().farFuture();
      facets.add(
          key(
              subject.kind(),
              subject.id(),
              key,
              at.getEpochSecond(),
              at.getNano(),
              fact.digest(),
              hex(fact.digest()),
              far,
              block));
      // Some engines send an empty list of fields where they do not know them: it tells nothing.
      boolean emptySchema =
          key.equals("schema")
              && fact.value().path("fields").isEmpty()
              && !fact.value().path("_deleted").booleanValue(false);
      if (far || emptySchema) {
        return;
      }
      Map<String, Winner> winnersOfIt = now.get(subject);
      var winner = new Winner(at.getEpochSecond(), at.getNano(), fact.digest());
      Winner before = winnersOfIt.get(key);
      if (winner.beats(before)) {
        winnersOfIt.put(key, winner);
        moved.computeIfAbsent(subject, k -> new LinkedHashSet<>()).add(key);
        if (before == null || !before.digest().equals(fact.digest())) {
          changedFacets.computeIfAbsent(subject, k -> new LinkedHashSet<>()).add(key);
          words.add(key + " of " + name(fact.subject()) + (before == null ? " told" : " changed"));
        }
      }
    }

    private static String name(FacetFact.Subject subject) {
      String name =
          subject instanceof FacetFact.OfDataset of
              ? of.dataset().name()
              : subject instanceof FacetFact.OfJob job ? job.job().name() : "";
      return StoredText.clean(name.substring(name.lastIndexOf('/') + 1));
    }

    void write() {
      batch("insert into facet_body values (?, ?) on conflict do nothing", pairs(newBodies));
      newBodies.forEach(
          (digest, packed) -> bodies.put(digest, new Body(newValues.get(digest), packed.length)));
      batch(
          "insert into facet values (?, ?, ?, ?, ?, ?, ?, ?) on conflict do nothing",
          withoutText(facets, 5));
      batch(
          "insert into facet_now values (?, ?, ?, ?, ?, ?)"
              + " on conflict (subject_kind, subject_id, key) do update"
              + " set at_s = excluded.at_s, at_n = excluded.at_n, digest = excluded.digest",
          winnersNow());
      batch(
          "insert into run_facet values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?) on conflict do nothing",
          withoutText(runFacets, 7));
      var packedShapes = new TreeMap<String, byte[]>();
      shapes.forEach(
          (digest, stated) -> {
            if (!bodies.has("shape " + digest)) {
              packedShapes.put(digest, StoredText.packed(stated.text()));
              bodies.put("shape " + digest, new Body(CanonicalJson.MAPPER.nullNode(), 64));
            }
          });
      batch("insert into shape values (?, ?) on conflict do nothing", pairs(packedShapes));
      batch(
          "insert into run_shape values (?, ?, ?, ?) on conflict do nothing",
          withoutText(runShapes, 2));
      batch(
          "insert into declared values (?, ?, ?, ?, ?, ?, ?) on conflict do nothing",
          withoutText(declared, 4));
      var describing = new ArrayList<Object[]>();
      describedNow.forEach(
          (subject, block) -> describing.add(new Object[] {subject.kind(), subject.id(), block}));
      batch("insert into described values (?, ?, ?) on conflict do nothing", describing);
      if (described.size() > MOST_IDS) {
        described.clear();
      }
      described.addAll(describedNow.keySet());
      batch(
          "insert into renamed values (?, ?, ?, ?, ?) on conflict do nothing",
          renamed.stream().map(List::toArray).toList());
    }

    private List<Object[]> winnersNow() {
      var rows = new ArrayList<Object[]>();
      moved.forEach(
          (subject, keys) -> {
            for (String key : keys) {
              Winner winner = now.get(subject).get(key);
              rows.add(
                  new Object[] {
                    subject.kind(),
                    subject.id(),
                    key,
                    winner.second(),
                    winner.nano(),
                    hex(winner.digest())
                  });
            }
          });
      return rows;
    }
  }

  /** A row whose digest stands in it twice: as text, by which rows are equal, and as bytes. */
  private static List<Object> key(Object... cells) {
    return new Row(cells);
  }

  /** Rows are equal if all their cells but the bytes are; bytes are told by the text before. */
  private static final class Row extends java.util.AbstractList<Object> {
    private final Object[] cells;

    Row(Object[] cells) {
      this.cells = cells;
    }

    @Override
    public Object get(int index) {
      return cells[index];
    }

    @Override
    public int size() {
      return cells.length;
    }

    @Override
    public boolean equals(Object other) {
      if (!(other instanceof Row row) || row.cells.length != cells.length) {
        return false;
      }
      // The last cell is the block, of which any will do.
      for (int i = 0; i < cells.length - 1; i++) {
        if (!(cells[i] instanceof byte[]) && !cells[i].equals(row.cells[i])) {
          return false;
        }
      }
      return true;
    }

    @Override
    public int hashCode() {
      int hash = 1;
      for (int i = 0; i < cells.length - 1; i++) {
        hash = cells[i] instanceof byte[] ? hash : 31 * hash + cells[i].hashCode();
      }
      return hash;
    }
  }

  private static List<Object[]> withoutText(Set<List<Object>> rows, int text) {
    var bare = new ArrayList<Object[]>(rows.size());
    for (List<Object> row : rows) {
      var cells = new Object[row.size() - 1];
      for (int i = 0, at = 0; i < row.size(); i++) {
        if (i != text) {
          cells[at++] = row.get(i);
        }
      }
      bare.add(cells);
    }
    return bare;
  }

  private static List<Object[]> pairs(Map<String, byte[]> bodies) {
    var rows = new ArrayList<Object[]>();
    bodies.forEach((digest, body) -> rows.add(new Object[] {hex(digest), body}));
    return rows;
  }

  void batch(String sql, List<Object[]> rows) {
    if (!rows.isEmpty()) {
      jdbc.batchUpdate(sql, rows);
    }
  }

  static byte[] hex(String digest) {
    return HexFormat.of().parseHex(digest);
  }
}
