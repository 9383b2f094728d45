package longthread.bench;

import com.github.luben.zstd.ZstdOutputStream;
import java.io.BufferedInputStream;
import java.io.ByteArrayOutputStream;
import java.io.DataOutputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.net.Socket;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.TreeMap;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicLong;
import java.util.stream.IntStream;

/**
 * Load on a running service's intake, and in the same run, in turns, the controls, all against the
 * same PostgreSQL and with the same events: one connection that commits each event by itself; 32
 * callers behind one committing thread that writes what waits as one compressed block row; and bare
 * blocks of a hundred events.
 *
 * <p>Arguments: the service's address, the file of its token, a JDBC address of the service's
 * database, the file of its password, and optionally the number of rounds.
 */
public final class IntakeLoad {
  private static final int SECONDS = 8;
  private static final int CONNECTIONS = 32;
  private static final int SENDERS = 4;
  private static final int BATCH = 100;
  private static final int COLUMNS = 20;
  private static final int TABLES = 500;

  private final URI base;
  private final String token;
  private final String database;
  private final String password;
  private final AtomicLong counter = new AtomicLong(System.nanoTime());

  private IntakeLoad(URI base, String token, String database, String password) {
    this.base = base;
    this.token = token;
    this.database = database;
    this.password = password;
  }

  public static void main(String[] args)
      throws IOException, SQLException, InterruptedException, ExecutionException {
    var load =
        new IntakeLoad(
            URI.create(args[0]),
            Files.readString(Path.of(args[1])).strip(),
            args[2],
            Files.readString(Path.of(args[3])).strip());
    int rounds = args.length > 4 ? Integer.parseInt(args[4]) : 3;
    System.out.printf("an event has %d bytes%n", load.event().length);
    load.single(15); // the service's code is compiled while it is used
    load.drain();
    for (int round = 1; round <= rounds; round++) {
      load.round(round);
    }
  }

  private void round(int round)
      throws IOException, SQLException, InterruptedException, ExecutionException {
    double alone = oneCommitEach();
    double group = groupCommit();
    double blocks = bareBlocks();
    TreeMap<String, Double> stages = stages();
    double[] size = size();
    double single = single(SECONDS);
    double singleDrain = drain();
    double batches = batches();
    double batchDrain = drain();
    double[] grown = size();
    System.out.printf(
        "round %d: controls: one commit each %.0f/s, group commit %.0f/s, bare blocks %.0f/s%n",
        round, alone, group, blocks);
    System.out.printf(
        "  single posts %.0f/s: %.2f of group commit, %.1f times one commit each; all applied %.1f s"
            + " after the last%n",
        single, single / group, single / alone, singleDrain);
    System.out.printf(
        "  batches of %d: %.0f/s: %.2f of bare blocks; all applied %.1f s after the last%n",
        BATCH, batches, batches / blocks, batchDrain);
    double accepted = single * SECONDS + batches * SECONDS;
    double applied = accepted / (2 * SECONDS + singleDrain + batchDrain);
    System.out.printf(
        "  applied %.0f/s over all of it, while accepting: %.2f of the mean rate of acceptance%n",
        applied, applied / (accepted / (2 * SECONDS)));
    System.out.printf(
        "  an event takes %.0f bytes of the log's table, %.0f of all tables, %.0f of WAL%n",
        (grown[0] - size[0]) / accepted,
        (grown[1] - size[1]) / accepted,
        (grown[2] - size[2]) / accepted);
    var shares = new ArrayList<String>();
    TreeMap<String, Double> now = stages();
    double total =
        now.keySet().stream().mapToDouble(s -> now.get(s) - stages.getOrDefault(s, 0.0)).sum();
    now.forEach(
        (stage, time) ->
            shares.add(
                String.format(
                    "%s %.0f %%", stage, 100 * (time - stages.getOrDefault(stage, 0.0)) / total)));
    System.out.printf("  the applier's time: %s%n", String.join(", ", shares));
  }

  // ------------------------------------------------------------------ events

  /** An event like a usual one: two tables of twenty columns and a map between them. */
  private byte[] event() {
    long number = counter.incrementAndGet();
    String table = "bench.t" + number % TABLES;
    String body =
        "{\"eventType\":\"COMPLETE\",\"eventTime\":\"2026-05-01T00:00:00Z\",\"producer\":\"https://bench.example\","
            + "\"schemaURL\":\"https://bench.example/s\",\"run\":{\"runId\":\""
            + String.format("%08x-0000-4000-8000-%012x", number >>> 32, number & 0xffff_ffffL)
            + "\"},\"job\":{\"namespace\":\"bench\",\"name\":\"job_"
            + table
            + "\"},\"inputs\":[{\"namespace\":\"postgres://bench:5432\",\"name\":\""
            + table
            + "_src\",\"facets\":{"
            + SCHEMA
            + "}}],\"outputs\":[{\"namespace\":\"postgres://bench:5432\",\"name\":\""
            + table
            + "\",\"facets\":{"
            + SCHEMA
            + ",\"columnLineage\":{\"_producer\":\"https://bench.example\",\"_schemaURL\":\"https://bench.example/s\",\"fields\":{"
            + MAP.replace("TABLE", table)
            + "}}}}]}";
    return body.getBytes(StandardCharsets.UTF_8);
  }

