package longthread.service.intake;

import io.micrometer.core.instrument.MeterRegistry;
import java.sql.SQLException;
import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import longthread.core.event.CanonicalJson;
import longthread.core.event.EventReader;
import longthread.core.event.FacetMemory;
import longthread.core.event.UnreadableEventException;
import longthread.core.sql.SqlReader;
import longthread.service.lineage.GraphFollower;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
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
  private static final String NEXT = "catalog_next";
  private static final int MOST_BLOCKS = 256;
  private static final int MOST_EVENTS = 2_000;
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

  private final GraphFollower follower;
  private final MeterRegistry meters;
  private final SqlReader reader;
  private final Clock clock;
  private final Workbench.Address address;
  private boolean running;
  private volatile Status status = Status.NONE;

  Rebuilder(
      GraphFollower follower,
      MeterRegistry meters,
      SqlReader reader,
      Clock clock,
      @Value("${spring.datasource.url}") String url,
      @Value("${spring.datasource.username}") String user,
      @Value("${spring.datasource.password}") String password) {
    this.follower = follower;
    this.meters = meters;
    this.reader = reader;
    this.clock = clock;
    this.address = new Workbench.Address(url, user, password);
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
    try (Workbench bench = Workbench.open(address, NEXT, reader, meters)) {
      outcome = new Rebuild(bench, despiteDifferences).run();
    } catch (SQLException | RuntimeException e) {
      LOG.warn("the rebuild failed; the live catalog is as it was", e);
      outcome = ended("failed", List.of(), String.valueOf(e.getMessage()));
    }
    // Told only when all is committed and put away: whoever sees the end may start another.
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
    private final Workbench bench;
    private final boolean despiteDifferences;
    private final FacetMemory memory = new FacetMemory(FACET_MEMORY_BYTES);
    private final List<String> unreadable = new ArrayList<>();
    private long events;
    private long carried;
    private long blocksDone;
    private Status outcome = Status.NONE;

    Rebuild(Workbench bench, boolean despiteDifferences) {
      this.bench = bench;
      this.despiteDifferences = despiteDifferences;
    }

    Status run() {
      makeSchema();
      bench.transactions.executeWithoutResult(s -> carried = new CarryOver(bench).all());
      boolean more = true;
      while (more) {
        more = Boolean.TRUE.equals(bench.transactions.execute(s -> readSome()));
        tell();
      }
      bench.transactions.executeWithoutResult(
          transaction -> {
            // From here on no applier writes.
            bench.jdbc.queryForObject("select number from graph_head for update", Long.class);
            while (readSome()) {
              tell();
            }
            List<String> differences = CatalogDump.differences(bench.jdbc, "catalog", NEXT);
            if (!differences.isEmpty() && !despiteDifferences) {
              outcome = ended("differs", differences, null);
              return;
            }
            bench.jdbc.execute("drop schema if exists catalog_before cascade");
            bench.jdbc.execute("alter schema catalog rename to catalog_before");
            bench.jdbc.execute("alter schema " + NEXT + " rename to catalog");
            bench.jdbc.execute("drop table catalog.rebuilt_block");
            bench.jdbc.update(
                "update graph_head set number = number + 1000, epoch = gen_random_uuid(),"
                    + " applier = null");
            outcome = ended("switched", differences, null);
          });
      LOG.info("rebuild: {}, {} events, {} facts carried over", outcome.state(), events, carried);
      follower.follow();
      return outcome;
    }

    private void tell() {
      Status now = status;
      Long blocks =
          bench.jdbc.queryForObject(
              "select count(*) from event_block where applied_at is not null", Long.class);
      status =
          new Status(
              now.state(),
              now.startedAt(),
              null,
              blocks == null ? 0 : blocks,
              blocksDone,
              events,
              carried,
              List.of(),
              List.copyOf(unreadable),
              null);
    }

    /** The tables of the live catalog, empty. */
    private void makeSchema() {
      bench.jdbc.execute("drop schema if exists " + NEXT + " cascade");
      bench.jdbc.execute("create schema " + NEXT);
      for (String table :
          bench.jdbc.queryForList(
              "select tablename from pg_tables where schemaname = 'catalog'", String.class)) {
        bench.jdbc.execute(
            "create table " + NEXT + "." + table + " (like catalog." + table + " including all)");
      }
      String link =
          bench.jdbc.queryForObject(
              "select pg_get_viewdef('catalog.link'::regclass)", String.class);
      bench.jdbc.execute(
          "create view " + NEXT + ".link as " + link.replace("catalog.", NEXT + "."));
      bench.jdbc.execute("create table " + NEXT + ".rebuilt_block (id bigint primary key)");
    }

    /** Reads some blocks that the live catalog has and this one has not; whether there were any. */
    private boolean readSome() {
      List<Long> blocks = new ArrayList<>();
      int[] total = {0};
      bench.jdbc.query(
          "select id, events from event_block b where applied_at is not null and body is not null"
              + " and not exists (select from rebuilt_block r where r.id = b.id)"
              + " order by id limit "
              + MOST_BLOCKS,
          row -> {
            if (blocks.isEmpty() || total[0] + row.getInt(2) <= MOST_EVENTS) {
              blocks.add(row.getLong(1));
              total[0] += row.getInt(2);
            }
          });
      if (blocks.isEmpty()) {
        return false;
      }
      Long[] ids = blocks.toArray(Long[]::new);
      var logged = new ArrayList<LoggedEvent>();
      bench.jdbc.query(
          "select id, received_at, body from event_block where id = any(?) order by id",
          row -> {
            logged.addAll(
                Packed.events(row.getLong(1), row.getTimestamp(2).toInstant(), row.getBytes(3)));
          },
          (Object) ids);
      var brought = new ArrayList<FactStore.Brought>();
      firsts(logged).forEach(event -> read(event, brought));
      if (!brought.isEmpty()) {
        bench.catalog.write(brought);
      }
      bench.jdbc.batchUpdate(
          "insert into rebuilt_block values (?)",
          blocks.stream().map(id -> new Object[] {id}).toList());
      events += brought.size();
      blocksDone += blocks.size();
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
      bench.jdbc.query(
          "select encode(digest, 'hex'), block_id, position from event_seen where digest = any(?)"
              + " order by block_id, position",
          row -> {
            long block = row.getLong(2);
            int position = row.getInt(3);
            byDigest.get(row.getString(1)).stream()
                .filter(event -> event.block() == block && event.position() == position)
                .forEach(firsts::add);
          },
          (Object) byDigest.keySet().stream().map(FactRows::bytes).toArray(byte[][]::new));
      return firsts;
    }

    private void read(LoggedEvent event, List<FactStore.Brought> into) {
      try {
        into.add(
            new FactStore.Brought(
                EventReader.read(event.bytes(), event.receivedAt(), memory), event.block()));
      } catch (UnreadableEventException e) {
        unreadable.add(event.block() + "." + event.position() + ": " + e.reason());
      }
    }
  }
}
