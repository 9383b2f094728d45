package longthread.service.live;

import jakarta.annotation.PostConstruct;
import jakarta.annotation.PreDestroy;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.UUID;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.Executor;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import longthread.core.asset.Card;
import longthread.core.asset.MergeRules;
import longthread.core.asset.Reference;
import longthread.core.event.HandFacet;
import longthread.core.graph.Direction;
import longthread.core.graph.GraphStore;
import longthread.core.graph.GraphStore.NamedLink;
import longthread.core.graph.LineageGraph;
import longthread.core.graph.Walk;
import longthread.core.json.CanonicalJson;
import longthread.core.lineage.Flow;
import longthread.service.storage.StoredText;
import longthread.service.storage.catalog.CardQueries;
import longthread.service.storage.facts.RenameQueries;
import longthread.service.storage.graph.HeadQueries;
import longthread.service.storage.graph.LinkQueries;
import longthread.service.storage.statements.StatementQueries;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;

/**
 * Keeps the graph and the catalog in memory up with the numbered changes in the database, whichever
 * replica applied them. Readers never wait for it.
 */
@Component
public class GraphFollower {
  private static final Logger LOG = LoggerFactory.getLogger(GraphFollower.class);
  private static final int MAX_CHANGES = 200;
  private static final int MAX_TAIL = 2_000; // changes that a graph is caught up by at a start
  private static final int CARDS_AT_ONCE = 1_000;
  private static final double MILLIS = 1_000;
  private static final HeadQueries.Position NOWHERE =
      new HeadQueries.Position(new UUID(0, 0), 0, Instant.EPOCH);

  private final HeadQueries head;
  private final CardQueries cards;
  private final LinkQueries links;
  private final StatementQueries statements;
  private final Catalog catalog;
  private final ColumnMaps columnMaps;
  private final GraphFile graphFile;
  private final LinkNames linkNames;
  private final Clock clock;
  private volatile GraphStore store = new GraphStore();
  private volatile HeadQueries.Position position = NOWHERE;
  private HeadQueries.Position keptAt = NOWHERE;
  private String namedBy = "";
  private volatile Instant followedAt = Instant.EPOCH;
  private Instant endedUpTo = Instant.EPOCH; // recorded links that ended by their date
  private final List<Runnable> onRegister = new CopyOnWriteArrayList<>();

  GraphFollower(
      HeadQueries head,
      CardQueries cards,
      LinkQueries links,
      RenameQueries renames,
      StatementQueries statements,
      Catalog catalog,
      ColumnMaps columnMaps,
      GraphFile graphFile,
      Clock clock) {
    this.head = head;
    this.cards = cards;
    this.links = links;
    this.statements = statements;
    this.catalog = catalog;
    this.columnMaps = columnMaps;
    this.graphFile = graphFile;
    this.clock = clock;
    linkNames = new LinkNames(renames, catalog);
    catalog.linkedBy(this::isLinked);
  }

  /** The graph as it stands. */
  public LineageGraph graph() {
    return store.current();
  }

  /** How stored links are named in the graph. */
  LinkNames linkNames() {
    return linkNames;
  }

  /**
   * A graph that another may change, as of now.
   *
   * @param endedUpTo links whose date came by then are out of it
   */
  record Fork(GraphStore store, Instant endedUpTo) {}

  /** Copies the names of the graph, while no change is taken in. */
  synchronized Fork fork() {
    return new Fork(store.fork(), endedUpTo);
  }

  /** Whether a dataset has links. */
  private boolean isLinked(String ref) {
    LineageGraph graph = graph();
    var asset = graph.asset(ref);
    return !Reference.isJob(ref)
        && asset.isPresent()
        && graph.isLinked(graph.rowsOf(asset.getAsInt()));
  }

  /** Adds what is to be done when what is registered by hand has changed: terms, rules. */
  public void onRegister(Runnable listener) {
    onRegister.add(listener);
  }

  /** The number of the newest change that queries see. */
  public long number() {
    return position.number();
  }

  /** When the database was last asked for changes. */
  public Instant followedAt() {
    return followedAt;
  }

  @PostConstruct
  synchronized void start() {
    load(graphFile.read().orElse(null));
  }

  /** Reads everything from the database. */
  synchronized void load() {
    load(null);
  }

  /** Reads everything, but the links that a file has them. */
  private void load(GraphFile.@Nullable Image image) {
    HeadQueries.Position newest = head.position();
    Instant began = clock.instant();
    endedUpTo = began;
    onRegister.forEach(Runnable::run);
    List<String> spelled = rules();
    catalog.setRules(MergeRules.of(spelled));
    linkNames.readRenames();
    namedBy = namedBy(spelled);
    List<Card> all = cards();
    Instant read = clock.instant();
    catalog.replaceAll(all);
    Instant grouped = clock.instant();
    boolean caughtUp = image != null && catchUp(image, newest);
    if (!caughtUp) {
      loadAllLinks();
    }
    position = newest;
    followedAt = clock.instant();
    LOG.info(
        "graph loaded in {} s (cards {}, names {}, links{} {}): {} assets, {} links, change {}",
        seconds(began, followedAt),
        seconds(began, read),
        seconds(read, grouped),
        caughtUp ? " from its file" : "",
        seconds(grouped, followedAt),
        graph().assetCount(),
        graph().linkCount(),
        number());
  }

