package longthread.service.intake;

import jakarta.annotation.PostConstruct;
import jakarta.annotation.PreDestroy;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Timestamp;
import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Properties;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.concurrent.atomic.AtomicLong;
import longthread.core.event.CanonicalJson;
import longthread.core.event.EventReader;
import longthread.core.event.UnreadableEventException;
import longthread.service.web.ProblemException;
import longthread.service.web.StoredText;
import org.jspecify.annotations.Nullable;
import org.postgresql.Driver;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Component;

/**
 * The durable log. Callers hand in events and wait; one committing thread drains all that wait into
 * one compressed block and one commit, so a commit's cost is shared by everyone who waited for it.
 *
 * <p>What may wait is bounded in number and in bytes. Whoever comes on top of that, or while the
 * database is away, is told so at once.
 */
@Component
class EventLog {
  /** The version of the rules by which events are accepted and read. */
  static final int READING = 2;

  private static final Logger LOG = LoggerFactory.getLogger(EventLog.class);
  private static final int MOST_WAITING = 128; // fewer than the web server's threads
  private static final long MOST_WAITING_BYTES = 128L << 20;
  private static final int BLOCK_EVENTS = 2_000;
  private static final int BLOCK_BYTES = 8 << 20;
  private static final long PATIENCE_SECONDS = 4;
  private static final long AWAY_MILLIS = 300;

  /** One thing to be kept: an event, or what was refused with the reason. */
  record Item(byte[] bytes, String digest, @Nullable Refusal refusal) {
    /** An event as it came, accepted or with why it cannot be. */
    static Item of(byte[] bytes, long largest) {
      try {
        if (bytes.length > largest) {
          throw new UnreadableEventException(
              "too-large", "the event has more than " + largest + " bytes; send smaller facets");
        }
        EventReader.check(bytes);
        return accepted(bytes);
      } catch (UnreadableEventException e) {
        return refused(bytes, new Refusal(e.problem(), e.reason()));
      }
    }

    static Item accepted(byte[] bytes) {
      return new Item(bytes, CanonicalJson.digest(bytes), null);
    }

    static Item refused(byte[] bytes, Refusal refusal) {
      return new Item(bytes, CanonicalJson.digest(bytes), refusal);
    }
  }

  /** Why something was refused: a stable word, and a sentence. */
  record Refusal(String problem, String reason) {}

  /**
   * What became of the items handed in.
   *
   * @param block the number under which all of them show once it is applied
   * @param duplicates how many were in the log before
   */
  record Kept(long block, int duplicates) {}

  private record Waiting(
      List<Item> items, @Nullable String source, long bytes, CompletableFuture<Kept> kept) {}

  private final Clock clock;
  private final Applier applier;
  private final String url;
  private final Properties login = new Properties();
  private final BlockingQueue<Waiting> queue = new ArrayBlockingQueue<>(MOST_WAITING);
  private final AtomicLong waitingBytes = new AtomicLong();
  private final Thread committer = new Thread(this::commitForEver, "log-committer");

  private final RecentEvents recent;
  private @Nullable Connection connection;
  private volatile @Nullable Instant awaySince;
  private volatile boolean stopping;

