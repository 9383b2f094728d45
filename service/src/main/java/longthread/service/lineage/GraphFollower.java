package longthread.service.lineage;

import jakarta.annotation.PostConstruct;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Timestamp;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import java.util.concurrent.ConcurrentHashMap;
import longthread.core.asset.Card;
import longthread.core.event.Flow;
import longthread.core.graph.GraphStore;
import longthread.core.graph.GraphStore.NamedLink;
import longthread.core.graph.LineageGraph;
import longthread.service.catalog.Catalog;
import longthread.service.web.ProblemException;
import longthread.service.web.StoredText;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.http.HttpStatus;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.scheduling.annotation.EnableScheduling;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;

/**
 * Keeps the graph and the catalog in memory up with the numbered changes in the database, whichever
 * replica applied them. Readers never wait for it.
 */
@Component
@EnableScheduling
public class GraphFollower {
  private static final Logger LOG = LoggerFactory.getLogger(GraphFollower.class);
  private static final int MOST_CHANGES = 200;
  private static final int LONGEST_CHAIN = 20; // of renames
  private static final Duration LONGEST_WAIT = Duration.ofSeconds(10);
  private static final String LINKS =
      "select coalesce(j.ref, o.ref), f.ref, l.from_column, t.ref, l.to_column, l.flow, l.masking,"
          + " l.last_seen"
          + " from link l join dataset f on f.id = l.from_dataset join dataset t on t.id = l.to_dataset"
          + " left join job j on l.owner_kind = 2 and j.id = l.owner_id"
          + " left join dataset o on l.owner_kind = 1 and o.id = l.owner_id";

  /** Which output columns an owner's map tells the sources of, by the asset's reference. */
  private record ColumnMap(Map<String, Set<String>> described, boolean gap) {}

  private final JdbcTemplate jdbc;
  private final Catalog catalog;
  private final Clock clock;
  private final Map<String, ColumnMap> maps = new ConcurrentHashMap<>();
  private volatile Map<String, List<NewName>> newNames = Map.of();
  private volatile GraphStore store = new GraphStore();
  private volatile long number;
  private volatile Instant followedAt = Instant.EPOCH;

  GraphFollower(JdbcTemplate jdbc, Catalog catalog, Clock clock) {
    this.jdbc = jdbc;
    this.catalog = catalog;
    this.clock = clock;
  }

  /** The graph as it stands. */
  public LineageGraph graph() {
    return store.current();
  }

  /** The number of the newest change that queries see. */
  public long number() {
    return number;
  }

  /** When the database was last asked for changes. */
  public Instant followedAt() {
    return followedAt;
  }

  @PostConstruct
  synchronized void load() {
    long head = headNumber();
    readRenames();
    catalog.replaceAll(
        jdbc.query("select body from card", (row, n) -> StoredText.card(row.getBytes(1))));
    layAllLinks();
    number = head;
    followedAt = clock.instant();
    LOG.info(
        "graph loaded: {} assets, {} links, change {}",
        graph().assetCount(),
        graph().linkCount(),
        number);
  }

  private long headNumber() {
    Long head = jdbc.queryForObject("select number from graph_head", Long.class);
    return head == null ? 0 : head;
  }

