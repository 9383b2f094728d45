package longthread.service.apply;

import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import longthread.core.asset.Card;
import longthread.core.asset.DatasetName;
import longthread.core.asset.JobName;
import longthread.core.asset.Owner;
import longthread.core.event.CardReader;
import longthread.core.event.FacetFact;
import longthread.core.event.HandFacet;
import longthread.core.json.CanonicalJson;
import longthread.core.workspace.WorkspaceDescription;
import longthread.service.storage.StoredText;
import longthread.service.storage.Stores;
import longthread.service.storage.catalog.CardQueries;
import longthread.service.storage.facts.FacetQueries;
import longthread.service.storage.facts.RenameQueries;
import longthread.service.storage.facts.Subject;
import longthread.service.storage.runs.RunQueries;
import tools.jackson.databind.JsonNode;

/** Computes the cards of datasets and jobs, and the text in which search looks for them. */
final class CardWriter {
  private static final int MAX_HAYSTACK = 100_000;
  private static final int MAX_CARDED = 2_000_000;

  private final CardQueries stored;
  private final FacetQueries facetStore;
  private final RenameQueries renameStore;
  private final RunQueries runStore;
  private final NameIds ids;
  private final CurrentFacets current;
  private final SchemaHistory schemas;
  private final WorkspaceItems items;
  private final Set<String> knownParents = new HashSet<>();
  private final Set<Long> carded = new HashSet<>(); // datasets known to have a card

  CardWriter(
      Stores stores,
      NameIds ids,
      CurrentFacets current,
      SchemaHistory schemas,
      WorkspaceItems items) {
    this.items = items;
    this.schemas = schemas;
    this.stored = stores.cards();
    this.facetStore = stores.facets();
    this.renameStore = stores.renames();
    this.runStore = stores.runs();
    this.ids = ids;
    this.current = current;
  }

  void forget() {
    knownParents.clear();
    carded.clear();
  }

  /**
   * The references of those of some datasets that have no card yet: an event names them for the
   * first time, though links may know them already.
   */
  Set<String> withoutCard(Collection<DatasetName> datasets) {
    if (carded.size() > MAX_CARDED) {
      carded.clear();
    }
    var missing = new HashMap<String, Long>();
    for (DatasetName dataset : datasets) {
      long id = ids.id(dataset);
      if (!carded.contains(id)) {
        missing.put(dataset.reference(), id);
      }
    }
    if (missing.isEmpty()) {
      return new HashSet<>();
    }
    for (String known : stored.known(missing.keySet().toArray(String[]::new))) {
      carded.add(missing.remove(known));
    }
    carded.addAll(missing.values()); // those that are about to get one
    return new HashSet<>(missing.keySet());
  }

  /** Whether the job was not known yet to start others; it is from now on. */
  boolean isNewParent(String job) {
    return knownParents.add(job);
  }

  /** Writes the cards of these datasets and jobs; returns the references of all that it wrote. */
  Set<String> write(Set<DatasetName> touched, Collection<JobName> jobs) {
    var datasets = new TreeSet<>(touched);
    List<Renamed> renames = renames(datasets);
    if (!renames.isEmpty()) {
      for (Renamed rename : renames) {
        datasets.add(rename.from());
        datasets.add(rename.to());
      }
      ids.internDatasets(datasets);
      renames = renames(datasets); // with those in which only the partners had a part
    }
    var cards = new ArrayList<Card>();
    var subjects = new ArrayList<Subject>();
    datasets.forEach(dataset -> subjects.add(ids.subject(dataset)));
    jobs.forEach(job -> subjects.add(ids.subject(job)));
    Map<Subject, Map<String, JsonNode>> facets = current.of(subjects);
    Set<Subject> described = facetStore.described(subjects);
    Set<Subject> dropped = dropped(datasets, facets);
    dropped.addAll(items.gone(facets).keySet());
    schemas.load(datasets.stream().map(ids::id).toList());
    for (DatasetName dataset : datasets) {
      Subject subject = ids.subject(dataset);
      if (facets.get(subject).containsKey(WorkspaceDescription.FACET)
          || HandFacet.isRegister(dataset)) {
        continue; // a workspace as a whole, a term or a rule is no asset
      }
      cards.add(
          named(
              dataset,
              facets.get(subject),
              described.contains(subject),
              dropped.contains(subject),
              renames));
    }
    Set<String> parents = parents(jobs);
    for (JobName job : jobs) {
      Subject subject = ids.subject(job);
      cards.add(
          CardReader.job(
                  job,
                  facets.get(subject),
                  described.contains(subject),
                  parents.contains(job.reference()))
              .named(dropped.contains(subject), null, List.of()));
    }
    return writeChanged(cards);
  }

  /** Writes those cards that are not stored just so; returns their references. */
  private Set<String> writeChanged(List<Card> cards) {
    var rows = new LinkedHashMap<String, CardQueries.Row>();
    cards.forEach(card -> rows.put(card.ref(), row(card)));
    for (CardQueries.Body known : stored.cards(rows.keySet().toArray(String[]::new))) {
      if (Arrays.equals(known.body(), rows.get(known.ref()).body())) {
        rows.remove(known.ref());
      }
    }
    stored.put(rows.values());
    return new HashSet<>(rows.keySet());
  }

  /** A rename, and whether the old name was taken into use again after it. */
  private record Renamed(DatasetName from, DatasetName to, Instant at, boolean alive) {}