  private static double seconds(Instant from, Instant to) {
    return Duration.between(from, to).toMillis() / MILLIS;
  }

  /** All cards; they are read out on all cores, which takes longer than fetching them. */
  private List<Card> cards() {
    ExecutorService readers =
        Executors.newFixedThreadPool(Runtime.getRuntime().availableProcessors());
    try {
      var parts = new ArrayList<CompletableFuture<List<Card>>>();
      var part = new ArrayList<CardQueries.Body>(CARDS_AT_ONCE);
      cards.forEach(
          card -> {
            part.add(card);
            if (part.size() == CARDS_AT_ONCE) {
              parts.add(readOut(List.copyOf(part), readers));
              part.clear();
            }
          });
      parts.add(readOut(List.copyOf(part), readers));
      var all = new ArrayList<Card>();
      parts.forEach(some -> all.addAll(some.join()));
      return all;
    } finally {
      readers.shutdownNow();
    }
  }

  private static CompletableFuture<List<Card>> readOut(
      List<CardQueries.Body> bodies, Executor readers) {
    return CompletableFuture.supplyAsync(
        () -> bodies.stream().map(card -> StoredText.card(card.body())).toList(), readers);
  }

  /**
   * Takes the graph of a file and what changed since; false, with a line in the log, if that cannot
   * lead to what the database holds.
   */
  private boolean catchUp(GraphFile.Image image, HeadQueries.Position newest) {
    GraphFile.Head then = image.head();
    long at = then.position().number();
    if (!then.position().epoch().equals(newest.epoch())) {
      graphFile.aside("it is of another database, or of the time before a rebuild");
      return false;
    }
    if (at > newest.number() || newest.number() - at > MAX_TAIL) {
      graphFile.aside("it is of change " + at + ", the database at " + newest.number());
      return false;
    }
    Optional<Instant> madeAt =
        at == newest.number() ? Optional.of(newest.changedAt()) : head.madeAt(at);
    if (!madeAt.equals(Optional.of(then.position().changedAt()))) {
      graphFile.aside("the database was put back to an older state since");
      return false;
    }
    List<HeadQueries.Change> changes = head.changes(at, newest.number());
    var refs = new TreeSet<String>();
    changes.forEach(change -> refs.addAll(Arrays.asList(change.refs())));
    if (changes.size() < newest.number() - at || !then.namedBy().equals(namedBy)) {
      graphFile.aside("what changed since is not kept, or rules of names changed");
      return false;
    }
    GraphStore read;
    try {
      read = image.graph(this::known, columnMaps);
    } catch (RuntimeException e) { // whatever bytes of another form may lead to
      graphFile.aside("it cannot be read: " + e);
      return false;
    }
    LineageGraph graph = read.current();
    boolean namedAsThen =
        isSame(then.leads(), catalog.otherLeads(), graph)
            && isSame(then.dotted(), catalog.dottedNames(), graph);
    if (!namedAsThen) {
      graphFile.aside("names were joined or parted since");
      return false;
    }
    store = read;
    endedUpTo = then.endedUpTo();
    refs.removeIf(HandFacet::isRegister);
    if (!refs.isEmpty()) {
      update(refs);
    }
    endRecorded();
    return true;
  }

  /** The text that the catalog holds of a reference, so that it is there once. */
  private String known(String ref) {
    return catalog.known(ref).map(Asset::ref).filter(ref::equals).orElse(ref);
  }

  /** Whether what is known of names is the same, as far as a graph has any of them. */
  private static <V> boolean isSame(Map<String, V> then, Map<String, V> now, LineageGraph graph) {
    return then.entrySet().stream().allMatch(one -> one.getValue().equals(now.get(one.getKey())))
        && now.keySet().stream()
            .allMatch(name -> then.containsKey(name) || graph.asset(name).isEmpty());
  }

  /** Keeps the graph for the next start, if it has changed since it was kept. */
  @PreDestroy
  @Scheduled(
      initialDelayString = "${longthread.graph-file-every}",
      fixedDelayString = "${longthread.graph-file-every}")
  void keep() {
    if (!graphFile.isKept()) {
      return;
    }
    GraphFile.Head made;
    LineageGraph graph;
    synchronized (this) {
      if (position.equals(keptAt)) {
        return;
      }
      made =
          new GraphFile.Head(
              position, endedUpTo, namedBy, catalog.otherLeads(), catalog.dottedNames());
      graph = graph();
      keptAt = position;
    }
    graphFile.write(made, graph, columnMaps);
  }

