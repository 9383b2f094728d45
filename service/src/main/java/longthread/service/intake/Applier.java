package longthread.service.intake;

import io.micrometer.core.instrument.MeterRegistry;
import jakarta.annotation.PreDestroy;
import java.sql.SQLException;
import java.sql.Timestamp;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import longthread.core.event.CanonicalJson;
import longthread.core.event.EventFacts;
import longthread.core.event.EventReader;
import longthread.core.event.FacetMemory;
import longthread.core.event.UnreadableEventException;
import longthread.core.sql.SqlReader;
import longthread.service.lineage.GraphFollower;
import longthread.service.web.StoredText;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.boot.context.event.ApplicationReadyEvent;
import org.springframework.context.event.EventListener;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Component;
import org.springframework.transaction.TransactionException;

/**
 * Takes waiting blocks of the log and works them into the catalog, in batches, each one
 * transaction. Of all replicas only one applies at a time: the one that holds the advisory lock, on
 * the very connection it writes with, so that losing the connection loses the lock and the writes
 * together.
 */
@Component
public class Applier {
  /** The advisory lock of whoever writes the catalog. */
  private static final long LOCK = 7_301_001L;

  private static final Logger LOG = LoggerFactory.getLogger(Applier.class);
  private static final int MOST_BLOCKS = 256;
  private static final int MOST_EVENTS = 2_000;
  private static final long IDLE_MILLIS = 500;
  private static final int STREAM = 12; // events in a batch, from which on it is one of many
  private static final long GATHER_MILLIS = 60;
  private static final long FACET_MEMORY_BYTES = 16 << 20;

  private final Clock clock;
  private final GraphFollower follower;
  private final MeterRegistry meters;
  private final SqlReader reader;
  private final RecentEvents recent;
  private final Workbench.Address address;
  private final UUID self = UUID.randomUUID();
  private static final int JOBS_AT_ONCE = 100;
  private static final Duration BETWEEN_TRIES = Duration.ofMinutes(1);

  private final FacetMemory memory = new FacetMemory(FACET_MEMORY_BYTES);
  private final Semaphore work = new Semaphore(0);
  private final Thread thread = new Thread(this::applyForEver, "log-applier");
  private @Nullable Workbench bench;
  private boolean gathering;
  private Instant nextPendingTry = Instant.MIN;
  private volatile boolean applying;
  private volatile boolean stopping;

  Applier(
      Clock clock,
      GraphFollower follower,
      MeterRegistry meters,
      SqlReader reader,
      RecentEvents recent,
      @Value("${spring.datasource.url}") String url,
      @Value("${spring.datasource.username}") String user,
      @Value("${spring.datasource.password}") String password) {
    this.clock = clock;
    this.follower = follower;
    this.meters = meters;
    this.reader = reader;
    this.recent = recent;
    this.address = new Workbench.Address(url, user, password);
    meters.gauge("longthread.applier", this, applier -> applier.applying ? 1 : 0);
  }

  @EventListener(ApplicationReadyEvent.class)
  void start() {
    thread.setDaemon(true);
    thread.start();
  }

  @PreDestroy
  void stop() throws InterruptedException {
    stopping = true;
    thread.interrupt();
    thread.join(5_000);
  }

  /** Tells that there is something to apply. */
  void wake() {
    work.release();
  }

  /** Whether this replica is the one that applies. */
  public boolean isApplying() {
    return applying;
  }

  private void applyForEver() {
    while (!stopping) {
      try {
        Workbench mine = mine();
        boolean more = mine != null && applySome(mine, MOST_BLOCKS);
        if (more) {
          follower.follow();
          gather();
        } else {
          tryPendingSql(mine);
          rest();
        }
      } catch (InterruptedException e) {
        Thread.currentThread().interrupt();
      } catch (RuntimeException e) {
        recover(e);
      }
    }
    drop();
  }

