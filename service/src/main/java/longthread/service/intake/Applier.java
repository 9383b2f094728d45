package longthread.service.intake;

import jakarta.annotation.PreDestroy;
import java.sql.Timestamp;
import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import longthread.core.event.CanonicalJson;
import longthread.core.event.EventFacts;
import longthread.core.event.EventReader;
import longthread.core.event.UnreadableEventException;
import longthread.service.lineage.GraphFollower;
import longthread.service.web.StoredText;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.boot.context.event.ApplicationReadyEvent;
import org.springframework.context.event.EventListener;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * Takes waiting blocks of the log and works them into the catalog, in batches, each one
 * transaction. Of all replicas only one applies at a time: the one that gets the advisory lock,
 * which it takes on the very connection it writes with, so that losing the connection loses the
 * lock and the writes together.
 */
@Component
public class Applier {
  private static final Logger LOG = LoggerFactory.getLogger(Applier.class);
  private static final long LOCK = 7_301_001L;
  private static final int MOST_BLOCKS = 64;
  private static final int MOST_EVENTS = 2_000;
  private static final long IDLE_MILLIS = 500;

  private record LogEvent(long block, int position, Instant receivedAt, byte[] bytes) {}

  private final JdbcTemplate jdbc;
  private final TransactionTemplate transactions;
  private final Clock clock;
  private final FactStore facts;
  private final CatalogWriter catalog;
  private final GraphFollower follower;
  private final Semaphore work = new Semaphore(0);
  private final Thread thread = new Thread(this::applyForEver, "log-applier");
  private volatile boolean stopping;