  private void layAllLinks() {
    var fresh = new GraphStore();
    catalog
        .all()
        .forEach(
            asset -> {
              if (!asset.ref().startsWith("@")) {
                fresh.describe(
                    asset.ref(), asset.card().columns().stream().map(Card.Column::path).toList());
              }
            });
    fresh.replaceAll(links(LINKS + " where l.until is null"));
    readMaps(null);
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

  /** Takes in all changes that were committed before the call. */
  public synchronized void follow() {
    long head = headNumber();
    followedAt = clock.instant();
    if (head == number) {
      return;
    }
    if (head < number || head - number > MOST_CHANGES) {
      load();
      return;
    }
    var refs = new TreeSet<String>();
    List<Long> numbers =
        jdbc.query(
            "select number, refs from graph_change where number > ? and number <= ?",
            (row, n) -> {
              refs.addAll(Arrays.asList((String[]) row.getArray(2).getArray()));
              return row.getLong(1);
            },
            number,
            head);
    if (numbers.size() < head - number) {
      load(); // the tail was pruned
      return;
    }
    take(refs);
    number = head;
  }

  private void take(Set<String> refs) {
    String[] names = refs.toArray(String[]::new);
    List<Card> cards =
        jdbc.query(
            "select body from card where ref = any(?)",
            (row, n) -> StoredText.card(row.getBytes(1)),
            (Object) names);
    boolean regrouped = catalog.put(cards);
    if (cards.stream().anyMatch(card -> card.renamedTo() != null || !card.formerly().isEmpty())) {
      regrouped |= readRenames();
    }
    if (regrouped) {
      layAllLinks();
      return;
    }
    for (Card card : cards) {
      if (!card.ref().startsWith("@")) {
        store.describe(
            catalog.leadOf(card.ref()), card.columns().stream().map(Card.Column::path).toList());
      }
    }
    Map<String, List<NamedLink>> links =
        links(
            LINKS
                + " where l.until is null and ((l.owner_kind = 2 and l.owner_id in"
                + " (select id from job where ref = any(?))) or (l.owner_kind = 1 and l.owner_id in"
                + " (select id from dataset where ref = any(?))))",
            names,
            names);
    refs.forEach(
        ref -> {
          if (store.current().ownerOrdinal(ref).isPresent()) {
            links.putIfAbsent(ref, List.of());
          }
        });
    readMaps(names);
    store.replaceAll(links);
  }

  private Map<String, List<NamedLink>> links(String sql, Object... parameters) {
    var links = new HashMap<String, List<NamedLink>>();
    jdbc.query(
        sql,
        row -> {
          links.computeIfAbsent(row.getString(1), k -> new ArrayList<>()).add(link(row));
        },
        parameters);
    return links;
  }

  private NamedLink link(ResultSet row) throws SQLException {
    Instant lastSeen = row.getTimestamp(8).toInstant();
    String from = catalog.leadOf(nameSince(row.getString(2), lastSeen));
    String to = catalog.leadOf(nameSince(row.getString(4), lastSeen));
    return new NamedLink(
        from,
        catalog.columnOf(from, row.getString(3)),
        to,
        catalog.columnOf(to, row.getString(5)),
        Flow.valueOf(row.getString(6)),
        row.getBoolean(7));
  }

  /** What was under a name before it was given up is seen under the name it got. */
  private String nameSince(String ref, Instant lastSeen) {
    String name = ref;
    for (int hop = 0; hop < LONGEST_CHAIN; hop++) {
      String next = null;
      for (NewName to : newNames.getOrDefault(name, List.of())) {
        if (lastSeen.isBefore(to.at())) {
          next = to.ref();
          break;
        }
      }
      if (next == null) {
        return name;
      }
      name = next;
    }
    return name;
  }

  private record NewName(Instant at, String ref) {}

  /** Reads all renames; returns whether there are others than before. */
  private boolean readRenames() {
    var names = new HashMap<String, List<NewName>>();
    jdbc.query(
        "select f.ref, t.ref, r.at_s, r.at_n from renamed r join dataset f on f.id ="
            + " r.from_dataset join dataset t on t.id = r.to_dataset order by r.at_s, r.at_n, t.ref",
        row -> {
          names
              .computeIfAbsent(row.getString(1), k -> new ArrayList<>())
              .add(
                  new NewName(
                      Instant.ofEpochSecond(row.getLong(3), row.getInt(4)), row.getString(2)));
        });
    boolean changed = !names.equals(newNames);
    newNames = names;
    return changed;
  }

  private void readMaps(String @Nullable [] owners) {
    String sql =
        "select coalesce(j.ref, d.ref), m.described, m.gap from job_map m"
            + " left join job j on m.owner_kind = 2 and j.id = m.owner_id"
            + " left join dataset d on m.owner_kind = 1 and d.id = m.owner_id";
    var read = new HashMap<String, ColumnMap>();
    org.springframework.jdbc.core.RowCallbackHandler each =
        row -> {
          var described = new HashMap<String, Set<String>>();
          for (String column : (String[]) row.getArray(2).getArray()) {
            int hash = column.indexOf('#');
            described
                .computeIfAbsent(catalog.leadOf(column.substring(0, hash)), k -> new HashSet<>())
                .add(column.substring(hash + 1));
          }
          read.put(row.getString(1), new ColumnMap(described, row.getBoolean(3)));
        };
    if (owners == null) {
      jdbc.query(sql, each);
      maps.keySet().retainAll(read.keySet());
    } else {
      jdbc.query(sql + " where coalesce(j.ref, d.ref) = any(?)", each, (Object) owners);
    }
    maps.putAll(read);
  }

  /** What is missing before an owner's column map into an asset can be called complete. */
  public @Nullable String missing(String owner, String target) {
    ColumnMap map = maps.get(owner);
    Set<String> described = map == null ? Set.of() : map.described().getOrDefault(target, Set.of());
    if (map == null || described.isEmpty()) {
      return owner + " tells nothing of the columns of " + target;
    }
    if (map.gap()) {
      return "the emitter of " + owner + " could not read parts of it";
    }
    Collection<Card.Column> columns =
        catalog.asset(target).map(asset -> asset.card().columns()).orElse(List.of());
    List<String> lacking =
        columns.stream().map(Card.Column::path).filter(path -> !described.contains(path)).toList();
    return lacking.isEmpty()
        ? null
        : owner
            + " does not tell the sources of "
            + lacking.size()
            + " of "
            + columns.size()
            + " columns of "
            + target
            + ", such as "
            + lacking.get(0);
  }

  /** The graph as it stood at a moment, with all knowledge of today. */
  public LineageGraph graphAt(Instant at) {
    var past = new GraphStore();
    past.replaceAll(
        links(
            LINKS + " where l.first_seen <= ? and (l.until is null or l.until > ?)",
            Timestamp.from(at),
            Timestamp.from(at)));
    return past.current();
  }

  /**
   * Waits until queries see what an intake answer confirmed.
   *
   * @param receipt the number of its block, as the answer gave it
   * @return whether they see it now
   */
  public boolean await(String receipt, Duration longest) {
    long block;
    try {
      block = Long.parseLong(receipt);
    } catch (NumberFormatException e) {
      throw ProblemException.badRequest(
          "bad-receipt", "'" + receipt + "' is no receipt; take the one an intake answer carries");
    }
    long deadline = System.nanoTime() + longest.toNanos();
    while (true) {
      List<@Nullable Long> applied =
          jdbc.queryForList(
              "select change_number from event_block where id = ?", Long.class, block);
      if (!applied.isEmpty() && applied.get(0) != null) {
        if (applied.get(0) > number) {
          follow();
        }
        return true;
      }
      if (System.nanoTime() >= deadline) {
        return false;
      }
      try {
        Thread.sleep(5);
      } catch (InterruptedException e) {
        Thread.currentThread().interrupt();
        return false;
      }
    }
  }

  /** Makes a query see what {@code after} stands for, or says that it cannot yet. */
  public void see(@Nullable String after) {
    if (after != null && !await(after, LONGEST_WAIT)) {
      throw new ProblemException(
          HttpStatus.SERVICE_UNAVAILABLE,
          "not-applied-yet",
          "The events of this receipt are not applied yet",
          "the applier is behind; ask again in a moment, or without 'after'");
    }
  }
}
