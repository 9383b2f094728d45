package longthread.service.intake;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Collections;
import java.util.HashMap;
import java.util.HashSet;
import java.util.IdentityHashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.SortedSet;
import java.util.TreeSet;
import java.util.UUID;
import longthread.core.asset.DatasetName;
import longthread.core.event.ColumnLink;
import longthread.core.event.Shape;
import longthread.core.event.ShapeText;
import longthread.core.history.JobHistory;
import longthread.core.history.JobLineage;
import longthread.core.history.JobLineage.HeldLink;
import longthread.core.history.JobLineage.Version;
import longthread.core.history.JobRun;
import longthread.core.history.LaidShape;
import longthread.service.intake.FactStore.RunKey;
import longthread.service.intake.FactStore.Subject;
import longthread.service.web.StoredText;
import org.jspecify.annotations.Nullable;
import org.springframework.jdbc.core.JdbcTemplate;
import tools.jackson.databind.JsonNode;

/**
 * Computes job versions and links with their validity from runs and declarations.
 *
 * <p>The runs and links of the jobs touched lately are kept in memory, so a batch asks only for
 * those of jobs that come back after a while, and writes only what differs. Links that were seen
 * last together share a span: another run of the same sort moves one row.
 */
final class JobWriter {
  private static final long HISTORIES_WEIGHT = 1_500_000; // runs and links
  private static final long SHAPES_WEIGHT = 1_000_000; // links

  /** What became of the owners of a batch. */
  record Changes(Set<Subject> relinked, Map<Long, Version> newVersions) {}

  /** A set of shapes, one object for each, and the union of them once it is made. */
  private static final class ShapeSet {
    private final SortedSet<String> digests;
    private @Nullable LaidShape laid;

    ShapeSet(SortedSet<String> digests) {
      this.digests = digests;
    }

    int weight() {
      LaidShape made = laid;
      return 1 + digests.size() + (made == null ? 0 : made.links().size());
    }
  }

  /** A run as it stands; changed in place, since nearly every event of a run changes something. */
  private static final class Run {
    private final UUID id;
    private Instant start = Instant.MAX;
    private @Nullable String code;
    private boolean completed;
    private boolean reported;
    private @Nullable ShapeSet shapes;

    Run(UUID id) {
      this.id = id;
    }

    JobRun asOf(boolean streaming) {
      LaidShape laid = shapes == null ? LaidShape.NONE : Objects.requireNonNull(shapes.laid);
      return new JobRun(id, start, code, completed || (streaming && reported), laid);
    }
  }

  private record SpanValue(
      boolean declared, String version, Instant lastSeen, @Nullable Instant until) {}

  private record LinkKey(ColumnLink link, Instant firstSeen) {}

  /** The runs of one job, and what was written of it. */
  private static final class History {
    private final Map<UUID, Run> runs = new LinkedHashMap<>();
    private JobHistory.@Nullable Declared declared;
    private @Nullable Written written; // null: unknown, so all is written anew
    private int weight = 1;

    Run run(UUID id) {
      return runs.computeIfAbsent(id, Run::new);
    }
  }

  /** What the tables hold of an owner. */
  private record Written(
      Map<LinkKey, Integer> links,
      Map<Integer, SpanValue> spans,
      Map<String, Version> versions,
      SortedSet<String> described,
      boolean gap) {}

  private final JdbcTemplate jdbc;
  private final FactStore facts;
  private final Remembered<Subject, History> histories =
      new Remembered<>(HISTORIES_WEIGHT, history -> history.weight);
  private final Remembered<SortedSet<String>, ShapeSet> sets =
      new Remembered<>(SHAPES_WEIGHT, ShapeSet::weight);

  JobWriter(JdbcTemplate jdbc, FactStore facts) {
    this.jdbc = jdbc;
    this.facts = facts;
  }

  void forget() {
    histories.clear();
    sets.clear();
  }

  /**
   * Brings owners up to date.
   *
   * @param owners the jobs that ran or were declared, and the datasets that declare lineage
   * @param runs the runs of this batch as they were just written
   * @param stated what shapes the events of this batch stated of which run
   */
  Changes write(
      Collection<Subject> owners,
      Map<RunKey, RunWriter.Written> runs,
      Map<RunKey, Map<String, Shape>> stated,
      Set<Subject> declaring) {
    Map<Subject, History> all = load(owners);
    runs.forEach(
        (key, run) -> {
          History history = all.get(new Subject(FactStore.JOB, key.job()));
          if (history != null) {
            fill(history.run(key.run()), run.start(), run.code(), run.completed(), run.reported());
          }
        });
    var known = new HashMap<String, Shape>();
    stated.forEach(
        (key, shapes) -> {
          History history = all.get(new Subject(FactStore.JOB, key.job()));
          if (history != null) {
            known.putAll(shapes);
            Run run = history.run(key.run());
            if (run.shapes == null || !run.shapes.digests.containsAll(shapes.keySet())) {
              var grown = new TreeSet<>(shapes.keySet());
              if (run.shapes != null) {
                grown.addAll(run.shapes.digests);
              }
              run.shapes = set(grown);
            }
          }
        });
    declared(all, declaring);
    layShapes(all, known);
    return writeAll(all);
  }