  Applier(
      JdbcTemplate jdbc,
      TransactionTemplate transactions,
      Clock clock,
      FactStore facts,
      CatalogWriter catalog,
      GraphFollower follower) {
    this.jdbc = jdbc;
    this.transactions = transactions;
    this.clock = clock;
    this.facts = facts;
    this.catalog = catalog;
    this.follower = follower;
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

  private void applyForEver() {
    while (!stopping) {
      try {
        boolean more = applySome(MOST_BLOCKS);
        follower.follow();
        if (!more) {
          work.tryAcquire(IDLE_MILLIS, TimeUnit.MILLISECONDS);
          work.drainPermits();
        }
      } catch (InterruptedException e) {
        Thread.currentThread().interrupt();
      } catch (RuntimeException e) {
        facts.forgetIds();
        LOG.warn("a batch could not be applied and is tried again, event by event", e);
        applyOneByOne();
      }
    }
  }

  /** After a batch failed: each block alone, and what fails even then is refused and passed. */
  private void applyOneByOne() {
    try {
      if (!applySome(1)) {
        Thread.sleep(IDLE_MILLIS);
      }
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    } catch (RuntimeException e) {
      facts.forgetIds();
      singly(e);
    }
  }

  private void singly(RuntimeException cause) {
    try {
      List<LogEvent> events = transactions.execute(status -> waiting(1).events());
      if (events == null || events.isEmpty()) {
        Thread.sleep(IDLE_MILLIS);
        return;
      }
      for (LogEvent event : events) {
        try {
          transactions.executeWithoutResult(status -> apply(List.of(event), List.of()));
        } catch (RuntimeException e) {
          facts.forgetIds();
          LOG.error("event {} of block {} is refused", event.position(), event.block(), e);
          refuse(event, "not-applicable", "the service failed to work it in; see its log");
        }
      }
      long block = events.get(0).block();
      transactions.executeWithoutResult(status -> finish(List.of(block), Set.of()));
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    } catch (RuntimeException e) {
      LOG.warn("the log cannot be applied now: {} (after {})", e.getMessage(), cause.getMessage());
      try {
        Thread.sleep(IDLE_MILLIS);
      } catch (InterruptedException interrupted) {
        Thread.currentThread().interrupt();
      }
    }
  }

  private record Batch(List<Long> blocks, List<LogEvent> events) {}

  /** Applies up to so many blocks; returns whether there were any. */
  private boolean applySome(int blocks) {
    return Boolean.TRUE.equals(
        transactions.execute(
            status -> {
              Boolean mine =
                  jdbc.queryForObject("select pg_try_advisory_xact_lock(?)", Boolean.class, LOCK);
              if (!Boolean.TRUE.equals(mine)) {
                return false;
              }
              Batch batch = waiting(blocks);
              if (batch.blocks().isEmpty()) {
                return false;
              }
              apply(batch.events(), batch.blocks());
              return true;
            }));
  }

  private Batch waiting(int most) {
    var blocks = new ArrayList<Long>();
    var events = new ArrayList<LogEvent>();
    var counts =
        jdbc.queryForList(
            "select id, events from event_block where applied_at is null order by id limit ?",
            most);
    int total = 0;
    for (Map<String, Object> row : counts) {
      total += (int) row.get("events");
      if (!blocks.isEmpty() && total > MOST_EVENTS) {
        break;
      }
      blocks.add((Long) row.get("id"));
    }
    jdbc.query(
        "select id, received_at, body from event_block where id = any(?) order by id",
        row -> {
          long id = row.getLong(1);
          Instant received = row.getTimestamp(2).toInstant();
          List<Packed.Entry> entries = Packed.entries(row.getBytes(3));
          for (int i = 0; i < entries.size(); i++) {
            if (!entries.get(i).refused()) {
              events.add(new LogEvent(id, i, received, entries.get(i).bytes()));
            }
          }
        },
        (Object) blocks.toArray(Long[]::new));
    return new Batch(blocks, events);
  }

  private void apply(List<LogEvent> events, List<Long> blocks) {
    var read = new ArrayList<EventFacts>();
    var recent = new ArrayList<Object[]>();
    for (LogEvent event : unseen(events)) {
      try {
        EventFacts facts = EventReader.read(event.bytes(), event.receivedAt());
        read.add(facts);
        recent.add(recentRow(event, facts));
      } catch (UnreadableEventException e) {
        refuse(event, e.problem(), e.reason());
      }
    }
    Set<String> changed = Set.of();
    if (!read.isEmpty()) {
      var datasets = new TreeSet<String>();
      var jobs = new TreeSet<String>();
      for (EventFacts event : read) {
        event.datasets().forEach(d -> datasets.add(d.reference()));
        event.jobs().forEach(j -> jobs.add(j.reference()));
      }
      facts.internDatasets(datasets);
      facts.internJobs(jobs);
      facts.write(read);
      facts.batch(
          "insert into recent_event values (?, ?, ?, ?, ?, ?, ?) on conflict do nothing", recent);
      changed = catalog.refresh(read);
    }
    finish(blocks, changed);
  }

  /** The events whose bytes were never applied before; of equal ones the first. */
  private List<LogEvent> unseen(List<LogEvent> events) {
    var byDigest = new LinkedHashMap<String, LogEvent>();
    events.forEach(event -> byDigest.putIfAbsent(CanonicalJson.digest(event.bytes()), event));
    if (byDigest.isEmpty()) {
      return List.of();
    }
    byte[][] digests =
        byDigest.keySet().stream().map(HexFormat.of()::parseHex).toArray(byte[][]::new);
    Long[] blocks = byDigest.values().stream().map(LogEvent::block).toArray(Long[]::new);
    Integer[] positions =
        byDigest.values().stream().map(LogEvent::position).toArray(Integer[]::new);
    Set<String> fresh =
        new HashSet<>(
            jdbc.query(
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

  private static Object[] recentRow(LogEvent event, EventFacts facts) {
    String type =
        facts.run().isPresent()
            ? facts.run().get().type() == null ? "RUN" : facts.run().get().type()
            : facts.job() != null ? "JOB" : "DATASET";
    String about = facts.job() != null ? facts.job().reference() : facts.dataset().reference();
    return new Object[] {
      event.block(),
      event.position(),
      Timestamp.from(event.receivedAt()),
      StoredTime.of(facts.at().at()),
      facts.at().farFuture() ? StoredText.clean(type) + " (far future)" : StoredText.clean(type),
      about,
      StoredText.clean(facts.producer())
    };
  }

  private void refuse(LogEvent event, String problem, String reason) {
    jdbc.update(
        "insert into refused_event (block_id, position, received_at, problem, reason)"
            + " values (?, ?, ?, ?, ?)",
        event.block(),
        event.position(),
        Timestamp.from(event.receivedAt()),
        problem,
        StoredText.clean(reason));
  }

  /** Numbers the change without gaps and marks the blocks, both in the batch's transaction. */
  private void finish(List<Long> blocks, Set<String> changed) {
    Timestamp now = Timestamp.from(clock.instant());
    Long number =
        changed.isEmpty()
            ? jdbc.queryForObject("select number from graph_head", Long.class)
            : jdbc.queryForObject(
                "update graph_head set number = number + 1 returning number", Long.class);
    if (!changed.isEmpty()) {
      jdbc.update(
          "insert into graph_change (number, made_at, refs) values (?, ?, ?)",
          number,
          now,
          changed.toArray(String[]::new));
    }
    jdbc.update(
        "update event_block set applied_at = ?, change_number = ? where id = any(?)",
        now,
        number,
        blocks.toArray(Long[]::new));
  }

  /** The numbers of the blocks that wait, for whoever watches the lag. */
  long backlog() {
    Long waiting =
        jdbc.queryForObject(
            "select coalesce(sum(events), 0) from event_block where applied_at is null",
            Long.class);
    return waiting == null ? 0 : waiting;
  }
}
