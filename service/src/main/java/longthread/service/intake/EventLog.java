package longthread.service.intake;

import jakarta.annotation.PostConstruct;
import jakarta.annotation.PreDestroy;
import java.sql.Timestamp;
import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import longthread.core.event.CanonicalJson;
import longthread.service.web.ProblemException;
import longthread.service.web.StoredText;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.http.HttpStatus;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * The durable log. Callers hand in events and wait; one committing thread drains all that wait into
 * one compressed block and one commit, so a commit's cost is shared by everyone who waited for it.
 */
@Component
class EventLog {
  /** The version of the rules by which events are accepted and read. */
  static final int READING = 1;

  private static final Logger LOG = LoggerFactory.getLogger(EventLog.class);
  private static final int MOST_WAITING = 2_000;
  private static final int BLOCK_EVENTS = 2_000;
  private static final int BLOCK_BYTES = 8 << 20;
  private static final long PATIENCE_SECONDS = 4;

  /** One thing to be kept: an event, or what was refused with the reason. */
  record Item(byte[] bytes, String digest, @org.jspecify.annotations.Nullable Refusal refusal) {
    static Item accepted(byte[] bytes) {
      return new Item(bytes, CanonicalJson.digest(bytes), null);
    }

    static Item refused(byte[] bytes, Refusal refusal) {
      return new Item(bytes, CanonicalJson.digest(bytes), refusal);
    }
  }

  /** Why something was refused: a stable word, and a sentence. */
  record Refusal(String problem, String reason) {}

  private record Waiting(List<Item> items, CompletableFuture<Long> block) {}

  private final JdbcTemplate jdbc;
  private final TransactionTemplate transactions;
  private final Clock clock;
  private final Applier applier;
  private final BlockingQueue<Waiting> queue = new ArrayBlockingQueue<>(MOST_WAITING);
  private final Thread committer = new Thread(this::commitForEver, "log-committer");
  private volatile boolean stopping;

  EventLog(JdbcTemplate jdbc, TransactionTemplate transactions, Clock clock, Applier applier) {
    this.jdbc = jdbc;
    this.transactions = transactions;
    this.clock = clock;
    this.applier = applier;
  }

  @PostConstruct
  void start() {
    committer.setDaemon(true);
    committer.start();
  }

  @PreDestroy
  void stop() throws InterruptedException {
    stopping = true;
    committer.interrupt();
    committer.join(5_000);
  }

  /**
   * Returns the block's number once all items are durable.
   *
   * @throws ProblemException with status 503 if they could not be made durable in time; they may or
   *     may not be kept then, and sending them again does no harm
   */
  long append(List<Item> items) {
    var waiting = new Waiting(items, new CompletableFuture<>());
    if (stopping || !queue.offer(waiting)) {
      throw overloaded("too many posts are waiting to be written");
    }
    try {
      return waiting.block().get(PATIENCE_SECONDS, TimeUnit.SECONDS);
    } catch (TimeoutException e) {
      throw overloaded("the database did not confirm the write in time");
    } catch (ExecutionException e) {
      LOG.warn("a block could not be written: {}", String.valueOf(e.getCause()));
      throw overloaded("the database did not take the write");
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw overloaded("the service is stopping");
    }
  }

  /** How many of the digests belong to events that were applied before. */
  java.util.Set<String> known(List<String> digests) {
    byte[][] raw = digests.stream().map(HexFormat.of()::parseHex).toArray(byte[][]::new);
    return new java.util.HashSet<>(
        jdbc.query(
            "select encode(digest, 'hex') from event_seen where digest = any(?)",
            (row, n) -> row.getString(1),
            (Object) raw));
  }

  int waiting() {
    return queue.size();
  }

  private static ProblemException overloaded(String why) {
    return new ProblemException(
        HttpStatus.SERVICE_UNAVAILABLE,
        "intake-busy",
        "The intake cannot take this now",
        why + "; send it again after the time in Retry-After");
  }

  private void commitForEver() {
    var batch = new ArrayList<Waiting>();
    while (!stopping) {
      try {
        batch.add(queue.take());
        drain(batch);
        commit(batch);
      } catch (InterruptedException e) {
        Thread.currentThread().interrupt();
        break;
      } catch (RuntimeException e) {
        batch.forEach(waiting -> waiting.block().completeExceptionally(e));
      }
      batch.clear();
    }
    queue.forEach(
        waiting -> waiting.block().completeExceptionally(new IllegalStateException("stopping")));
  }

  private void drain(List<Waiting> batch) {
    int events = 0;
    long bytes = 0;
    Waiting newest = batch.get(0);
    while (newest != null) {
      events += newest.items().size();
      bytes += newest.items().stream().mapToLong(item -> item.bytes().length).sum();
      newest = events < BLOCK_EVENTS && bytes < BLOCK_BYTES ? queue.poll() : null;
      if (newest != null) {
        batch.add(newest);
      }
    }
  }

  private void commit(List<Waiting> batch) {
    var entries = new ArrayList<Packed.Entry>();
    var refusals = new ArrayList<Object[]>();
    Instant now = clock.instant();
    for (Waiting waiting : batch) {
      for (Item item : waiting.items()) {
        if (item.refusal() != null) {
          refusals.add(
              new Object[] {
                entries.size(),
                Timestamp.from(now),
                item.refusal().problem(),
                StoredText.clean(item.refusal().reason())
              });
        }
        entries.add(new Packed.Entry(item.refusal() != null, item.bytes()));
      }
    }
    byte[] body = Packed.block(entries);
    Long id =
        transactions.execute(
            status -> {
              Long block =
                  jdbc.queryForObject(
                      "insert into event_block (received_at, events, body, reading)"
                          + " values (?, ?, ?, ?) returning id",
                      Long.class,
                      Timestamp.from(now),
                      entries.size(),
                      body,
                      READING);
              if (!refusals.isEmpty()) {
                jdbc.batchUpdate(
                    "insert into refused_event (block_id, position, received_at, problem, reason)"
                        + " values ("
                        + block
                        + ", ?, ?, ?, ?)",
                    refusals);
              }
              return block;
            });
    batch.forEach(waiting -> waiting.block().complete(id));
    applier.wake();
  }
}
