package longthread.service.rebuild;

import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import longthread.core.event.FacetMemory;
import longthread.core.event.UnreadableEventException;
import longthread.core.json.CanonicalJson;
import longthread.core.workspace.LogEntry;
import longthread.service.apply.ApplierSession;
import longthread.service.apply.EventAtBlock;
import longthread.service.live.GraphFollower;
import longthread.service.log.BlockBatch;
import longthread.service.log.LoggedEvent;
import longthread.service.storage.Columns;
import longthread.service.storage.Stores;
import longthread.service.storage.log.BlockQueries;
import longthread.service.storage.rebuild.CatalogSchemas;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;

/**
 * Makes the catalog anew from the log, in a schema beside the live one, while that goes on; then
 * compares the two and puts the new one in the old one's place. So a changed rule of reading is
 * rolled out.
 *
 * <p>What was applied from blocks whose bodies are aged by now is carried over as the facts it
 * gave. The switch happens under the lock of the graph's head row, for which every applier waits.
 */
@Component
class Rebuilder {
  private static final Logger LOG = LoggerFactory.getLogger(Rebuilder.class);
  private static final long FACET_MEMORY_BYTES = 8 << 20;

  /**
   * How a rebuild stands.
   *
   * @param state none, running, switched, differs or failed
   * @param differences lines that only one of the two catalogs has, the first of them
   * @param unreadable events that were accepted under earlier rules and cannot be read by these
   */
  record Status(
      String state,
      @Nullable Instant startedAt,
      @Nullable Instant endedAt,
      long blocks,
      long blocksDone,
      long events,
      long carried,
      List<String> differences,
      List<String> unreadable,
      @Nullable String problem) {
    static final Status NONE =
        new Status("none", null, null, 0, 0, 0, 0, List.of(), List.of(), null);
  }

  private static final int PENDING_TRIES = 3; // of SQL that was not read in time

  private final GraphFollower follower;
  private final ApplierSession.Factory sessions;
  private final RunRetention retention;
  private final Clock clock;
  private boolean running;
  private volatile Status status = Status.NONE;

  Rebuilder(
      GraphFollower follower,
      ApplierSession.Factory sessions,
      RunRetention retention,
      Clock clock) {
    this.retention = retention;
    this.follower = follower;
    this.sessions = sessions;
    this.clock = clock;
  }

  Status status() {
    return status;
  }

  /**
   * Starts a rebuild in the background.
   *
   * @param despiteDifferences whether to switch even if the two catalogs differ, as they do after a
   *     change of the rules
   * @return whether it was started; not while another runs
   */
  synchronized boolean start(boolean despiteDifferences) {
    if (running) {
      return false;
    }
    running = true;
    status = new Status("running", clock.instant(), null, 0, 0, 0, 0, List.of(), List.of(), null);
    var thread = new Thread(() -> run(despiteDifferences), "rebuild");
    thread.setDaemon(true);
    thread.start();
    return true;
  }

  private void run(boolean despiteDifferences) {
    Status outcome;
    try (ApplierSession session = sessions.open(CatalogSchemas.NEXT)) {
      outcome = new Rebuild(session, despiteDifferences).run();
    } catch (RuntimeException e) {
      LOG.warn("the rebuild failed; the live catalog is as it was", e);
      outcome = ended("failed", List.of(), String.valueOf(e.getMessage()));
    }
    // Published only when all is committed and closed: whoever sees the end may start another.
    synchronized (this) {
      running = false;
      status = outcome;
    }
  }

  private Status ended(String state, List<String> differences, @Nullable String problem) {
    Status now = status;
    return new Status(
        state,
        now.startedAt(),
        clock.instant(),
        now.blocks(),
        now.blocksDone(),
        now.events(),
        now.carried(),
        differences,
        now.unreadable(),
        problem);
  }