  /**
   * In a stream of events, lets some more come in before the next batch: a batch has its price,
   * however few events share it. Never while there is more waiting than a batch takes.
   */
  private void gather() throws InterruptedException {
    if (gathering) {
      Thread.sleep(GATHER_MILLIS);
    }
  }

  private void rest() throws InterruptedException {
    work.tryAcquire(IDLE_MILLIS, TimeUnit.MILLISECONDS);
    work.drainPermits();
  }

  /** The connection that holds the lock; null while another replica does. */
  private @Nullable Workbench mine() {
    if (bench == null) {
      try {
        bench = Workbench.open(address, "catalog", reader, meters);
      } catch (SQLException e) {
        LOG.warn("the applier cannot connect: {}", e.getMessage());
        return null;
      }
    }
    if (!applying) {
      applying =
          Boolean.TRUE.equals(
              bench.jdbc.queryForObject("select pg_try_advisory_lock(?)", Boolean.class, LOCK));
      if (applying) {
        LOG.info("this replica applies the log now");
        readSqlAgain(bench);
      }
    }
    return applying ? bench : null;
  }

  /** Reads the SQL of all jobs again, if their links stand by the rules of an older version. */
  private void readSqlAgain(Workbench mine) {
    int rules = mine.jdbc.queryForObject("select sql_rules from graph_head", Integer.class);
    if (rules >= SqlReader.VERSION) {
      return;
    }
    List<Subject> owners = mine.catalog.withSql();
    rederive(mine, owners);
    mine.jdbc.update("update graph_head set sql_rules = ?", SqlReader.VERSION);
    if (!owners.isEmpty()) {
      LOG.info("the SQL of {} jobs and views was read again", owners.size());
      follower.follow();
    }
  }

  private void rederive(Workbench mine, List<Subject> owners) {
    for (int from = 0; from < owners.size(); from += JOBS_AT_ONCE) {
      List<Subject> some = owners.subList(from, Math.min(owners.size(), from + JOBS_AT_ONCE));
      mine.transactions.executeWithoutResult(
          status -> {
            takeOver(mine);
            number(mine, List.of(), mine.catalog.rederive(some));
          });
    }
  }

  /** While there is nothing else to do, tries the SQL again that took too long. */
  private void tryPendingSql(@Nullable Workbench mine) {
    if (mine == null || clock.instant().isBefore(nextPendingTry)) {
      return;
    }
    nextPendingTry = clock.instant().plus(BETWEEN_TRIES);
    List<Subject> owners = mine.catalog.takePendingSql();
    if (!owners.isEmpty()) {
      rederive(mine, owners);
      follower.follow();
    }
  }

  private void drop() {
    applying = false;
    if (bench != null) {
      bench.close();
      bench = null;
    }
  }

  /** After a failed batch: each block alone, and what fails even then is refused and passed. */
  private void recover(RuntimeException cause) {
    Workbench mine = bench;
    if (mine == null) {
      return;
    }
    mine.catalog.forget();
    if (!isAlive(mine)) {
      LOG.warn("the applier lost its connection: {}", cause.getMessage());
      drop();
      pause();
      return;
    }
    LOG.warn("a batch could not be applied and is tried again, event by event", cause);
    try {
      singly(mine);
    } catch (DataAccessException | TransactionException e) {
      LOG.warn("the log cannot be applied now: {}", e.getMessage());
      drop();
      pause();
    }
  }

  private static boolean isAlive(Workbench bench) {
    try {
      bench.jdbc.queryForObject("select 1", Integer.class);
      return true;
    } catch (DataAccessException e) {
      return false;
    }
  }