  /** The dataset that a run reads, if it reads exactly one; else 0. */
  long onlyInput(RunKey key) {
    History history = histories.get(new Subject(FactStore.JOB, key.job()));
    Run run = history == null ? null : history.runs.get(key.run());
    LaidShape shape = run == null || run.shapes == null ? null : run.shapes.laid;
    if (shape == null || shape.shape().inputs().size() != 1) {
      return 0;
    }
    var input = shape.shape().inputs().first();
    facts.internDatasets(List.of(input));
    return facts.id(input);
  }

  private ShapeSet set(SortedSet<String> digests) {
    ShapeSet known = sets.get(digests);
    if (known == null) {
      known = new ShapeSet(digests);
      sets.put(digests, known);
    }
    return known;
  }

  private static void fill(
      Run run, Instant start, @Nullable String code, boolean completed, boolean reported) {
    run.start = start;
    run.code = code;
    run.completed = completed;
    run.reported = reported;
  }

  private Map<Subject, History> load(Collection<Subject> owners) {
    var all = new LinkedHashMap<Subject, History>();
    var missing = new ArrayList<Long>();
    for (Subject owner : owners) {
      History known = histories.get(owner);
      all.put(owner, known == null ? new History() : known);
      if (known == null && owner.kind() == FactStore.JOB) {
        missing.add(owner.id());
      }
    }
    if (!missing.isEmpty()) {
      Long[] ids = missing.toArray(Long[]::new);
      jdbc.query(
          "select job_id, run_id, start_s, start_n, code, state, running_s is not null from run"
              + " where job_id = any(?)",
          row -> {
            fill(
                all.get(new Subject(FactStore.JOB, row.getLong(1)))
                    .run(row.getObject(2, UUID.class)),
                Instant.ofEpochSecond(row.getLong(3), row.getInt(4)),
                row.getString(5),
                row.getString(6).equals("completed"),
                row.getBoolean(7));
          },
          (Object) ids);
      jdbc.query(
          "select job_id, run_id, array_agg(encode(digest, 'hex')) from run_shape"
              + " where job_id = any(?) group by 1, 2",
          row -> {
            var digests = new TreeSet<>(List.of((String[]) row.getArray(3).getArray()));
            all.get(new Subject(FactStore.JOB, row.getLong(1)))
                    .run(row.getObject(2, UUID.class))
                    .shapes =
                set(digests);
          },
          (Object) ids);
    }
    var unread = new HashSet<Subject>();
    all.forEach(
        (owner, history) -> {
          if (history.written == null) {
            unread.add(owner);
          }
        });
    declared(all, unread);
    return all;
  }

  /** Reads the newest declaration of these owners. */
  private void declared(Map<Subject, History> all, Set<Subject> owners) {
    for (int kind : new int[] {FactStore.DATASET, FactStore.JOB}) {
      Long[] ids =
          owners.stream()
              .filter(owner -> owner.kind() == kind && all.containsKey(owner))
              .map(Subject::id)
              .toArray(Long[]::new);
      if (ids.length > 0) {
        jdbc.query(
            "select distinct on (d.owner_id) d.owner_id, d.at_s, d.at_n, s.body from declared d"
                + " join shape s using (digest) where d.owner_kind = ? and d.owner_id = any(?)"
                + " and not d.far"
                + " order by d.owner_id, d.at_s desc, d.at_n desc, d.digest desc",
            row -> {
              all.get(new Subject(kind, row.getLong(1))).declared =
                  new JobHistory.Declared(
                      Instant.ofEpochSecond(row.getLong(2), row.getInt(3)),
                      ShapeText.read(StoredText.text(row.getBytes(4))));
            },
            kind,
            ids);
      }
    }
  }

