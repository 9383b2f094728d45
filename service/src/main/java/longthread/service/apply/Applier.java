package longthread.service.apply;

import io.micrometer.core.instrument.Counter;
import io.micrometer.core.instrument.Gauge;
import io.micrometer.core.instrument.MeterRegistry;
import jakarta.annotation.PreDestroy;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import longthread.core.sql.SqlReader;
import longthread.service.live.GraphFollower;
import longthread.service.log.BlockBatch;
import longthread.service.log.EventLog;
import longthread.service.log.LoggedEvent;
import longthread.service.log.RecentDigests;
import longthread.service.storage.facts.Subject;
import longthread.service.storage.graph.HeadQueries;
import longthread.service.storage.log.BlockQueries;
import longthread.service.storage.rebuild.CatalogSchemas;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.boot.context.event.ApplicationReadyEvent;
import org.springframework.context.event.EventListener;
import org.springframework.dao.DataAccessException;
import org.springframework.dao.RecoverableDataAccessException;
import org.springframework.dao.TransientDataAccessException;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;

/**
 * Applies the blocks of the log that wait to the catalog, in batches, each one transaction. Of all
 * replicas only one applies at a time: the one that holds the advisory lock, on the very connection
 * it writes with, so that losing the connection loses the lock and the writes together.
 */
@Component
public class Applier {
  /** The advisory lock of whoever writes the catalog. */
  private static final long LOCK = 7_301_001L;

  private static final Logger LOG = LoggerFactory.getLogger(Applier.class);
  private static final long IDLE_MILLIS = 500;
  private static final int STREAM_ENTRIES = 12; // in a batch, from which on it is one of many
  private static final long GATHER_MILLIS = 60;
  private static final int JOBS_AT_ONCE = 100;
  private static final Duration BETWEEN_TRIES = Duration.ofMinutes(1);

  private final Clock clock;
  private final GraphFollower follower;
  private final ApplierSession.Factory sessions;
  private final EventApplier events;
  private final Duration longestBatch;
  private final Counter notApplied;
  private final UUID self = UUID.randomUUID();
  private final Attempts attempts = new Attempts(self);

  private final Semaphore work = new Semaphore(0);
  private volatile Thread thread = new Thread(this::runApplyLoop, "log-applier");
  private volatile @Nullable ApplierSession session;
  private boolean gathering;
  private boolean firstBatch = true; // of this applier since it has the lock
  private Instant nextPendingTry = Instant.MIN;
  private volatile boolean applying;
  private Instant cutAt = Instant.EPOCH; // of the thread that looks after the applier
  private volatile boolean stopping;
  private volatile @Nullable Instant lookedAt;

