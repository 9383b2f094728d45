package longthread.service.intake;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeSet;
import longthread.core.asset.DatasetName;
import longthread.core.event.Shape;
import longthread.core.history.LaidShape;
import longthread.core.sql.Derivation;
import longthread.core.sql.Derivation.Derived;
import longthread.core.sql.KnownColumn;
import longthread.core.sql.SqlReader;
import longthread.service.sql.SchemaColumns;
import org.jspecify.annotations.Nullable;
import org.springframework.jdbc.core.JdbcTemplate;
import tools.jackson.databind.JsonNode;

/**
 * Adds to what runs stated what their SQL says. The text is read with the schemas of the moment the
 * run started, else the earliest known later; so it comes out the same whatever came first, and is
 * read again only when a schema comes to be known or changes.
 */
final class RunSql {
  /** The facet by which a dataset tells the query that it is a view of. */
  static final String VIEW = "longthread_view";

  private static final long MOST_LINKS = 1_000_000;
  private static final int MOST_TEXTS = 20_000;

  /**
   * A text that a job ran.
   *
   * @param dialect as the emitter names it; null if it does not
   * @param digest of the facet that tells it
   */
  record Text(String query, @Nullable String dialect, String digest) {
    /** The text in a facet; null if it holds none. */
    static @Nullable Text of(@Nullable JsonNode facet, String digest) {
      if (facet == null || !facet.path("query").isString()) {
        return null;
      }
      return new Text(
          facet.path("query").stringValue(), facet.path("dialect").stringValue(null), digest);
    }

    /**
     * Of texts with one fingerprint, the one that stands for all: the same one in whatever order
     * they came.
     */
    Text or(Text other) {
      return digest.compareTo(other.digest) <= 0 ? this : other;
    }
  }

  private record Asked(Text text, String statedHash) {}

  private record Answer(Asked asked, List<String> schemas) {}

  private final SqlReader reader;
  private final JdbcTemplate jdbc;
  private final NameIds ids;
  private final CurrentFacets current;
  private final SchemaTimes schemas;

  /**
   * The datasets whose schemas matter for a text: those the run named, and those it names itself.
   */
  private final Remembered<Asked, Set<DatasetName>> involved =
      new Remembered<>(MOST_TEXTS, any -> 1);

  /** The owners of a text for which the time ran out: it is tried again when there is time. */
  private final Set<Subject> pending = new HashSet<>();

  private final Set<Asked> late = new HashSet<>(); // not to be tried again just now

  private int state;

  private final Remembered<Answer, LaidShape> answers =
      new Remembered<>(MOST_LINKS, laid -> 1 + laid.links().size());

  RunSql(SqlReader reader, JdbcTemplate jdbc, NameIds ids, CurrentFacets current) {
    this.reader = reader;
    this.jdbc = jdbc;
    this.ids = ids;
    this.current = current;
    this.schemas = new SchemaTimes(jdbc, current);
  }

  /** A number that grows when an answer may be another one than before. */
  int state() {
    return state;
  }

  void forget() {
    state++;
    schemas.forget();
    answers.clear();
    involved.clear();
  }

  /** The texts in these facets, by digest; without those that hold none. */
  Map<String, Text> texts(Set<String> digests) {
    var texts = new HashMap<String, Text>();
    current
        .values(digests)
        .forEach(
            (digest, value) -> {
              Text text = Text.of(value, digest);
              if (text != null) {
                texts.put(digest, text);
              }
            });
    return texts;
  }

  /** The jobs and views whose SQL touches datasets of which another schema was told. */
  Set<Subject> touching(Collection<Long> datasets) {
    if (datasets.isEmpty()) {
      return Set.of();
    }
    state++;
    schemas.forget(datasets);
    Long[] changed = datasets.toArray(Long[]::new);
    return new HashSet<>(
        jdbc.query(
            "select distinct l.owner_kind, l.owner_id from link_row l"
                + " where (l.from_dataset = any(?) or l.to_dataset = any(?)) and ((l.owner_kind = ?"
                + " and exists (select from run_facet f where f.job_id = l.owner_id and f.role = 3"
                + " and f.key = 'sql')) or (l.owner_kind = ? and exists (select from facet_now v"
                + " where v.subject_kind = l.owner_kind and v.subject_id = l.owner_id"
                + " and v.key = ?)))",
            (row, n) -> new Subject(row.getInt(1), row.getLong(2)),
            changed,
            changed,
            Subject.JOB,
            Subject.DATASET,
            VIEW));
  }

