package longthread.service.log;

import io.micrometer.core.instrument.Counter;
import io.micrometer.core.instrument.MeterRegistry;
import jakarta.annotation.PostConstruct;
import jakarta.annotation.PreDestroy;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.concurrent.atomic.AtomicLong;
import longthread.core.event.EventWarning;
import longthread.core.event.UnreadableEventException;
import longthread.core.json.CanonicalJson;
import longthread.core.workspace.LogEntry;
import longthread.service.storage.Columns;
import longthread.service.storage.DedicatedSession;
import longthread.service.storage.DedicatedSessions;
import longthread.service.storage.StoredText;
import longthread.service.storage.log.BlockQueries;
import longthread.service.storage.log.RefusalQueries;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Component;

/**
 * The durable log. Callers hand in events and wait; one committing thread drains all that wait into
 * one compressed block and one commit, so a commit's cost is shared by everyone who waited for it.
 *
 * <p>What may wait is bounded in number and in bytes. Whoever comes on top of that, or while the
 * database is unreachable, gets an error at once.
 */
@Component
public class EventLog {
  /** The version of the rules by which events are accepted and read. */
  static final int READER_VERSION = 4;

  private static final Logger LOG = LoggerFactory.getLogger(EventLog.class);
  private static final int MAX_WAITING = 128; // fewer than the web server's threads
  private static final long MAX_WAITING_BYTES = 128L << 20;
  private static final int BLOCK_EVENTS = 2_000;
  private static final int BLOCK_BYTES = 8 << 20;
  private static final long COMMIT_TIMEOUT_SECONDS = 4;
  private static final long POLL_MILLIS = 300;
  private static final Duration BETWEEN_PROBES = Duration.ofSeconds(2);

  /** One thing to be kept: an event, or what was refused with the reason. */
  public record Item(
      byte[] bytes, String digest, @Nullable Refusal refusal, List<EventWarning> warnings) {
    public static Item refused(byte[] bytes, Refusal refusal) {
      return new Item(bytes, CanonicalJson.digest(bytes), refusal, List.of());
    }
  }

  /** What a person stated, which the caller has checked. */
  public Item statement(byte[] bytes) {
    return new Item(bytes, CanonicalJson.digest(bytes), null, List.of());
  }

  /** An event as it came now: accepted with what its emitter should know, or why it cannot be. */
  public Item item(byte[] bytes, long largest) {
    try {
      if (bytes.length > largest) {
        throw new UnreadableEventException(
            "too-large", "the event has more than " + largest + " bytes; send smaller facets");
      }
      List<EventWarning> warnings = LogEntry.check(bytes, clock.instant());
      return new Item(bytes, CanonicalJson.digest(bytes), null, warnings);
    } catch (UnreadableEventException e) {
      return Item.refused(bytes, new Refusal(e.problem(), e.reason()));
    }
  }

  /** Why something was refused: a stable word, and a sentence. */
  public record Refusal(String problem, String reason) {}

  /**
   * What became of the items handed in.
   *
   * @param block the number under which all of them show once it is applied
   * @param duplicates how many were in the log before
   */
  public record Kept(long block, int duplicates) {}

  private record Waiting(
      List<Item> items, @Nullable String source, long bytes, CompletableFuture<Kept> kept) {}

  private final Clock clock;
  private final DedicatedSessions sessions;
  private final MeterRegistry meters;
  private final List<Runnable> listeners = new CopyOnWriteArrayList<>();
  private final BlockingQueue<Waiting> queue = new ArrayBlockingQueue<>(MAX_WAITING);
  private final AtomicLong waitingBytes = new AtomicLong();
  private final Thread committer = new Thread(this::runCommitLoop, "log-committer");

  private final RecentDigests recent;
  private @Nullable DedicatedSession session;
  private volatile @Nullable Instant unreachableSince;
  private volatile boolean diskFull;
  private Instant fullSince = Instant.EPOCH;
  private volatile boolean stopping;

  EventLog(Clock clock, RecentDigests recent, DedicatedSessions sessions, MeterRegistry meters) {
    this.meters = meters;
    this.clock = clock;
    this.recent = recent;
    this.sessions = sessions;
  }