  /**
   * By what names were made one: settings, rules of people, and what was renamed; and the flows,
   * whose places in their order stand in the graph.
   */
  private String namedBy(List<String> rules) {
    return CanonicalJson.digest(
        Arrays.toString(Flow.values())
            + "\n"
            + catalog.foldedBy()
            + "\n"
            + rules
            + "\n"
            + linkNames.texts());
  }

  /** The rules of people by which names are one, in the order of their ids. */
  private List<String> rules() {
    return statements.standing(HandFacet.RULE).stream()
        .map(row -> StoredText.json(row.body()).path("value").path("rule").stringValue(""))
        .filter(rule -> !rule.isEmpty())
        .toList();
  }

  private void loadAllLinks() {
    var fresh = new GraphStore();
    fresh.describeAll(listed(catalog.all()));
    GraphStore.Loading loading = fresh.load();
    links.forEachCurrent(link -> loading.add(link.owner(), linkNames.named(link)));
    loading.publish();
    columnMaps.reload();
    store = fresh;
  }

  /** Takes in the changes of other replicas; those of this one are followed at once. */
  @Scheduled(fixedDelay = 200)
  void poll() {
    try {
      follow();
    } catch (RuntimeException e) {
      LOG.warn("changes cannot be followed now: {}", e.getMessage());
    }
  }

  /** Takes out the recorded links whose date has come. */
  @Scheduled(fixedDelay = 10_000)
  synchronized void endRecorded() {
    try {
      Instant now = clock.instant();
      List<String> ended = links.endedBetween(endedUpTo, now);
      if (!ended.isEmpty()) {
        update(new TreeSet<>(ended));
      }
      endedUpTo = now;
    } catch (RuntimeException e) {
      LOG.warn("recorded links that ended cannot be read now: {}", e.getMessage());
    }
  }

  /** Takes in all changes that were committed before the call. */
  public synchronized void follow() {
    HeadQueries.Position at = head.position();
    long newest = at.number();
    long number = number();
    followedAt = clock.instant();
    if (newest == number) {
      return;
    }
    if (newest < number || newest - number > MAX_CHANGES) {
      load();
      return;
    }
    List<HeadQueries.Change> changes = head.changes(number, newest);
    if (changes.size() < newest - number) {
      load(); // the tail was pruned
      return;
    }
    var refs = new TreeSet<String>();
    changes.forEach(change -> refs.addAll(Arrays.asList(change.refs())));
    if (refs.stream().anyMatch(ref -> ref.startsWith(HandFacet.REGISTER + "/rule/"))) {
      load(); // names may be grouped in another way now
      return;
    }
    if (refs.removeIf(HandFacet::isRegister)) {
      onRegister.forEach(Runnable::run);
    }
    update(refs);
    position = at;
  }

  private void update(Set<String> refs) {
    String[] names = refs.toArray(String[]::new);
    List<Card> changed =
        cards.cards(names).stream().map(card -> StoredText.card(card.body())).toList();
    CatalogIndex.Resolving resolving = catalog.put(changed);
    boolean regrouped = resolving.regrouped();
    if (changed.stream().anyMatch(card -> card.renamedTo() != null || !card.formerly().isEmpty())) {
      regrouped |= linkNames.readRenames();
      namedBy = namedBy(rules());
    }
    if (regrouped) {
      loadAllLinks();
      return;
    }
    var assets = new HashMap<String, Asset>();
    for (Card card : changed) {
      catalog.known(card.ref()).ifPresent(asset -> assets.put(asset.ref(), asset));
    }
    store.describeAll(listed(assets.values()));
    var owners = new TreeSet<>(refs);
    owners.addAll(ownersTouching(resolving.respelled()));
    Map<String, List<NamedLink>> byOwner =
        linkNames.byOwner(links.currentOf(owners.toArray(String[]::new)));
    for (String ref : owners) {
      if (store.current().ownerOrdinal(ref).isPresent()) {
        byOwner.putIfAbsent(ref, List.of());
      }
    }
    columnMaps.reload(owners.toArray(String[]::new));
    store.replaceAll(byOwner);
  }

  /** The columns that the schemas of assets list; jobs have none. */
  private static Map<String, List<String>> listed(Collection<Asset> assets) {
    var listed = new HashMap<String, List<String>>();
    for (Asset asset : assets) {
      if (!asset.isJob()) {
        listed.put(asset.ref(), asset.card().columns().stream().map(Card.Column::path).toList());
      }
    }
    return listed;
  }

  /** Who states links from or into any of the assets. */
  private Set<String> ownersTouching(Set<String> assets) {
    LineageGraph graph = store.current();
    var owners = new TreeSet<String>();
    for (String asset : assets) {
      graph
          .asset(asset)
          .ifPresent(
              ordinal -> {
                for (int node : Walk.originsOf(graph, graph.rowsOf(ordinal))) {
                  for (Direction direction : Direction.values()) {
                    graph.forEachLink(
                        node, direction, (end, flow, mask, by) -> owners.add(graph.owner(by)));
                  }
                }
              });
    }
    return owners;
  }
}