  /** All renames that any of the datasets had a part in, the oldest first. */
  private List<Renamed> renames(Collection<DatasetName> datasets) {
    if (!current.anyRenamed()) {
      return List.of();
    }
    Long[] own = datasets.stream().map(ids::id).toArray(Long[]::new);
    return renameStore.touching(own).stream()
        .map(
            row ->
                new Renamed(
                    DatasetName.parse(row.from()),
                    DatasetName.parse(row.to()),
                    Instant.ofEpochSecond(row.atS(), row.atN()),
                    row.alive()))
        .toList();
  }

  /**
   * A dataset's card with its former names. While an old name is not in use again, it is a part of
   * the asset under its new name. Once it is, it stands for itself with what was said of it since,
   * and what was said before counts for the new name, where that says nothing else.
   */
  private Card named(
      DatasetName dataset,
      Map<String, JsonNode> own,
      boolean described,
      boolean dropped,
      List<Renamed> renames) {
    var facets = new HashMap<>(own);
    JsonNode asRead = schemas.asRead(ids.id(dataset));
    if (asRead != null) {
      facets.put(FacetFact.SCHEMA, asRead);
    }
    var formerly = new ArrayList<Card.Former>();
    Renamed last = null;
    for (Renamed rename : renames) {
      if (rename.to().equals(dataset)) {
        formerly.add(new Card.Former(rename.from().reference(), rename.at(), rename.alive()));
        if (rename.alive()) {
          reported(rename.from(), rename.at(), true).forEach(facets::putIfAbsent);
        }
      }
      if (rename.from().equals(dataset)) {
        last = rename;
      }
    }
    if (last != null && last.alive()) {
      Set<String> since = new HashSet<>(reported(dataset, last.at(), false).keySet());
      if (since.contains(FacetFact.READ_SCHEMA)) {
        since.add(FacetFact.SCHEMA);
      }
      facets.keySet().retainAll(since);
    }
    boolean over = last != null && !last.alive();
    return CardReader.dataset(dataset, facets, schemas.since(ids.id(dataset)), described, dropped)
        .named(dropped || over, over ? last.to().reference() : null, formerly);
  }

  /** The facets of a dataset that won among those reported before a moment, or from it on. */
  private Map<String, JsonNode> reported(DatasetName dataset, Instant at, boolean before) {
    List<FacetQueries.Keyed> winners =
        before
            ? facetStore.winnersBefore(ids.id(dataset), at.getEpochSecond(), at.getNano())
            : facetStore.winnersSince(ids.id(dataset), at.getEpochSecond(), at.getNano());
    var digests = new HashSet<String>();
    winners.forEach(winner -> digests.add(winner.digest()));
    Map<String, JsonNode> values = current.values(digests);
    var facets = new HashMap<String, JsonNode>();
    winners.forEach(winner -> facets.put(winner.key(), values.get(winner.digest())));
    return facets;
  }

  private static CardQueries.Row row(Card card) {
    return new CardQueries.Row(
        card.ref(),
        card.kind().word(),
        StoredText.clean(system(card)),
        StoredText.clean(card.name()),
        card.title() == null ? null : StoredText.clean(card.title()),
        card.url() == null ? null : StoredText.clean(card.url()),
        card.owners().stream().map(o -> StoredText.clean(o.name())).toList(),
        card.tags().stream().map(t -> StoredText.clean(t.word())).toList(),
        card.retired(),
        haystack(card),
        StoredText.packed(CanonicalJson.MAPPER.writeValueAsString(card)));
  }

  /** The system a card belongs to: what its source called itself, else its namespace. */
  private static String system(Card card) {
    return card.system() == null ? card.namespace() : card.system();
  }

  private static String haystack(Card card) {
    var words = new ArrayList<String>(List.of(card.ref(), card.name(), system(card)));
    words.addAll(card.container());
    for (String text : Arrays.asList(card.title(), card.description(), card.url())) {
      if (text != null) {
        words.add(text);
      }
    }
    for (Owner owner : card.owners()) {
      words.add(owner.name());
    }
    card.tags().forEach(tag -> words.add(tag.word()));
    for (Card.Column column : card.columns()) {
      words.add(column.path());
      if (column.description() != null) {
        words.add(column.description());
      }
      column.tags().forEach(tag -> words.add(tag.word()));
    }
    String all = StoredText.clean(String.join(" \n", words)).toLowerCase(Locale.ROOT);
    return all.length() > MAX_HAYSTACK ? all.substring(0, MAX_HAYSTACK) : all;
  }

  /** Datasets whose newest life cycle word is DROP, with no link into them seen since. */
  private Set<Subject> dropped(
      Collection<DatasetName> datasets, Map<Subject, Map<String, JsonNode>> facets) {
    var dropped = new HashSet<Subject>();
    for (DatasetName dataset : datasets) {
      Subject subject = ids.subject(dataset);
      JsonNode life = facets.get(subject).get("lifecycleStateChange");
      if (life != null
          && life.path("lifecycleStateChange").stringValue("").equalsIgnoreCase("DROP")) {
        dropped.add(subject);
      }
    }
    if (!dropped.isEmpty()) {
      Long[] all = dropped.stream().map(Subject::id).toArray(Long[]::new);
      renameStore
          .writtenSinceDropped(all)
          .forEach(dataset -> dropped.remove(Subject.dataset(dataset))); // so it lives again
    }
    return dropped;
  }

  private Set<String> parents(Collection<JobName> jobs) {
    return jobs.isEmpty()
        ? Set.of()
        : Set.copyOf(
            runStore.parentsAmong(jobs.stream().map(JobName::reference).toArray(String[]::new)));
  }
}