  /** Calls a listener after every commit that appended a block; it must not block. */
  public void onAppend(Runnable listener) {
    listeners.add(listener);
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
   * Returns once all items are durable.
   *
   * @param source the file or topic they come from; null for HTTP
   * @throws ProblemException with status 503 if they could not be made durable in time; they may or
   *     may not be kept then, and sending them again does no harm
   */
  public Kept append(List<Item> items, @Nullable String source) {
    if (diskFull) {
      throw ProblemException.diskFull();
    }
    if (unreachableSince != null) {
      throw overloaded("database unreachable since " + unreachableSince);
    }
    long bytes = items.stream().mapToLong(item -> item.bytes().length).sum();
    var waiting = new Waiting(items, source, bytes, new CompletableFuture<>());
    boolean room = waitingBytes.get() == 0 || waitingBytes.get() + bytes <= MAX_WAITING_BYTES;
    if (stopping || !room || !queue.offer(waiting)) {
      throw overloaded("too many posts are waiting to be written");
    }
    waitingBytes.addAndGet(bytes);
    try {
      return waiting.kept().get(COMMIT_TIMEOUT_SECONDS, TimeUnit.SECONDS);
    } catch (TimeoutException e) {
      throw overloaded("the database did not confirm the write in time");
    } catch (ExecutionException e) {
      if (ProblemException.isDiskFull(e)) {
        throw ProblemException.diskFull();
      }
      LOG.warn("a block could not be written: {}", String.valueOf(e.getCause()));
      throw overloaded("the database did not take the write");
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      throw overloaded("the service is stopping");
    }
  }

  /** How many callers wait for a commit. */
  public int waiting() {
    return queue.size();
  }

  /** Whether the database has no room for events. */
  public boolean isDiskFull() {
    return diskFull;
  }

  /** Since when the database does not answer; null while it does. */
  public @Nullable Instant unreachableSince() {
    return unreachableSince;
  }

  private static ProblemException overloaded(String why) {
    return new ProblemException(
        HttpStatus.SERVICE_UNAVAILABLE,
        "intake-busy",
        "The intake cannot take this now",
        why + "; send it again after the time in Retry-After");
  }

  private void runCommitLoop() {
    var batch = new ArrayList<Waiting>();
    while (!stopping) {
      try {
        Waiting first = queue.poll(POLL_MILLIS, TimeUnit.MILLISECONDS);
        if (first != null) {
          batch.add(first);
          drain(batch);
          commit(batch);
        } else if (unreachableSince != null || diskFull) {
          probe();
        }
      } catch (InterruptedException e) {
        Thread.currentThread().interrupt();
        break;
      } catch (DataAccessException e) {
        disconnected(e);
        batch.forEach(waiting -> waiting.kept().completeExceptionally(e));
      } catch (RuntimeException e) {
        batch.forEach(waiting -> waiting.kept().completeExceptionally(e));
      }
      batch.forEach(waiting -> waitingBytes.addAndGet(-waiting.bytes()));
      batch.clear();
    }
    queue.forEach(
        waiting -> waiting.kept().completeExceptionally(new IllegalStateException("stopping")));
    disconnect();
  }

  /** Looks whether the database is back; after a full disk, the next post shows if it has room. */
  private void probe() {
    if (!diskFull || fullSince.plus(BETWEEN_PROBES).isBefore(clock.instant())) {
      connected();
    }
  }

  private void drain(List<Waiting> batch) {
    int events = batch.get(0).items().size();
    long bytes = batch.get(0).bytes();
    String source = batch.get(0).source();
    while (events < BLOCK_EVENTS && bytes < BLOCK_BYTES) {
      Waiting next = queue.peek();
      // A block has one source, so that a refusal can be traced to its file.
      if (next == null || !java.util.Objects.equals(next.source(), source)) {
        return;
      }
      queue.remove();
      batch.add(next);
      events += next.items().size();
      bytes += next.bytes();
    }
  }

  private DedicatedSession connected() {
    DedicatedSession open = session;
    if (open == null) {
      open = sessions.forLog();
      session = open;
      if (unreachableSince != null) {
        LOG.info("the database is reachable again");
      }
      unreachableSince = null;
      diskFull = false;
    }
    return open;
  }

  /** Whatever was wrong, the next commit begins on a connection that is known to be good. */
  private void disconnected(DataAccessException e) {
    disconnect();
    if (ProblemException.isDiskFull(e)) {
      diskFull = true;
      fullSince = clock.instant();
      LOG.error("the disk of the database is full: events are refused until there is room");
    } else if (unreachableSince == null) {
      unreachableSince = clock.instant();
      LOG.warn("database unreachable: {}", e.getMessage());
    }
  }

  private void disconnect() {
    if (session != null) {
      session.close();
      session = null;
    }
  }

  private void commit(List<Waiting> batch) {
    DedicatedSession open = connected();
    Map<String, Long> known = known(open, batch);
    var entries = new ArrayList<BlockCodec.Entry>();
    var fresh = new HashMap<String, Integer>();
    var refusals = new ArrayList<RefusalQueries.Refusal>();
    var duplicates = new int[batch.size()];
    var blocks = new long[batch.size()];
    var isInBlock = new boolean[batch.size()];
    Instant now = clock.instant();
    for (int i = 0; i < batch.size(); i++) {
      for (Item item : batch.get(i).items()) {
        if (item.refusal() != null) {
          refusals.add(
              new RefusalQueries.Refusal(
                  entries.size(), item.refusal().problem(), item.refusal().reason()));
        } else if (known.containsKey(item.digest())) {
          duplicates[i]++;
          blocks[i] = Math.max(blocks[i], known.get(item.digest()));
          continue;
        } else if (fresh.containsKey(item.digest())) {
          duplicates[i]++;
          isInBlock[i] = true;
          continue;
        } else {
          fresh.put(item.digest(), entries.size());
        }
        isInBlock[i] = true;
        entries.add(new BlockCodec.Entry(item.refusal() != null, item.bytes()));
      }
    }
    refusals.forEach(refusal -> countRefused(refusal.problem()));
    long block = entries.isEmpty() ? 0 : insert(open, batch, entries, refusals, now);
    fresh.keySet().forEach(digest -> recent.put(digest, block));
    for (int i = 0; i < batch.size(); i++) {
      batch.get(i).kept().complete(new Kept(isInBlock[i] ? block : blocks[i], duplicates[i]));
    }
    if (block > 0) {
      listeners.forEach(Runnable::run);
    }
  }

  /** Counts a refusal, on receipt or when it was to be applied. */
  public void countRefused(String problem) {
    Counter.builder("longthread.intake.refused")
        .description("Events refused, on receipt or when they were to be applied, by reason")
        .tag("problem", problem)
        .register(meters)
        .increment();
  }

  /** The blocks of those events of a batch that were kept before. */
  private Map<String, Long> known(DedicatedSession open, List<Waiting> batch) {
    var known = new HashMap<String, Long>();
    var unknown = new ArrayList<String>();
    for (Waiting waiting : batch) {
      for (Item item : waiting.items()) {
        Long block = item.refusal() == null ? recent.blockOf(item.digest()) : null;
        if (block != null) {
          known.put(item.digest(), block);
        } else if (item.refusal() == null) {
          unknown.add(item.digest());
        }
      }
    }
    if (!unknown.isEmpty()) {
      for (BlockQueries.Seen seen :
          open.call(() -> open.stores().blocks().seen(Columns.digests(unknown)))) {
        known.put(seen.digest(), seen.block());
      }
    }
    return known;
  }

  private static long insert(
      DedicatedSession open,
      List<Waiting> batch,
      List<BlockCodec.Entry> entries,
      List<RefusalQueries.Refusal> refusals,
      Instant now) {
    byte[] body = BlockCodec.block(entries);
    String source = batch.get(0).source();
    String stored = source == null ? null : StoredText.clean(source);
    if (refusals.isEmpty()) {
      // One statement commits itself, which saves two round trips of every post.
      return open.call(() -> append(open, entries.size(), body, stored, now));
    }
    return open.inTransaction(
        () -> {
          long block = append(open, entries.size(), body, stored, now);
          open.stores().refusals().add(block, now, refusals);
          return block;
        });
  }

  private static long append(
      DedicatedSession open, int events, byte[] body, @Nullable String source, Instant now) {
    return open.stores().blocks().append(now, events, body, READER_VERSION, source);
  }
}
