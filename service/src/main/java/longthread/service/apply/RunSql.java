package longthread.service.apply;

import com.github.benmanes.caffeine.cache.Cache;
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
import java.util.stream.Collectors;
import longthread.core.asset.DatasetName;
import longthread.core.lineage.ReportedLineage;
import longthread.core.lineage.ResolvedLineage;
import longthread.core.sql.Derivation;
import longthread.core.sql.Derivation.Derived;
import longthread.core.sql.KnownColumn;
import longthread.core.sql.SqlReader;
import longthread.service.storage.facts.FacetQueries;
import longthread.service.storage.facts.PendingSqlQueries;
import longthread.service.storage.facts.Subject;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;

/**
 * Adds to what runs reported what their SQL says. The text is read with the schemas of the moment
 * the run started, else the earliest known later; so it comes out the same whatever came first, and
 * is read again only when a schema comes to be known or changes.
 */
final class RunSql {
  /** The facet by which a dataset reports the query that it is a view of. */
  static final String VIEW = "longthread_view";

  private static final long MAX_LINKS = 120_000;
  private static final int MAX_TEXTS = 20_000;

  /**
   * A text that a job ran.
   *
   * @param dialect as the emitter names it; null if it does not
   * @param digest of the facet that holds it
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
  private final FacetQueries stored;
  private final NameIds ids;
  private final CurrentFacets current;
  private final SchemaHistory schemas;

  /**
   * The datasets whose schemas matter for a text: those the run named, and those it names itself.
   */
  private final Cache<Asked, Set<DatasetName>> involved = WeightedCache.of(MAX_TEXTS, any -> 1);

  private final PendingSqlQueries pendingStore;

  /** The owners of a text for which the time ran out in this batch. */
  private final Set<Subject> pending = new HashSet<>();

  private @Nullable Set<Subject> storedPending; // null until asked for

  private final Set<Asked> late = new HashSet<>(); // not to be tried again just now

  private final Cache<Answer, ResolvedLineage> answers =
      WeightedCache.of(MAX_LINKS, resolved -> 1 + resolved.links().size());

  RunSql(
      SqlReader reader,
      FacetQueries stored,
      NameIds ids,
      CurrentFacets current,
      SchemaHistory schemas,
      PendingSqlQueries pendingStore) {
    this.pendingStore = pendingStore;
    this.reader = reader;
    this.stored = stored;
    this.ids = ids;
    this.current = current;
    this.schemas = schemas;
  }

  void forget() {
    schemas.forget();
    answers.invalidateAll();
    involved.invalidateAll();
    pending.clear();
    late.clear();
    storedPending = null;
  }

  /** Stores which of the owners of a batch have SQL that waits for another try. */
  void storePending(Collection<Subject> owners) {
    Set<Subject> stored = storedPending();
    List<Subject> added =
        owners.stream().filter(o -> pending.contains(o) && !stored.contains(o)).toList();
    List<Subject> done =
        owners.stream().filter(o -> !pending.contains(o) && stored.contains(o)).toList();
    pendingStore.add(added);
    pendingStore.remove(done);
    stored.addAll(added);
    done.forEach(stored::remove);
    pending.clear();
  }