  /** One rebuild on its own connection. */
  private final class Rebuild {
    private final ApplierSession session;
    private final Stores stores;
    private final boolean despiteDifferences;
    private final FacetMemory memory = new FacetMemory(FACET_MEMORY_BYTES);
    private final List<String> unreadable = new ArrayList<>();
    private long events;
    private long carried;
    private long blocksDone;

    Rebuild(ApplierSession session, boolean despiteDifferences) {
      this.session = session;
      this.stores = session.stores();
      this.despiteDifferences = despiteDifferences;
    }

    Status run() {
      session.inTransaction(() -> stores.schemas().createNext());
      carried = session.inTransaction(() -> new CarryOver(session).all());
      while (session.inTransaction(this::readSome)) {
        showProgress();
      }
      Instant keptSince = retention.keptSince();
      retention.dropOld();
      Status outcome = session.inTransaction(() -> finish(keptSince));
      LOG.info("rebuild: {}, {} events, {} facts carried over", outcome.state(), events, carried);
      follower.follow();
      return outcome;
    }

    /** Reads the rest while no applier writes, compares, and switches. */
    private Status finish(@Nullable Instant keptSince) {
      stores.head().lock();
      while (readSome()) {
        showProgress();
      }
      for (int tries = 0;
          tries < PENDING_TRIES && !session.catalog().pendingSql().isEmpty();
          tries++) {
        session.catalog().rederive(session.catalog().pendingSql());
      }
      if (keptSince != null) {
        RunRetention.drop(stores.runRetention(), keptSince);
      }
      List<String> differences =
          CatalogDump.differences(stores.schemas(), CatalogSchemas.LIVE, CatalogSchemas.NEXT);
      if (!differences.isEmpty() && !despiteDifferences) {
        return ended("differs", differences, null);
      }
      stores.schemas().switchToNext();
      stores.head().beginEpoch();
      return ended("switched", differences, null);
    }

    private void showProgress() {
      Status now = status;
      long blocks = session.call(() -> stores.blocks().appliedCount());
      status =
          new Status(
              now.state(),
              now.startedAt(),
              null,
              blocks,
              blocksDone,
              events,
              carried,
              List.of(),
              List.copyOf(unreadable),
              null);
    }

    /** Reads some blocks that the live catalog has and this one has not; whether there were any. */
    private boolean readSome() {
      var blocks =
          BlockBatch.of(stores.blocks().notRebuilt(BlockBatch.MAX_BLOCKS), BlockBatch.MAX_BLOCKS);
      if (blocks.isEmpty()) {
        return false;
      }
      var read = new ArrayList<EventAtBlock>();
      for (LoggedEvent event : firsts(blocks.events(stores.blocks()))) {
        events += read(event, read) ? 1 : 0;
      }
      if (!read.isEmpty()) {
        session.catalog().write(read);
      }
      stores.blocks().markRebuilt(blocks.idArray());
      blocksDone += blocks.ids().size();
      return true;
    }

    /** Those that were applied: repetitions of an event were no events when they came. */
    private List<LoggedEvent> firsts(List<LoggedEvent> events) {
      var byDigest = new LinkedHashMap<String, List<LoggedEvent>>();
      for (LoggedEvent event : events) {
        byDigest
            .computeIfAbsent(CanonicalJson.digest(event.bytes()), k -> new ArrayList<>())
            .add(event);
      }
      var firsts = new ArrayList<LoggedEvent>();
      for (BlockQueries.Seen seen : stores.blocks().seen(Columns.digests(byDigest.keySet()))) {
        byDigest.get(seen.digest()).stream()
            .filter(e -> e.block() == seen.block() && e.position() == seen.position())
            .forEach(firsts::add);
      }
      return firsts;
    }

    private boolean read(LoggedEvent event, List<EventAtBlock> into) {
      try {
        LogEntry.read(event.bytes(), event.receivedAt(), memory)
            .forEach(facts -> into.add(new EventAtBlock(facts, event.block())));
        return true;
      } catch (UnreadableEventException e) {
        unreadable.add(event.block() + "." + event.position() + ": " + e.reason());
        return false;
      }
    }
  }
}
