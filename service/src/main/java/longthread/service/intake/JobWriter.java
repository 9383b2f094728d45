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
import longthread.core.event.Shape;
import longthread.core.event.ShapeText;
import longthread.core.history.JobHistory;
import longthread.core.history.JobLineage;
import longthread.core.history.JobLineage.HeldLink;
import longthread.core.history.JobLineage.Version;
import longthread.core.history.JobRun;
import longthread.core.history.LaidShape;
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

  /**
   * What became of the owners of a batch.
   *
   * @param relinked those whose links or column map changed
   * @param newVersions the versions that jobs got, by job
   * @param onlyInputs the dataset that a run of the batch reads, of those runs that read one
   */
  record Changes(
      Set<Subject> relinked,
      Map<Subject, Version> newVersions,
      Map<RunKey, DatasetName> onlyInputs) {}

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

  /** What a run stated together with what its SQL says, and what that was worked out from. */
  private record Whole(
      LaidShape laid, RunSql.Text text, LaidShape stated, Instant start, int state) {}

  /** A run as it stands; changed in place, since nearly every event of a run changes something. */
  private static final class Run {
    private final UUID id;
    private RunWriter.@Nullable Outline outline; // null while only far-future events are known
    private @Nullable String sql; // the digest of the facet that tells it
    private @Nullable ShapeSet shapes;
    private @Nullable Whole whole; // with what its SQL says, as of some state of the schemas

    Run(UUID id) {
      this.id = id;
    }

    boolean isWhole(RunSql.Text text, int state) {
      return whole != null
          && outline != null
          && whole.state() == state
          && whole.text().equals(text)
          && whole.stated() == laid()
          && whole.start().equals(outline.start());
    }

    LaidShape laid() {
      return shapes == null ? LaidShape.NONE : Objects.requireNonNull(shapes.laid);
    }

    JobRun asOf(RunWriter.Outline now, boolean streaming, LaidShape whole) {
      boolean settled = now.completed() || (streaming && now.reported());
      return new JobRun(id, now.start(), now.code(), settled, whole);
    }
  }

  /** The runs of one job, and what was written of it. */
  private static final class History {
    private final Map<UUID, Run> runs = new LinkedHashMap<>();
    private Map<String, RunSql.Text> texts = Map.of(); // by fingerprint, of its runs as they stand
    private JobHistory.@Nullable Declared declared;
    private LinkRows.@Nullable Held held; // null: unknown, so all is written anew
    private int weight = 1;

    Run run(UUID id) {
      return runs.computeIfAbsent(id, Run::new);
    }
  }

  private final JdbcTemplate jdbc;
  private final NameIds ids;
  private final CurrentFacets current;
  private final RunSql sql;
  private final Remembered<Subject, History> histories =
      new Remembered<>(HISTORIES_WEIGHT, history -> history.weight);
  private final Remembered<SortedSet<String>, ShapeSet> sets =
      new Remembered<>(SHAPES_WEIGHT, ShapeSet::weight);

  JobWriter(JdbcTemplate jdbc, NameIds ids, CurrentFacets current, RunSql sql) {
    this.jdbc = jdbc;
    this.ids = ids;
    this.current = current;
    this.sql = sql;
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
   * @param texts the digests of the SQL facets of those runs that told one
   * @param declaring those of the owners that declared something in this batch
   */
  Changes write(
      Collection<Subject> owners,
      Map<RunKey, RunWriter.Outline> runs,
      Map<RunKey, String> texts,
      Map<RunKey, Map<String, Shape>> stated,
      Set<Subject> declaring) {
    Map<Subject, History> all = load(owners, declaring);
    runs.forEach(
        (key, outline) -> {
          Run run = all.get(Subject.job(key.job())).run(key.run());
          run.outline = outline;
          run.sql = texts.get(key);
        });
    var known = new HashMap<String, Shape>();
    stated.forEach(
        (key, shapes) -> {
          known.putAll(shapes);
          Run run = all.get(Subject.job(key.job())).run(key.run());
          if (run.shapes == null || !run.shapes.digests.containsAll(shapes.keySet())) {
            var grown = new TreeSet<>(shapes.keySet());
            if (run.shapes != null) {
              grown.addAll(run.shapes.digests);
            }
            run.shapes = set(grown);
          }
        });
    layShapes(all, known);
    var onlyInputs = new HashMap<RunKey, DatasetName>();
    for (RunKey key : runs.keySet()) {
      var inputs = all.get(Subject.job(key.job())).run(key.run()).laid().shape().inputs();
      if (inputs.size() == 1) {
        onlyInputs.put(key, inputs.first());
      }
    }
    return writeAll(all, onlyInputs);
  }

  private ShapeSet set(SortedSet<String> digests) {
    ShapeSet known = sets.get(digests);
    if (known == null) {
      known = new ShapeSet(digests);
      sets.put(digests, known);
    }
    return known;
  }

  private Map<Subject, History> load(Collection<Subject> owners, Set<Subject> declaring) {
    var all = new LinkedHashMap<Subject, History>();
    var missing = new ArrayList<Long>();
    var undeclared = new HashSet<>(declaring);
    for (Subject owner : owners) {
      History known = histories.get(owner);
      all.put(owner, known == null ? new History() : known);
      if (known == null) {
        undeclared.add(owner);
      }
      if (known == null && owner.isJob()) {
        missing.add(owner.id());
      }
    }
    if (!missing.isEmpty()) {
      Long[] ids = missing.toArray(Long[]::new);
      jdbc.query(
          "select job_id, run_id, start_s, start_n, code, state, running_s is not null from run"
              + " where job_id = any(?)",
          row -> {
            all.get(Subject.job(row.getLong(1))).run(row.getObject(2, UUID.class)).outline =
                new RunWriter.Outline(
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
            all.get(Subject.job(row.getLong(1))).run(row.getObject(2, UUID.class)).shapes =
                set(digests);
          },
          (Object) ids);
      jdbc.query(
          "select distinct on (run_id, job_id) job_id, run_id, encode(digest, 'hex')"
              + " from run_facet where job_id = any(?) and role = ? and key = 'sql' and not far"
              + " order by run_id, job_id, at_s desc, at_n desc, digest desc",
          row -> {
            all.get(Subject.job(row.getLong(1))).run(row.getObject(2, UUID.class)).sql =
                row.getString(3);
          },
          ids,
          FactStore.OF_CODE);
    }
    declared(all, undeclared);
    return all;
  }

  /** Reads the newest declaration of these owners. */
  private void declared(Map<Subject, History> all, Set<Subject> owners) {
    for (int kind : new int[] {Subject.DATASET, Subject.JOB}) {
      Long[] ids =
          owners.stream()
              .filter(owner -> owner.kind() == kind)
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
      byte[][] raw = missing.stream().map(FactRows::bytes).toArray(byte[][]::new);
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

  private Changes writeAll(Map<Subject, History> all, Map<RunKey, DatasetName> onlyInputs) {
    Map<Subject, Map<String, JsonNode>> facets = current.of(List.copyOf(all.keySet()));
    Map<Subject, View> views = views(all, facets);
    readTexts(all.values());
    prepareSql(all.values(), views.values());
    var lineages = new LinkedHashMap<Subject, JobLineage>();
    var names = new HashSet<DatasetName>();
    all.forEach(
        (owner, history) -> {
          boolean streaming = isStreaming(facets.getOrDefault(owner, Map.of()).get("jobType"));
          JobLineage lineage =
              JobHistory.of(
                  runs(owner, history, streaming), declared(owner, history, views.get(owner)));
          lineages.put(owner, lineage);
          for (HeldLink held : lineage.links()) {
            names.add(held.link().from().dataset());
            names.add(held.link().to().dataset());
          }
        });
    ids.internDatasets(names);
    var rows = new LinkRows(ids);
    lineages.forEach(
        (owner, lineage) -> {
          History history = all.get(owner);
          history.held = rows.add(owner, history.held, lineage);
          history.weight = 1 + history.runs.size() + lineage.links().size();
        });
    rows.write(jdbc);
    all.forEach(histories::put);
    return new Changes(rows.relinked(), rows.newVersions(), onlyInputs);
  }

  /** Of the texts with one fingerprint one stands for all: which, depends on the runs alone. */
  private void readTexts(Collection<History> histories) {
    var digests = new HashSet<String>();
    for (History history : histories) {
      history.runs.values().stream()
          .map(run -> run.sql)
          .filter(d -> d != null)
          .forEach(digests::add);
    }
    Map<String, RunSql.Text> texts = sql.texts(digests);
    for (History history : histories) {
      history.texts = new HashMap<>();
      for (Run run : history.runs.values()) {
        RunSql.Text text = texts.get(run.sql);
        if (text != null && run.outline != null && run.outline.code() != null) {
          history.texts.merge(run.outline.code(), text, RunSql.Text::or);
        }
      }
    }
  }

  /** A dataset's own query, and what it declares besides. */
  private record View(RunSql.Text text, Instant at, LaidShape stated) {}

  private Map<Subject, View> views(
      Map<Subject, History> all, Map<Subject, Map<String, JsonNode>> facets) {
    var texts = new LinkedHashMap<Subject, RunSql.Text>();
    for (Subject owner : all.keySet()) {
      JsonNode facet = owner.isJob() ? null : facets.getOrDefault(owner, Map.of()).get(RunSql.VIEW);
      RunSql.Text text = RunSql.Text.of(facet, ""); // the facet that stands is the only one
      if (text != null) {
        texts.put(owner, text);
      }
    }
    var views = new LinkedHashMap<Subject, View>();
    if (texts.isEmpty()) {
      return views;
    }
    var names = new HashMap<Long, DatasetName>();
    jdbc.query(
        "select id, ref from dataset where id = any(?)",
        row -> {
          names.put(row.getLong(1), DatasetName.parse(row.getString(2)));
        },
        (Object) texts.keySet().stream().map(Subject::id).toArray(Long[]::new));
    var told = current.winners(texts.keySet());
    texts.forEach(
        (owner, text) -> {
          JobHistory.Declared declared = all.get(owner).declared;
          Shape own = Shape.EMPTY.writing(names.get(owner.id()));
          Shape stated =
              declared == null ? own : Shape.union(List.of(own, declared.laid().shape()));
          Instant at = told.get(owner).get(RunSql.VIEW).at();
          views.put(owner, new View(text, at, LaidShape.of(stated)));
        });
    return views;
  }

  private JobHistory.@Nullable Declared declared(
      Subject owner, History history, @Nullable View view) {
    return view == null
        ? history.declared
        : new JobHistory.Declared(view.at(), sql.lay(owner, view.text(), view.at(), view.stated()));
  }

  private void prepareSql(Collection<History> histories, Collection<View> views) {
    var asked = new HashMap<RunSql.Text, Set<LaidShape>>();
    for (View view : views) {
      asked
          .computeIfAbsent(view.text(), k -> Collections.newSetFromMap(new IdentityHashMap<>()))
          .add(view.stated());
    }
    for (History history : histories) {
      if (history.texts.isEmpty()) {
        continue;
      }
      for (Run run : history.runs.values()) {
        RunSql.Text text = run.outline == null ? null : history.texts.get(run.outline.code());
        if (text != null && !run.isWhole(text, sql.state())) {
          asked
              .computeIfAbsent(text, k -> Collections.newSetFromMap(new IdentityHashMap<>()))
              .add(run.laid());
        }
      }
    }
    if (!asked.isEmpty()) {
      sql.prepare(asked);
    }
  }

  private List<JobRun> runs(Subject owner, History history, boolean streaming) {
    var runs = new ArrayList<JobRun>(history.runs.size());
    for (Run run : history.runs.values()) {
      if (run.outline != null) {
        RunSql.Text text = history.texts.get(run.outline.code());
        LaidShape whole = text == null ? run.laid() : whole(owner, run, run.outline, text);
        runs.add(run.asOf(run.outline, streaming, whole));
      }
    }
    return runs;
  }

  private LaidShape whole(Subject owner, Run run, RunWriter.Outline outline, RunSql.Text text) {
    Whole known = run.whole;
    if (known == null || !run.isWhole(text, sql.state())) {
      LaidShape laid = sql.lay(owner, text, outline.start(), run.laid());
      known = new Whole(laid, text, run.laid(), outline.start(), sql.state());
      run.whole = known;
    }
    return known.laid();
  }

  private static boolean isStreaming(@Nullable JsonNode type) {
    return type != null
        && "STREAMING".equalsIgnoreCase(type.path("processingType").stringValue(""));
  }
}