  /** The owners whose SQL waits for another try; they are forgotten here by that. */
  List<Subject> takePending() {
    var owners = List.copyOf(pending);
    pending.clear();
    late.clear();
    state++;
    return owners;
  }

  /** All jobs that ran SQL, and all views. */
  List<Subject> all() {
    return jdbc.query(
        "select distinct 2, job_id from run_facet where role = 3 and key = 'sql' union"
            + " select subject_kind, subject_id from facet_now where subject_kind = 1 and key = ?"
            + " order by 1, 2",
        (row, n) -> new Subject(row.getInt(1), row.getLong(2)),
        VIEW);
  }

  /**
   * Prepares for runs: reads the schemas of all datasets that matter for them, at once.
   *
   * @param asked texts with what the runs of each stated
   */
  void prepare(Map<Text, Set<LaidShape>> asked) {
    var datasets = new TreeSet<DatasetName>();
    asked.forEach((text, shapes) -> shapes.forEach(laid -> datasets.addAll(of(text, laid))));
    ids.internDatasets(datasets);
    schemas.load(datasets.stream().map(ids::id).toList());
  }

  private Set<DatasetName> of(Text text, LaidShape stated) {
    var asked = new Asked(text, stated.hash());
    Set<DatasetName> known = involved.get(asked);
    if (known == null && late.contains(asked)) {
      return named(stated.shape());
    }
    if (known == null) {
      known = named(stated.shape());
      Derived first =
          Derivation.of(reader, text.query(), text.dialect(), stated.shape(), any -> List.of());
      known.addAll(first.shape().inputs());
      known.addAll(first.shape().outputs());
      if (first.pending()) {
        late.add(asked);
        return known;
      }
      involved.put(asked, known);
    }
    return known;
  }

  private static Set<DatasetName> named(Shape shape) {
    var names = new TreeSet<>(shape.inputs());
    names.addAll(shape.outputs());
    return names;
  }

  /**
   * What a run stated together with what its SQL says; one object for equal answers. If the time
   * runs out for the text, its links wait for another try, so that they never depend on how busy
   * the machine is.
   *
   * @param stated as the run's events state it
   */
  LaidShape lay(Subject owner, Text text, Instant start, LaidShape stated) {
    Set<DatasetName> datasets = of(text, stated);
    var digests = new ArrayList<String>();
    for (DatasetName dataset : datasets) {
      digests.add(Objects.requireNonNullElse(schemas.at(ids.id(dataset), start), ""));
    }
    var asked = new Asked(text, stated.hash());
    var answer = new Answer(asked, digests);
    LaidShape laid = answers.get(answer);
    if (laid == null && late.contains(asked)) {
      pending.add(owner);
      return stated;
    }
    if (laid == null) {
      Derived derived = derive(text, stated.shape(), List.copyOf(datasets), digests);
      if (derived.pending()) {
        late.add(asked);
        pending.add(owner);
        return stated;
      }
      laid = stated.with(derived.shape(), derived.constants());
      answers.put(answer, laid);
    }
    return laid;
  }

  private Derived derive(
      Text text, Shape stated, List<DatasetName> datasets, List<String> digests) {
    var wanted = new HashSet<>(digests);
    wanted.remove("");
    Map<String, JsonNode> values = current.values(wanted);
    var columns = new HashMap<DatasetName, List<KnownColumn>>();
    for (int i = 0; i < datasets.size(); i++) {
      JsonNode schema = values.get(digests.get(i));
      columns.put(datasets.get(i), schema == null ? List.of() : SchemaColumns.of(schema));
    }
    return Derivation.of(
        reader,
        text.query(),
        text.dialect(),
        stated,
        name -> columns.getOrDefault(name, List.of()),
        datasets);
  }
}