  /** Makes the union of each set of shapes, once: nearly all runs of a job share one. */
  private void layShapes(Map<Subject, History> all, Map<String, Shape> known) {
    var bare = Collections.newSetFromMap(new IdentityHashMap<ShapeSet, Boolean>());
    var missing = new TreeSet<String>();
    for (History history : all.values()) {
      for (Run run : history.runs.values()) {
        if (run.shapes != null && run.shapes.laid == null && bare.add(run.shapes)) {
          run.shapes.digests.stream().filter(d -> !known.containsKey(d)).forEach(missing::add);
        }
      }
    }
    if (!missing.isEmpty()) {
      byte[][] raw = missing.stream().map(FactStore::hex).toArray(byte[][]::new);
      jdbc.query(
          "select encode(digest, 'hex'), body from shape where digest = any(?)",
          row -> {
            known.put(row.getString(1), ShapeText.read(StoredText.text(row.getBytes(2))));
          },
          (Object) raw);
    }
    for (ShapeSet set : bare) {
      set.laid = LaidShape.of(Shape.union(set.digests.stream().map(known::get).toList()));
      sets.put(set.digests, set); // it weighs more now
    }
  }

  private Changes writeAll(Map<Subject, History> all) {
    Map<Subject, Map<String, JsonNode>> current =
        facts.current(all.keySet().stream().filter(o -> o.kind() == FactStore.JOB).toList());
    var lineages = new LinkedHashMap<Subject, JobLineage>();
    var names = new HashSet<DatasetName>();
    all.forEach(
        (owner, history) -> {
          boolean streaming = isStreaming(current.getOrDefault(owner, Map.of()).get("jobType"));
          JobLineage lineage = JobHistory.of(runs(history, streaming), history.declared);
          lineages.put(owner, lineage);
          for (HeldLink held : lineage.links()) {
            names.add(held.link().from().dataset());
            names.add(held.link().to().dataset());
          }
        });
    facts.internDatasets(names);
    var rows = new Rows();
    lineages.forEach((owner, lineage) -> rows.add(owner, all.get(owner), lineage));
    rows.write();
    all.forEach(histories::put);
    return new Changes(rows.relinked, rows.newVersions);
  }

  private static List<JobRun> runs(History history, boolean streaming) {
    var runs = new ArrayList<JobRun>(history.runs.size());
    history.runs.values().stream()
        // a run of which only far-future events are known has no place in time
        .filter(run -> !run.start.equals(Instant.MAX))
        .forEach(run -> runs.add(run.asOf(streaming)));
    return runs;
  }

  private static boolean isStreaming(@Nullable JsonNode type) {
    return type != null
        && "STREAMING".equalsIgnoreCase(type.path("processingType").stringValue(""));
  }

  /** The rows that a batch takes away and adds. */
  private final class Rows {
    private final Set<Subject> relinked = new HashSet<>();
    private final Map<Long, Version> newVersions = new HashMap<>();
    private final List<Subject> cleared = new ArrayList<>();
    private final List<Subject> clearedVersions = new ArrayList<>();
    private final List<Object[]> links = new ArrayList<>();
    private final List<Object[]> spans = new ArrayList<>();
    private final List<Subject> spansGoneOf = new ArrayList<>();
    private final List<Integer> spansGone = new ArrayList<>();
    private final List<Object[]> versions = new ArrayList<>();
    private final List<Object[]> maps = new ArrayList<>();

    void add(Subject owner, History history, JobLineage lineage) {
      Written before = history.written;
      var byValue = new HashMap<SpanValue, Integer>();
      var links = new LinkedHashMap<LinkKey, Integer>();
      var spans = new LinkedHashMap<Integer, SpanValue>();
      int next =
          before == null
              ? 1
              : before.spans().keySet().stream().mapToInt(span -> span).max().orElse(0) + 1;
      for (HeldLink held : lineage.links()) {
        var value = new SpanValue(held.declared(), held.version(), held.lastSeen(), held.until());
        var key = new LinkKey(held.link(), held.firstSeen());
        Integer span = byValue.get(value);
        if (span == null) {
          Integer old = before == null ? null : before.links().get(key);
          span = old == null || spans.containsKey(old) ? next++ : old;
          byValue.put(value, span);
          spans.put(span, value);
        }
        links.put(key, span);
      }
      writeLinks(owner, before, links, spans);
      if (owner.kind() == FactStore.JOB) {
        writeVersions(owner, before, lineage.versions());
      }
      var described = new TreeSet<String>();
      lineage.described().forEach(column -> described.add(column.reference()));
      if (before == null
          || !before.described().equals(described)
          || before.gap() != lineage.gap()) {
        maps.add(
            new Object[] {
              owner.kind(), owner.id(), described.toArray(String[]::new), lineage.gap()
            });
        relinked.add(owner);
      }
      var byHash = new HashMap<String, Version>();
      lineage.versions().forEach(version -> byHash.put(version.hash(), version));
      history.written = new Written(links, spans, byHash, described, lineage.gap());
      history.weight = 1 + history.runs.size() + links.size();
    }