  private void pause() {
    try {
      Thread.sleep(IDLE_MILLIS);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
  }

  private void singly(Workbench mine) {
    Batch batch = waiting(mine, 1);
    int[] applied = {0};
    for (LoggedEvent event : batch.events()) {
      try {
        mine.transactions.executeWithoutResult(
            status -> {
              Applied one = apply(mine, List.of(event));
              number(mine, List.of(), one.refs());
              applied[0] += one.events();
            });
      } catch (RuntimeException e) {
        mine.catalog.forget();
        if (!isAlive(mine)) {
          throw e;
        }
        LOG.error("event {} of block {} is refused", event.position(), event.block(), e);
        refuse(mine, event, "not-applicable", "the service failed to work it in; see its log");
      }
    }
    mine.transactions.executeWithoutResult(
        status -> {
          number(mine, batch.blocks(), Set.of());
          count(mine, batch, applied[0]);
        });
    follower.follow();
  }

  /**
   * What is worked in at once.
   *
   * @param entries how many entries its blocks have, refused ones counted
   * @param full whether more blocks may be waiting
   */
  private record Batch(List<Long> blocks, List<LoggedEvent> events, int entries, boolean full) {}

  /** What a batch changed, and how many of its events were new. */
  private record Applied(Set<String> refs, int events) {}

  private static void count(Workbench mine, Batch batch, int applied) {
    mine.jdbc.update(
        "update intake_count set received = received + ?, applied = applied + ?,"
            + " duplicates = duplicates + ?",
        batch.entries(),
        applied,
        batch.events().size() - applied);
  }

  /** Applies up to so many blocks; returns whether there were any. */
  private boolean applySome(Workbench mine, int blocks) {
    mine.stages.begin();
    Batch batch = waiting(mine, blocks);
    if (batch.blocks().isEmpty()) {
      return false;
    }
    mine.stages.done("unpack");
    mine.transactions.executeWithoutResult(
        status -> {
          takeOver(mine);
          Applied applied = apply(mine, batch.events());
          number(mine, batch.blocks(), applied.refs());
          count(mine, batch, applied.events());
        });
    mine.stages.done("commit");
    gathering = batch.entries() >= STREAM && !batch.full();
    return true;
  }

  /** Locks the head; whoever finds another's mark on it has remembered an outdated catalog. */
  private void takeOver(Workbench mine) {
    UUID last = mine.jdbc.queryForObject("select applier from graph_head for update", UUID.class);
    if (!self.equals(last)) {
      mine.catalog.forget();
      mine.jdbc.update("update graph_head set applier = ?, term = term + 1", self);
    }
  }

  private static Batch waiting(Workbench mine, int most) {
    var blocks = new ArrayList<Long>();
    var events = new ArrayList<LoggedEvent>();
    var counts =
        mine.jdbc.queryForList(
            "select id, events from event_block where applied_at is null order by id limit ?",
            most);
    int total = 0;
    int entries = 0;
    for (Map<String, Object> row : counts) {
      total += (int) row.get("events");
      if (!blocks.isEmpty() && total > MOST_EVENTS) {
        break;
      }
      blocks.add((Long) row.get("id"));
      entries += (int) row.get("events");
    }
    if (!blocks.isEmpty()) {
      mine.jdbc.query(
          "select id, received_at, body from event_block where id = any(?) order by id",
          row -> {
            events.addAll(
                Packed.events(row.getLong(1), row.getTimestamp(2).toInstant(), row.getBytes(3)));
          },
          (Object) blocks.toArray(Long[]::new));
    }
    return new Batch(
        blocks, events, entries, counts.size() == most || blocks.size() < counts.size());
  }

  private Applied apply(Workbench mine, List<LoggedEvent> events) {
    var brought = new ArrayList<FactStore.Brought>();
    var read = new ArrayList<EventFacts>();
    var sources = new ArrayList<LoggedEvent>();
    List<LoggedEvent> unseen = unseen(mine, events);
    mine.stages.done("duplicates");
    for (LoggedEvent event : unseen) {
      try {
        EventFacts facts = EventReader.read(event.bytes(), event.receivedAt(), memory);
        brought.add(new FactStore.Brought(facts, event.block()));
        read.add(facts);
        sources.add(event);
      } catch (UnreadableEventException e) {
        refuse(mine, event, e.problem(), e.reason());
      }
    }
    mine.stages.done("read");
    if (read.isEmpty()) {
      return new Applied(Set.of(), 0);
    }
    CatalogWriter.Changes changes = mine.catalog.write(brought);
    var recent = new ArrayList<Object[]>();
    for (int i = 0; i < read.size(); i++) {
      recent.add(recentRow(sources.get(i), read.get(i), changes.words().get(i)));
    }
    mine.jdbc.batchUpdate(
        "insert into recent_event values (?, ?, ?, ?, ?, ?, ?, ?) on conflict do nothing", recent);
    mine.emitters.write(read, sources.stream().map(LoggedEvent::receivedAt).toList());
    mine.stages.done("records");
    return new Applied(changes.refs(), read.size());
  }

  /** The events whose bytes were never applied before; of equal ones the first. */
  private static List<LoggedEvent> unseen(Workbench mine, List<LoggedEvent> events) {
    var byDigest = new LinkedHashMap<String, LoggedEvent>();
    events.forEach(event -> byDigest.putIfAbsent(CanonicalJson.digest(event.bytes()), event));
    if (byDigest.isEmpty()) {
      return List.of();
    }
    byte[][] digests =
        byDigest.keySet().stream().map(HexFormat.of()::parseHex).toArray(byte[][]::new);
    Long[] blocks = byDigest.values().stream().map(LoggedEvent::block).toArray(Long[]::new);
    Integer[] positions =
        byDigest.values().stream().map(LoggedEvent::position).toArray(Integer[]::new);
    Set<String> fresh =
        new HashSet<>(
            mine.jdbc.query(
                "insert into event_seen select unnest(?), unnest(?), unnest(?)"
                    + " on conflict do nothing returning encode(digest, 'hex')",
                (row, n) -> row.getString(1),
                digests,
                blocks,
                positions));
    return byDigest.entrySet().stream()
        .filter(entry -> fresh.contains(entry.getKey()))
        .map(Map.Entry::getValue)
        .toList();
  }

  private static Object[] recentRow(LoggedEvent event, EventFacts facts, Set<String> words) {
    String about = facts.job() != null ? facts.job().reference() : facts.dataset().reference();
    String type = StoredText.clean(facts.type());
    return new Object[] {
      event.block(),
      event.position(),
      Timestamp.from(event.receivedAt()),
      StoredTime.of(facts.at().at()),
      facts.at().farFuture() ? type + " (far future)" : type,
      about,
      StoredText.clean(facts.emitter().producer()),
      words.stream().map(StoredText::clean).toArray(String[]::new)
    };
  }

  /** Keeps an event as refused. Its bytes may come again, when they can be read. */
  private void refuse(Workbench mine, LoggedEvent event, String problem, String reason) {
    String digest = CanonicalJson.digest(event.bytes());
    recent.forget(digest);
    mine.jdbc.update("delete from event_seen where digest = ?", FactRows.bytes(digest));
    mine.jdbc.update(
        "insert into refused_event (block_id, position, received_at, problem, reason, source)"
            + " values (?, ?, ?, ?, ?, (select source from event_block where id = ?))",
        event.block(),
        event.position(),
        Timestamp.from(event.receivedAt()),
        problem,
        StoredText.clean(reason),
        event.block());
  }

  /** Numbers the change without gaps and marks the blocks, both in the batch's transaction. */
  private void number(Workbench mine, List<Long> blocks, Set<String> changed) {
    Timestamp now = Timestamp.from(clock.instant());
    Long number =
        changed.isEmpty()
            ? mine.jdbc.queryForObject("select number from graph_head", Long.class)
            : mine.jdbc.queryForObject(
                "update graph_head set number = number + 1 returning number", Long.class);
    if (!changed.isEmpty()) {
      mine.jdbc.update(
          "insert into graph_change (number, made_at, refs) values (?, ?, ?)",
          number,
          now,
          changed.toArray(String[]::new));
    }
    if (!blocks.isEmpty()) {
      mine.jdbc.update(
          "update event_block set applied_at = ?, change_number = ? where id = any(?)",
          now,
          number,
          blocks.toArray(Long[]::new));
    }
    mine.stages.done("number");
  }
}