  Applier(
      Clock clock,
      EventLog log,
      GraphFollower follower,
      MeterRegistry meters,
      ApplierSession.Factory sessions,
      RecentDigests recent,
      @Value("${longthread.apply.longest-batch:2m}") Duration longestBatch) {
    this.longestBatch = longestBatch;
    this.clock = clock;
    this.follower = follower;
    this.sessions = sessions;
    this.events = new EventApplier(clock, log, recent);
    log.onAppend(work::release);
    Gauge.builder("longthread.applier", this, applier -> applier.applying ? 1 : 0)
        .description("1 if this replica is the one that applies events")
        .register(meters);
    this.notApplied =
        Counter.builder("longthread.apply.failed")
            .description("Events that could not be applied and were set aside")
            .register(meters);
    Gauge.builder("longthread.applier.stuck", this, a -> a.standstill() == null ? 0 : 1)
        .description("1 if the applier has stopped, or is at one batch for too long")
        .register(meters);
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

  /**
   * Since when the applier has been at one batch, or has stopped; null while it goes on. A batch
   * takes seconds; the longest pause between two looks at the log is half a second.
   */
  public @Nullable Instant standstill() {
    Instant last = lookedAt;
    boolean dead = last != null && !stopping && !thread.isAlive();
    boolean stuck = last != null && last.plus(longestBatch).isBefore(clock.instant());
    return dead || stuck ? last : null;
  }

  /**
   * Frees the lock of an applier that stands still, for another replica or a new start of its own:
   * its connection is cut, so that whatever it is at fails. One that ended is started again.
   */
  @Scheduled(fixedDelay = 5_000)
  void freeLock() {
    if (standstill() == null) {
      return;
    }
    ApplierSession open = session;
    Instant now = clock.instant();
    if (open != null && cutAt.plus(longestBatch).isBefore(now)) {
      LOG.error("the applier stands still since {}; its connection is cut", lookedAt);
      cutAt = now;
      attempts.cut();
      open.cut();
    }
    if (!thread.isAlive() && !stopping) {
      LOG.error("the applier ended and is started again");
      session = null;
      thread = new Thread(this::runApplyLoop, "log-applier");
      thread.setDaemon(true);
      thread.start();
    }
  }

  /** Whether this replica is the one that applies. */
  public boolean isApplying() {
    return applying;
  }

  private void runApplyLoop() {
    lookedAt = clock.instant();
    while (!stopping) {
      try {
        ApplierSession locked = acquireLock();
        boolean more = locked != null && applyBatch(locked);
        lookedAt = clock.instant(); // only now: what fails again and again is a standstill, too
        if (more) {
          follower.follow();
          gather();
        } else {
          tryPendingSql(locked);
          awaitWork();
        }
      } catch (InterruptedException e) {
        Thread.currentThread().interrupt();
      } catch (RuntimeException | Error e) {
        // Errors too: whatever one event does to its reader, the events behind it go on.
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

  private void awaitWork() throws InterruptedException {
    work.tryAcquire(IDLE_MILLIS, TimeUnit.MILLISECONDS);
    work.drainPermits();
  }

  /** The session that holds the lock; null while another replica does. */
  private @Nullable ApplierSession acquireLock() {
    if (session == null) {
      try {
        session = sessions.open(CatalogSchemas.LIVE);
      } catch (DataAccessException e) {
        LOG.warn("the applier cannot connect: {}", e.getMessage());
        return null;
      }
    }
    ApplierSession open = session;
    if (!applying) {
      applying = open.call(() -> open.stores().head().tryLock(LOCK));
      if (applying) {
        LOG.info("this replica applies the log now");
        firstBatch = true;
        readSqlAgain(open);
      }
    }
    return applying ? open : null;
  }

  /** Reads the SQL of all jobs again, if their links stand by the rules of an older version. */
  private void readSqlAgain(ApplierSession locked) {
    HeadQueries head = locked.stores().head();
    if (locked.call(head::sqlReaderVersion) >= SqlReader.VERSION) {
      return;
    }
    List<Subject> owners = locked.call(locked.catalog()::withSql);
    rederive(locked, owners);
    locked.inTransaction(() -> head.setSqlReaderVersion(SqlReader.VERSION));
    if (!owners.isEmpty()) {
      LOG.info("the SQL of {} jobs and views was read again", owners.size());
      follower.follow();
    }
  }

  private void rederive(ApplierSession locked, List<Subject> owners) {
    for (int from = 0; from < owners.size(); from += JOBS_AT_ONCE) {
      lookedAt = clock.instant();
      List<Subject> some = owners.subList(from, Math.min(owners.size(), from + JOBS_AT_ONCE));
      locked.inTransaction(
          () -> {
            takeOver(locked);
            events.number(locked, List.of(), locked.catalog().rederive(some));
          });
    }
  }

  /** While there is nothing else to do, tries the SQL again that took too long. */
  private void tryPendingSql(@Nullable ApplierSession locked) {
    if (locked == null || clock.instant().isBefore(nextPendingTry)) {
      return;
    }
    nextPendingTry = clock.instant().plus(BETWEEN_TRIES);
    List<Subject> owners = locked.call(locked.catalog()::pendingSql);
    if (!owners.isEmpty()) {
      rederive(locked, owners);
      follower.follow();
    }
  }

  private void drop() {
    applying = false;
    if (session != null) {
      session.close();
      session = null;
    }
  }

  /** After a failed batch: each event alone, and what fails even then is refused and passed. */
  private void recover(Throwable cause) {
    ApplierSession open = session;
    if (open == null) {
      return;
    }
    open.catalog().forget();
    if (!open.isAlive()) {
      LOG.warn("the applier lost its connection: {}", cause.getMessage());
      drop();
      pause();
      return;
    }
    LOG.warn("a batch could not be applied and is tried again, event by event", cause);
    try {
      applyIndividually(open, false);
    } catch (RuntimeException | Error e) {
      // The lock goes with the session: another replica may do better.
      LOG.warn("the log cannot be applied now: {}", e.getMessage());
      drop();
      pause();
    }
  }

  private void pause() {
    try {
      Thread.sleep(IDLE_MILLIS);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
  }

  /**
   * Applies the oldest block that waits, each event in a transaction of its own. What was applied
   * or refused of it before is left alone.
   *
   * @param isSuspect whether appliers ended at it: then each event is marked before it is tried
   */
  private void applyIndividually(ApplierSession locked, boolean isSuspect) {
    Batch batch = waiting(locked, 1);
    if (batch.blocks().isEmpty()) {
      return; // what failed was no batch
    }
    long block = batch.blocks().ids().get(0);
    BlockQueries blocks = locked.stores().blocks();
    Set<Integer> before = new HashSet<>(locked.call(() -> blocks.seenIn(block)));
    before.addAll(locked.call(() -> blocks.openRefusals(block)));
    int duplicates = 0;
    for (LoggedEvent event : batch.events()) {
      lookedAt = clock.instant();
      if (before.contains(event.position())) {
        continue;
      }
      int ends = isSuspect ? attempts.begin(locked, event) : 0;
      if (ends >= Attempts.MAX_ENDS) {
        setAside(locked, event, "the service ended " + ends + " times while it applied it", null);
      } else {
        duplicates += applyAlone(locked, event);
      }
    }
    int repeated = duplicates;
    locked.inTransaction(
        () -> {
          events.number(locked, batch.blocks().ids(), Set.of());
          locked.stores().recent().count(batch.blocks().entries(), 0, repeated);
          attempts.done(locked);
        });
    follower.follow();
  }

  /** Applies one event or sets it aside; returns 1 if it is a repetition, else 0. */
  private int applyAlone(ApplierSession locked, LoggedEvent event) {
    try {
      return locked.inTransaction(
          () -> {
            EventApplier.Applied one = events.apply(locked, List.of(event));
            events.number(locked, List.of(), one.refs());
            // with it, since the process may end before the block is done
            locked.stores().recent().count(0, one.events(), 0);
            return one.repeated();
          });
    } catch (RuntimeException | Error e) {
      locked.catalog().forget();
      if (!locked.isAlive() || isNoFaultOfTheEvent(e)) {
        throw e;
      }
      setAside(locked, event, "the service failed to apply it; see its log", e);
      return 0;
    }
  }

  private void setAside(
      ApplierSession locked, LoggedEvent event, String reason, @Nullable Throwable fault) {
    notApplied.increment();
    LOG.error("event {} of block {}: {}", event.position(), event.block(), reason, fault);
    locked.inTransaction(() -> events.refuse(locked, event, "not-applicable", reason));
  }

  /** A full disk, a lock or a time-out passes; the event can be applied then. */
  private static boolean isNoFaultOfTheEvent(Throwable e) {
    return e instanceof TransientDataAccessException
        || e instanceof RecoverableDataAccessException
        || ProblemException.isDiskFull(e);
  }

  /** What is applied at once. */
  private record Batch(BlockBatch blocks, List<LoggedEvent> events) {}

  /** Applies the oldest blocks that wait; returns whether there were any. */
  private boolean applyBatch(ApplierSession locked) {
    locked.stages().begin();
    Batch batch = waiting(locked, BlockBatch.MAX_BLOCKS);
    if (batch.blocks().isEmpty()) {
      firstBatch = false;
      return false;
    }
    if (firstBatch && attempts.isSuspect(locked, batch.blocks().ids().get(0))) {
      LOG.warn("block {} is applied event by event", batch.blocks().ids().get(0));
      applyIndividually(locked, true);
      return true;
    }
    locked.stages().done("unpack");
    locked.inTransaction(
        () -> {
          takeOver(locked);
          EventApplier.Applied applied = events.apply(locked, batch.events());
          events.number(locked, batch.blocks().ids(), applied.refs());
          locked
              .stores()
              .recent()
              .count(batch.blocks().entries(), applied.events(), applied.repeated());
          if (firstBatch) {
            attempts.done(locked);
          }
        });
    firstBatch = false;
    locked.stages().done("commit");
    gathering = batch.blocks().entries() >= STREAM_ENTRIES && !batch.blocks().isFull();
    return true;
  }

  /** Locks the head; whoever finds another's mark on it has cached an outdated catalog. */
  private void takeOver(ApplierSession locked) {
    HeadQueries head = locked.stores().head();
    head.lock();
    if (!self.equals(head.applier())) {
      locked.catalog().forget();
      head.takeOver(self);
    }
  }

  private static Batch waiting(ApplierSession locked, int most) {
    return locked.call(
        () -> {
          var blocks = BlockBatch.of(locked.stores().blocks().unapplied(most), most);
          return new Batch(
              blocks, blocks.isEmpty() ? List.of() : blocks.events(locked.stores().blocks()));
        });
  }
}