  private Set<Subject> storedPending() {
    if (storedPending == null) {
      storedPending =
          pendingStore.all().stream()
              .map(PendingSqlQueries.Owner::subject)
              .collect(Collectors.toCollection(HashSet::new));
    }
    return storedPending;
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

  /** The jobs and views whose SQL touches datasets of which another schema was reported. */
  Set<Subject> touching(Collection<Long> datasets) {
    if (datasets.isEmpty()) {
      return Set.of();
    }
    schemas.forget(datasets);
    return stored.sqlOwnersTouching(datasets.toArray(Long[]::new), VIEW).stream()
        .map(FacetQueries.Stored::subject)
        .collect(Collectors.toSet());
  }

  /** The owners whose SQL waits for another try, which may be made from now on. */
  List<Subject> pendingAgain() {
    var owners = List.copyOf(storedPending());
    if (!owners.isEmpty()) {
      late.clear();
    }
    return owners;
  }

  /** All jobs that ran SQL, and all views. */
  List<Subject> all() {
    return stored.sqlOwners(VIEW).stream().map(FacetQueries.Stored::subject).toList();
  }

  /**
   * Prepares for runs: reads the schemas of all datasets that matter for them, at once.
   *
   * @param asked texts with what the runs of each reported
   */
  void prepare(Map<Text, Set<ResolvedLineage>> asked) {
    var datasets = new TreeSet<DatasetName>();
    asked.forEach(
        (text, lineages) -> lineages.forEach(resolved -> datasets.addAll(of(text, resolved))));
    ids.internDatasets(datasets);
    schemas.load(datasets.stream().map(ids::id).toList());
  }

  private Set<DatasetName> of(Text text, ResolvedLineage reported) {
    var asked = new Asked(text, reported.hash());
    Set<DatasetName> known = involved.getIfPresent(asked);
    if (known == null && late.contains(asked)) {
      return named(reported.lineage());
    }
    if (known == null) {
      known = named(reported.lineage());
      Derived first =
          Derivation.of(reader, text.query(), text.dialect(), reported.lineage(), any -> List.of());
      known.addAll(first.lineage().inputs());
      known.addAll(first.lineage().outputs());
      if (first.pending()) {
        late.add(asked);
        return known;
      }
      involved.put(asked, known);
    }
    return known;
  }

  private static Set<DatasetName> named(ReportedLineage lineage) {
    var names = new TreeSet<>(lineage.inputs());
    names.addAll(lineage.outputs());
    return names;
  }

  /** See {@link Question#at}. */
  ResolvedLineage resolve(Subject owner, Text text, Instant start, ResolvedLineage reported) {
    return question(owner, text, reported).at(start);
  }

  /** A text with what runs reported beside it, to be asked as of the start of each of them. */
  Question question(Subject owner, Text text, ResolvedLineage reported) {
    return new Question(owner, text, reported);
  }

  /** A text and what runs reported beside it, worked out once for each state of the schemas. */
  final class Question {
    private final Subject owner;
    private final Text text;
    private final ResolvedLineage reported;
    private final Asked asked;
    private final List<DatasetName> datasets;
    private final Map<List<String>, ResolvedLineage> known = new HashMap<>();

    private Question(Subject owner, Text text, ResolvedLineage reported) {
      this.owner = owner;
      this.text = text;
      this.reported = reported;
      this.asked = new Asked(text, reported.hash());
      this.datasets = List.copyOf(of(text, reported));
    }

    /**
     * What a run reported together with what its SQL says; one object for equal answers. If the
     * time runs out for the text, its links wait for another try, so that they never depend on how
     * busy the machine is.
     */
    ResolvedLineage at(Instant start) {
      var digests = new ArrayList<String>();
      for (DatasetName dataset : datasets) {
        digests.add(Objects.requireNonNullElse(schemas.at(ids.id(dataset), start), ""));
      }
      return known.computeIfAbsent(digests, this::whole);
    }

    private ResolvedLineage whole(List<String> digests) {
      var answer = new Answer(asked, digests);
      ResolvedLineage resolved = answers.getIfPresent(answer);
      if (resolved != null) {
        return resolved;
      }
      if (!late.contains(asked)) {
        Derived derived = derive(text, reported.lineage(), datasets, digests);
        if (!derived.pending()) {
          resolved = reported.with(derived.lineage(), derived.constants());
          answers.put(answer, resolved);
          return resolved;
        }
        late.add(asked);
      }
      pending.add(owner);
      return reported;
    }
  }

  private Derived derive(
      Text text, ReportedLineage reported, List<DatasetName> datasets, List<String> digests) {
    var values = new HashMap<String, JsonNode>();
    for (String digest : digests) {
      JsonNode read = digest.isEmpty() ? null : schemas.readSchema(digest);
      if (read != null) {
        values.put(digest, read);
      }
    }
    var wanted = new HashSet<>(digests);
    wanted.remove("");
    wanted.removeAll(values.keySet());
    values.putAll(current.values(wanted));
    var columns = new HashMap<DatasetName, List<KnownColumn>>();
    for (int i = 0; i < datasets.size(); i++) {
      JsonNode schema = values.get(digests.get(i));
      columns.put(datasets.get(i), schema == null ? List.of() : SchemaColumns.of(schema));
    }
    return Derivation.of(
        reader,
        text.query(),
        text.dialect(),
        reported,
        name -> columns.getOrDefault(name, List.of()),
        datasets);
  }
}