  EventLog(
      Clock clock,
      Applier applier,
      RecentEvents recent,
      @Value("${spring.datasource.url}") String url,
      @Value("${spring.datasource.username}") String user,
      @Value("${spring.datasource.password}") String password) {
    this.clock = clock;
    this.applier = applier;
    this.recent = recent;
    this.url = url;
    login.setProperty("user", user);
    login.setProperty("password", password);
    login.setProperty("connectTimeout", "3");
    login.setProperty("socketTimeout", "10");
    login.setProperty("tcpKeepAlive", "true");
    login.setProperty("ApplicationName", "longthread log");
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
  Kept append(List<Item> items, @Nullable String source) {
    if (awaySince != null) {
      throw overloaded("the database is away since " + awaySince);
    }
    long bytes = items.stream().mapToLong(item -> item.bytes().length).sum();
    var waiting = new Waiting(items, source, bytes, new CompletableFuture<>());
    boolean room = waitingBytes.get() == 0 || waitingBytes.get() + bytes <= MOST_WAITING_BYTES;
    if (stopping || !room || !queue.offer(waiting)) {
      throw overloaded("too many posts are waiting to be written");
    }
    waitingBytes.addAndGet(bytes);
    try {
      return waiting.kept().get(PATIENCE_SECONDS, TimeUnit.SECONDS);
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

  /** How many callers wait for a commit. */
  int waiting() {
    return queue.size();
  }

  /** Since when the database does not answer; null while it does. */
  @Nullable Instant awaySince() {
    return awaySince;
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
        Waiting first = queue.poll(AWAY_MILLIS, TimeUnit.MILLISECONDS);
        if (first != null) {
          batch.add(first);
          drain(batch);
          commit(batch);
        } else if (awaySince != null) {
          connected();
        }
      } catch (InterruptedException e) {
        Thread.currentThread().interrupt();
        break;
      } catch (SQLException e) {
        away(e);
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

  private void drain(List<Waiting> batch) {
    int events = batch.get(0).items().size();
    long bytes = batch.get(0).bytes();
    String source = batch.get(0).source();
    while (events < BLOCK_EVENTS && bytes < BLOCK_BYTES) {
      Waiting next = queue.peek();
      // A block has one source, so that a refusal can be told by its file.
      if (next == null || !java.util.Objects.equals(next.source(), source)) {
        return;
      }
      queue.remove();
      batch.add(next);
      events += next.items().size();
      bytes += next.bytes();
    }
  }

  private Connection connected() throws SQLException {
    Connection open = connection;
    if (open == null) {
      open = new Driver().connect(url, login);
      if (open == null) {
        throw new SQLException("the address " + url + " is not one of PostgreSQL");
      }
      connection = open;
      if (awaySince != null) {
        LOG.info("the database is back");
      }
      awaySince = null;
    }
    return open;
  }

  private void away(SQLException e) {
    disconnect();
    if (awaySince == null) {
      awaySince = clock.instant();
      LOG.warn("the database is away: {}", e.getMessage());
    }
  }

  private void disconnect() {
    if (connection != null) {
      try {
        connection.close();
      } catch (SQLException e) {
        LOG.debug("a connection did not close: {}", e.getMessage());
      }
      connection = null;
    }
  }

  private void commit(List<Waiting> batch) throws SQLException {
    Connection open = connected();
    Map<String, Long> known = known(open, batch);
    var entries = new ArrayList<Packed.Entry>();
    var fresh = new HashMap<String, Integer>();
    var refusals = new ArrayList<Object[]>();
    var duplicates = new int[batch.size()];
    var blocks = new long[batch.size()];
    var mine = new boolean[batch.size()];
    Timestamp now = Timestamp.from(clock.instant());
    for (int i = 0; i < batch.size(); i++) {
      for (Item item : batch.get(i).items()) {
        if (item.refusal() != null) {
          refusals.add(new Object[] {entries.size(), item.refusal()});
        } else if (known.containsKey(item.digest())) {
          duplicates[i]++;
          blocks[i] = Math.max(blocks[i], known.get(item.digest()));
          continue;
        } else if (fresh.containsKey(item.digest())) {
          duplicates[i]++;
          mine[i] = true;
          continue;
        } else {
          fresh.put(item.digest(), entries.size());
        }
        mine[i] = true;
        entries.add(new Packed.Entry(item.refusal() != null, item.bytes()));
      }
    }
    long block = entries.isEmpty() ? 0 : insert(open, batch, entries, refusals, now);
    fresh.keySet().forEach(digest -> recent.put(digest, block));
    for (int i = 0; i < batch.size(); i++) {
      batch.get(i).kept().complete(new Kept(mine[i] ? block : blocks[i], duplicates[i]));
    }
    if (block > 0) {
      applier.wake();
    }
  }

  /** The blocks of those events of a batch that were kept before. */
  private Map<String, Long> known(Connection open, List<Waiting> batch) throws SQLException {
    var known = new HashMap<String, Long>();
    var unknown = new ArrayList<byte[]>();
    for (Waiting waiting : batch) {
      for (Item item : waiting.items()) {
        Long block = item.refusal() == null ? recent.blockOf(item.digest()) : null;
        if (block != null) {
          known.put(item.digest(), block);
        } else if (item.refusal() == null) {
          unknown.add(FactRows.bytes(item.digest()));
        }
      }
    }
    if (unknown.isEmpty()) {
      return known;
    }
    try (PreparedStatement ask =
        open.prepareStatement(
            "select encode(digest, 'hex'), block_id from event_seen where digest = any(?)")) {
      ask.setObject(1, unknown.toArray(byte[][]::new));
      try (ResultSet row = ask.executeQuery()) {
        while (row.next()) {
          known.put(row.getString(1), row.getLong(2));
        }
      }
    }
    return known;
  }

  private static long insert(
      Connection open,
      List<Waiting> batch,
      List<Packed.Entry> entries,
      List<Object[]> refusals,
      Timestamp now)
      throws SQLException {
    byte[] body = Packed.block(entries);
    String source = batch.get(0).source();
    open.setAutoCommit(refusals.isEmpty());
    try {
      long block;
      try (PreparedStatement insert =
          open.prepareStatement(
              "insert into event_block (received_at, events, body, reading, source)"
                  + " values (?, ?, ?, ?, ?) returning id")) {
        insert.setTimestamp(1, now);
        insert.setInt(2, entries.size());
        insert.setBytes(3, body);
        insert.setInt(4, READING);
        insert.setString(5, source == null ? null : StoredText.clean(source));
        try (ResultSet row = insert.executeQuery()) {
          row.next();
          block = row.getLong(1);
        }
      }
      if (!refusals.isEmpty()) {
        refuse(open, block, source, refusals, now);
        open.commit();
      }
      return block;
    } catch (SQLException e) {
      if (!open.getAutoCommit()) {
        open.rollback();
      }
      throw e;
    } finally {
      open.setAutoCommit(true);
    }
  }

  private static void refuse(
      Connection open, long block, @Nullable String source, List<Object[]> refusals, Timestamp now)
      throws SQLException {
    try (PreparedStatement insert =
        open.prepareStatement(
            "insert into refused_event (block_id, position, received_at, problem, reason, source)"
                + " values (?, ?, ?, ?, ?, ?)")) {
      for (Object[] refusal : refusals) {
        var why = (Refusal) refusal[1];
        insert.setLong(1, block);
        insert.setInt(2, (int) refusal[0]);
        insert.setTimestamp(3, now);
        insert.setString(4, why.problem());
        insert.setString(5, StoredText.clean(why.reason()));
        insert.setString(6, source == null ? null : StoredText.clean(source));
        insert.addBatch();
      }
      insert.executeBatch();
    }
  }
}