  private static final String SCHEMA = schema();
  private static final String MAP = map();

  private static String schema() {
    var fields = new StringBuilder();
    for (int c = 0; c < COLUMNS; c++) {
      fields
          .append(c == 0 ? "" : ",")
          .append("{\"name\":\"column_" + c + "\",\"type\":\"numeric(12,2)\",\"description\":")
          .append("\"The figure number " + c + " of the row\"}");
    }
    return "\"schema\":{\"_producer\":\"https://bench.example\",\"_schemaURL\":\"https://bench.example/s\",\"fields\":["
        + fields
        + "]}";
  }

  private static String map() {
    var map = new StringBuilder();
    for (int c = 0; c < COLUMNS; c++) {
      map.append(c == 0 ? "" : ",")
          .append(
              "\"column_"
                  + c
                  + "\":{\"inputFields\":[{\"namespace\":\"postgres://bench:5432\",\"name\":\"TABLE_src\",\"field\":\"column_"
                  + c
                  + "\",\"transformations\":[{\"type\":\"DIRECT\",\"subtype\":\"IDENTITY\",\"description\":\"\",\"masking\":false}]}]}");
    }
    return map.toString();
  }

  // ------------------------------------------------------------------ controls

  private Connection connect() throws SQLException {
    return DriverManager.getConnection(database, "longthread", password);
  }

  private static byte[] block(List<byte[]> events) {
    var out = new ByteArrayOutputStream();
    try (var data = new DataOutputStream(new ZstdOutputStream(out, 1))) {
      for (byte[] event : events) {
        data.writeInt(event.length);
        data.write(event);
      }
    } catch (IOException e) {
      throw new UncheckedIOException(e);
    }
    return out.toByteArray();
  }

  /** Something to do with a statement that inserts into a table of the control's own. */
  private interface Inserting {
    double rate(PreparedStatement insert) throws SQLException, InterruptedException;
  }

  private double control(Inserting what) throws SQLException, InterruptedException {
    try (Connection connection = connect();
        var statement = connection.createStatement()) {
      statement.execute("drop table if exists public.bench_control");
      statement.execute(
          "create table public.bench_control (id bigint generated always as identity primary key,"
              + " received_at timestamptz not null default now(), body bytea not null)");
      try (PreparedStatement insert =
          connection.prepareStatement(
              "insert into public.bench_control (body) values (?) returning id")) {
        return what.rate(insert);
      } finally {
        statement.execute("drop table public.bench_control");
      }
    }
  }

  private static void commit(PreparedStatement insert, byte[] body) throws SQLException {
    insert.setBytes(1, body);
    insert.executeQuery().close();
  }

  private double oneCommitEach() throws SQLException, InterruptedException {
    return control(
        insert -> {
          long start = System.nanoTime();
          int events = 0;
          for (; seconds(start) < SECONDS / 2.0; events++) {
            commit(insert, event());
          }
          return events / seconds(start);
        });
  }

  private double bareBlocks() throws SQLException, InterruptedException {
    return control(
        insert -> {
          long start = System.nanoTime();
          int events = 0;
          for (; seconds(start) < SECONDS / 2.0; events += BATCH) {
            commit(insert, block(IntStream.range(0, BATCH).mapToObj(i -> event()).toList()));
          }
          return events / seconds(start);
        });
  }

  private record Waiting(byte[] event, CompletableFuture<Boolean> durable) {}

  private double groupCommit() throws SQLException, InterruptedException {
    return control(
        insert -> {
          var queue = new ArrayBlockingQueue<Waiting>(CONNECTIONS);
          var callers = Executors.newFixedThreadPool(CONNECTIONS, IntakeLoad::daemon);
          long start = System.nanoTime();
          IntStream.range(0, CONNECTIONS)
              .forEach(
                  c ->
                      callers.submit(
                          () -> {
                            while (seconds(start) < SECONDS) {
                              var waiting = new Waiting(event(), new CompletableFuture<>());
                              queue.put(waiting);
                              waiting.durable().get();
                            }
                            return null;
                          }));
          int events = 0;
          var batch = new ArrayList<Waiting>();
          while (seconds(start) < SECONDS) {
            Waiting first = queue.poll(100, TimeUnit.MILLISECONDS);
            if (first != null) {
              batch.add(first);
              queue.drainTo(batch);
              commit(insert, block(batch.stream().map(Waiting::event).toList()));
              events += batch.size();
              batch.forEach(waiting -> waiting.durable().complete(true));
              batch.clear();
            }
          }
          double rate = events / seconds(start);
          callers.shutdownNow();
          return rate;
        });
  }

  // ------------------------------------------------------------------ the service

  /** One connection over which requests are written and answers read, and little else. */
  private final class Line implements AutoCloseable {
    private Socket socket;
    private InputStream in;

    Line() throws IOException {
      connectAgain();
    }

    private void connectAgain() throws IOException {
      socket = new Socket(base.getHost(), base.getPort());
      socket.setTcpNoDelay(true);
      in = new BufferedInputStream(socket.getInputStream());
    }

