package longthread.service.intake;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Collections;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.SortedSet;
import java.util.TreeSet;
import java.util.UUID;
import longthread.core.event.ColumnLink;
import longthread.core.event.Shape;
import longthread.core.event.ShapeText;
import longthread.core.event.Stated;
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

  private record RunCell(
      Instant start, @Nullable String code, boolean completed, boolean reported) {}

  private record SpanValue(
      boolean declared, String version, Instant lastSeen, @Nullable Instant until) {}

  private record LinkKey(ColumnLink link, Instant firstSeen) {}

  /** The runs of one job, and what was written of it. */
  private static final class History {
    private final Map<UUID, RunCell> runs = new HashMap<>();
    private final Map<UUID, SortedSet<String>> shapes = new HashMap<>();
    private JobHistory.@Nullable Declared declared;
    private @Nullable Written written; // null: unknown, so all is written anew
    private int weight = 1;
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
  private final Remembered<SortedSet<String>, LaidShape> laid =
      new Remembered<>(SHAPES_WEIGHT, shape -> 1 + shape.links().size());

  JobWriter(JdbcTemplate jdbc, FactStore facts) {
    this.jdbc = jdbc;
    this.facts = facts;
  }

  void forget() {
    histories.clear();
    laid.clear();
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
            history.runs.put(
                key.run(), new RunCell(run.start(), run.code(), run.completed(), run.reported()));
          }
        });
    var known = new HashMap<String, Shape>();
    stated.forEach(
        (key, shapes) -> {
          History history = all.get(new Subject(FactStore.JOB, key.job()));
          if (history != null) {
            known.putAll(shapes);
            var grown = new TreeSet<>(history.shapes.getOrDefault(key.run(), new TreeSet<>()));
            if (grown.addAll(shapes.keySet())) {
              history.shapes.put(key.run(), grown);
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
    SortedSet<String> shapes = history == null ? null : history.shapes.get(key.run());
    LaidShape shape = shapes == null ? null : laid.get(shapes);
    if (shape == null || shape.shape().inputs().size() != 1) {
      return 0;
    }
    var input = shape.shape().inputs().first();
    facts.internDatasets(List.of(input.reference()));
    return facts.id(input);
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
          "select job_id, run_id, start_s, start_n, code, state, reported from run"
              + " where job_id = any(?)",
          row -> {
            all.get(new Subject(FactStore.JOB, row.getLong(1)))
                .runs
                .put(
                    row.getObject(2, UUID.class),
                    new RunCell(
                        Instant.ofEpochSecond(row.getLong(3), row.getInt(4)),
                        row.getString(5),
                        row.getString(6).equals("completed"),
                        row.getBoolean(7)));
          },
          (Object) ids);
      jdbc.query(
          "select job_id, run_id, encode(digest, 'hex') from run_shape where job_id = any(?)",
          row -> {
            all.get(new Subject(FactStore.JOB, row.getLong(1)))
                .shapes
                .computeIfAbsent(row.getObject(2, UUID.class), k -> new TreeSet<>())
                .add(row.getString(3));
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
    var sets = new HashSet<SortedSet<String>>();
    var missing = new TreeSet<String>();
    for (History history : all.values()) {
      for (SortedSet<String> set : history.shapes.values()) {
        if (!laid.has(set) && sets.add(set)) {
          set.stream().filter(digest -> !known.containsKey(digest)).forEach(missing::add);
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
    for (SortedSet<String> set : sets) {
      laid.put(set, LaidShape.of(Shape.union(set.stream().map(known::get).toList())));
    }
  }

  private Changes writeAll(Map<Subject, History> all) {
    Map<Subject, Map<String, JsonNode>> current =
        facts.current(all.keySet().stream().filter(o -> o.kind() == FactStore.JOB).toList());
    var lineages = new LinkedHashMap<Subject, JobLineage>();
    var names = new TreeSet<String>();
    all.forEach(
        (owner, history) -> {
          boolean streaming = isStreaming(current.getOrDefault(owner, Map.of()).get("jobType"));
          JobLineage lineage = JobHistory.of(runs(history, streaming), history.declared);
          lineages.put(owner, lineage);
          for (HeldLink held : lineage.links()) {
            names.add(held.link().from().dataset().reference());
            names.add(held.link().to().dataset().reference());
          }
        });
    facts.internDatasets(names);
    var rows = new Rows();
    lineages.forEach((owner, lineage) -> rows.add(owner, all.get(owner), lineage));
    rows.write();
    all.forEach(histories::put);
    return new Changes(rows.relinked, rows.newVersions);
  }

  private List<JobRun> runs(History history, boolean streaming) {
    var runs = new ArrayList<JobRun>(history.runs.size());
    // The same set of shapes is looked up once, and gives the same object to all runs that share
    // it.
    var shared = new HashMap<SortedSet<String>, LaidShape>();
    history.runs.forEach(
        (id, cell) -> {
          SortedSet<String> set = history.shapes.getOrDefault(id, Collections.emptySortedSet());
          LaidShape shape =
              set.isEmpty() ? LaidShape.NONE : shared.computeIfAbsent(set, this::laidShape);
          boolean settled = cell.completed() || (streaming && cell.reported());
          runs.add(new JobRun(id, cell.start(), cell.code(), settled, shape));
        });
    return runs;
  }

  private LaidShape laidShape(SortedSet<String> set) {
    LaidShape known = laid.get(set);
    if (known == null) { // more shapes in one batch than are remembered
      var one = new History();
      one.shapes.put(new UUID(0, 0), set);
      layShapes(Map.of(new Subject(0, 0), one), new HashMap<>());
      known = Objects.requireNonNull(laid.get(set));
    }
    return known;
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

  /** The shapes by digest that an event states of its run. */
  static Map<String, Shape> statedBy(Stated stated) {
    return Map.of(stated.digest(), stated.shape());
  }
}