    private void writeLinks(
        Subject owner,
        @Nullable Written before,
        Map<LinkKey, Integer> now,
        Map<Integer, SpanValue> nowSpans) {
      Map<LinkKey, Integer> then = before == null ? Map.of() : before.links();
      Map<Integer, SpanValue> thenSpans = before == null ? Map.of() : before.spans();
      boolean lost =
          before == null
              || then.entrySet().stream()
                  .anyMatch(link -> !link.getValue().equals(now.get(link.getKey())));
      if (lost) {
        cleared.add(owner);
      }
      now.forEach(
          (key, span) -> {
            if (lost || !then.containsKey(key)) {
              links.add(row(owner, key, span));
              relinked.add(owner);
            }
          });
      nowSpans.forEach(
          (span, value) -> {
            SpanValue old = lost ? null : thenSpans.get(span);
            if (!value.equals(old)) {
              spans.add(row(owner, span, value));
              if (old == null || !Objects.equals(old.until(), value.until())) {
                relinked.add(owner);
              }
            }
          });
      if (!lost) {
        for (Integer span : thenSpans.keySet()) {
          if (!nowSpans.containsKey(span)) {
            spansGoneOf.add(owner);
            spansGone.add(span);
          }
        }
      } else if (before == null || !then.isEmpty()) {
        relinked.add(owner);
      }
    }

    private Object[] row(Subject owner, LinkKey key, int span) {
      ColumnLink link = key.link();
      return new Object[] {
        owner.kind(),
        owner.id(),
        span,
        facts.id(link.from().dataset()),
        link.from().path(),
        facts.id(link.to().dataset()),
        link.to().path(),
        link.flow().name(),
        link.masking(),
        StoredTime.of(key.firstSeen())
      };
    }

    private Object[] row(Subject owner, int span, SpanValue value) {
      return new Object[] {
        owner.kind(),
        owner.id(),
        span,
        value.declared(),
        value.version(),
        StoredTime.of(value.lastSeen()),
        StoredTime.of(value.until())
      };
    }

    private void writeVersions(Subject job, @Nullable Written before, List<Version> now) {
      Map<String, Version> then = before == null ? Map.of() : before.versions();
      boolean lost =
          before == null
              || then.keySet().stream()
                  .anyMatch(hash -> now.stream().noneMatch(v -> v.hash().equals(hash)));
      if (lost) {
        clearedVersions.add(job);
      }
      for (Version version : now) {
        Version old = then.get(version.hash());
        if (lost || !version.equals(old)) {
          versions.add(
              new Object[] {
                job.id(),
                version.number(),
                version.hash(),
                StoredTime.of(version.firstRun()),
                StoredTime.of(version.lastRun()),
                version.changes().stream().map(StoredText::clean).toArray(String[]::new)
              });
        }
        if (before != null && old == null) {
          newVersions.put(job.id(), version);
        }
      }
    }

    void write() {
      delete("link_row", cleared);
      delete("link_span", cleared);
      if (!spansGone.isEmpty()) {
        jdbc.update(
            "delete from link_span where (owner_kind, owner_id, span) in"
                + " (select unnest(?), unnest(?), unnest(?))",
            spansGoneOf.stream().map(owner -> (short) owner.kind()).toArray(Short[]::new),
            spansGoneOf.stream().map(Subject::id).toArray(Long[]::new),
            spansGone.toArray(Integer[]::new));
      }
      facts.batch(
          "insert into link_span values (?, ?, ?, ?, ?, ?, ?)"
              + " on conflict (owner_kind, owner_id, span) do update"
              + " set declared = excluded.declared, version = excluded.version,"
              + " last_seen = excluded.last_seen, until = excluded.until",
          spans);
      facts.batch("insert into link_row values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)", links);
      if (!clearedVersions.isEmpty()) {
        jdbc.update(
            "delete from job_version where job_id = any(?)",
            (Object) clearedVersions.stream().map(Subject::id).toArray(Long[]::new));
      }
      facts.batch(
          "insert into job_version (job_id, number, hash, first_run, last_run, changes)"
              + " values (?, ?, ?, ?, ?, ?) on conflict (job_id, hash) do update"
              + " set number = excluded.number, first_run = excluded.first_run,"
              + " last_run = excluded.last_run, changes = excluded.changes",
          versions);
      facts.batch(
          "insert into job_map (owner_kind, owner_id, described, gap) values (?, ?, ?, ?)"
              + " on conflict (owner_kind, owner_id) do update"
              + " set described = excluded.described, gap = excluded.gap",
          maps);
    }

    private void delete(String table, List<Subject> owners) {
      if (!owners.isEmpty()) {
        jdbc.update(
            "delete from "
                + table
                + " where (owner_kind, owner_id) in"
                + " (select unnest(?), unnest(?))",
            owners.stream().map(owner -> (short) owner.kind()).toArray(Short[]::new),
            owners.stream().map(Subject::id).toArray(Long[]::new));
      }
    }
  }
}