    String ask(String method, String path, byte[] body) throws IOException {
      String head =
          method
              + " "
              + path
              + " HTTP/1.1\r\nHost: bench\r\nAuthorization: Bearer "
              + token
              + "\r\nContent-Type: application/json\r\nContent-Length: "
              + body.length
              + "\r\n\r\n";
      byte[] bytes = new byte[head.length() + body.length];
      System.arraycopy(head.getBytes(StandardCharsets.US_ASCII), 0, bytes, 0, head.length());
      System.arraycopy(body, 0, bytes, head.length(), body.length);
      socket.getOutputStream().write(bytes);
      String status = line();
      if (status.isEmpty()) { // a server may end a connection after so many requests
        socket.close();
        connectAgain();
        return ask(method, path, body);
      }
      int length = -1;
      boolean chunked = false;
      for (String header = line(); !header.isEmpty(); header = line()) {
        String lower = header.toLowerCase(java.util.Locale.ROOT);
        if (lower.startsWith("content-length:")) {
          length = Integer.parseInt(lower.substring(15).strip());
        }
        chunked |= lower.startsWith("transfer-encoding:") && lower.contains("chunked");
      }
      var answer = new ByteArrayOutputStream();
      while (chunked) {
        int size = Integer.parseInt(line().strip(), 16);
        answer.write(in.readNBytes(size));
        line();
        chunked = size > 0;
      }
      if (length > 0) {
        answer.write(in.readNBytes(length));
      }
      return status.substring(9, 12) + " " + answer.toString(StandardCharsets.UTF_8);
    }

    private String line() throws IOException {
      var line = new StringBuilder();
      for (int c = in.read(); c >= 0 && c != '\n'; c = in.read()) {
        if (c != '\r') {
          line.append((char) c);
        }
      }
      return line.toString();
    }

    @Override
    public void close() throws IOException {
      socket.close();
    }
  }

  private double single(int seconds) throws InterruptedException, ExecutionException {
    return rate(CONNECTIONS, seconds, "/api/v1/lineage", 1);
  }

  private double batches() throws InterruptedException, ExecutionException {
    return rate(SENDERS, SECONDS, "/api/v1/lineage/batch", BATCH);
  }

  private double rate(int lines, int seconds, String path, int events)
      throws InterruptedException, ExecutionException {
    var pool = Executors.newFixedThreadPool(lines, IntakeLoad::daemon);
    long start = System.nanoTime();
    var senders = new ArrayList<Future<Integer>>();
    for (int i = 0; i < lines; i++) {
      senders.add(
          pool.submit(
              () -> {
                int sent = 0;
                try (var line = new Line()) {
                  while (seconds(start) < seconds) {
                    String answer = line.ask("POST", path, body(events));
                    if (answer.startsWith("20")) {
                      sent += events;
                    } else if (!answer.startsWith("503")) {
                      throw new IllegalStateException(answer);
                    }
                  }
                }
                return sent;
              }));
    }
    int sent = 0;
    for (Future<Integer> sender : senders) {
      sent += sender.get();
    }
    pool.shutdown();
    return sent / seconds(start);
  }

  private byte[] body(int events) {
    if (events == 1) {
      return event();
    }
    var body = new ByteArrayOutputStream();
    for (int i = 0; i < events; i++) {
      body.writeBytes(event());
      body.write('\n');
    }
    return body.toByteArray();
  }

  /** How long until nothing waits to be applied, in seconds. */
  private double drain() throws IOException, InterruptedException {
    long start = System.nanoTime();
    try (var line = new Line()) {
      while (!line.ask("GET", "/api/v1/intake?limit=1", new byte[0]).contains("\"waiting\":0,")) {
        Thread.sleep(50);
      }
    }
    return seconds(start);
  }

  private TreeMap<String, Double> stages() throws IOException {
    var stages = new TreeMap<String, Double>();
    try (var line = new Line()) {
      for (String text : line.ask("GET", "/metrics", new byte[0]).split("\n")) {
        if (text.startsWith("longthread_apply_seconds_sum{stage=\"")) {
          String stage = text.substring(text.indexOf('"') + 1, text.lastIndexOf('"'));
          stages.put(stage, Double.parseDouble(text.substring(text.lastIndexOf(' ') + 1)));
        }
      }
    }
    return stages;
  }

  /** Bytes of the log's table, of all tables, and where the WAL stands. */
  private double[] size() throws SQLException {
    try (Connection connection = connect();
        var statement = connection.createStatement();
        var row =
            statement.executeQuery(
                "select pg_total_relation_size('public.event_block'), pg_database_size(current_database()),"
                    + " pg_wal_lsn_diff(pg_current_wal_lsn(), '0/0')")) {
      row.next();
      return new double[] {row.getDouble(1), row.getDouble(2), row.getDouble(3)};
    }
  }

  private static Thread daemon(Runnable work) {
    var thread = new Thread(work);
    thread.setDaemon(true);
    return thread;
  }

  private static double seconds(long start) {
    return (System.nanoTime() - start) / 1e9;
  }
}
