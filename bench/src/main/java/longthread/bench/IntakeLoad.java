package longthread.bench;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.util.UUID;
import java.util.concurrent.Callable;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.stream.IntStream;

/**
 * Load on a running service's intake, and in the same run, in turns, the control: one connection
 * that commits each event to the same PostgreSQL by itself.
 *
 * <p>Arguments: the service's address, the file of its token, a JDBC address of a database in the
 * same PostgreSQL, the file of its password.
 */
public final class IntakeLoad {
  private static final int EVENTS = 4_000;
  private static final int CONTROL_EVENTS = 400;
  private static final int CONNECTIONS = 32;
  private static final int SENDERS = 4;
  private static final int BATCH = 100;
  private static final int ROUNDS = 2;
  private static final int COLUMNS = 20;

  private final HttpClient http =
      HttpClient.newBuilder().version(HttpClient.Version.HTTP_1_1).build();
  private final String base;
  private final String token;

  private IntakeLoad(String base, String token) {
    this.base = base;
    this.token = token;
  }

  public static void main(String[] args)
      throws IOException, SQLException, InterruptedException, ExecutionException {
    var load = new IntakeLoad(args[0], Files.readString(Path.of(args[1])).strip());
    String password = Files.readString(Path.of(args[3])).strip();
    System.out.printf("mean event: %d bytes%n", event().length());
    load.single(1_000); // warm
    for (int round = 1; round <= ROUNDS; round++) {
      double control = control(args[2], password);
      double single = load.single(EVENTS);
      double batches = load.batches(EVENTS * 2);
      double applied = load.drained();
      System.out.printf(
          "round %d: one commit each %.0f/s; single posts %.0f/s (%.1f times); batches of %d %.0f/s"
              + " (%.1f times); all applied %.1f s later%n",
          round, control, single, single / control, BATCH, batches, batches / control, applied);
    }
  }

  /** An event like a usual one: two tables of twenty columns and a map between them. */
  private static String event() {
    String id = UUID.randomUUID().toString();
    String table = "bench.t" + Math.abs(id.hashCode() % 500);
    var fields = new StringBuilder();
    var map = new StringBuilder();
    for (int c = 0; c < COLUMNS; c++) {
      String comma = c == 0 ? "" : ",";
      fields
          .append(comma)
          .append(
              "{\"name\":\"column_"
                  + c
                  + "\",\"type\":\"numeric(12,2)\",\"description\":\"The figure number "
                  + c
                  + " of the row\"}");
      map.append(comma)
          .append(
              "\"column_"
                  + c
                  + "\":{\"inputFields\":[{\"namespace\":\"postgres://bench:5432\",\"name\":\""
                  + table
                  + "_src\",\"field\":\"column_"
                  + c
                  + "\",\"transformations\":[{\"type\":\"DIRECT\",\"subtype\":\"IDENTITY\",\"description\":\"\",\"masking\":false}]}]}");
    }
    String schema =
        "\"schema\":{\"_producer\":\"https://bench.example\",\"_schemaURL\":\"https://bench.example/s\",\"fields\":["
            + fields
            + "]}";
    return "{\"eventType\":\"COMPLETE\",\"eventTime\":\"2026-05-01T00:00:00Z\",\"producer\":\"https://bench.example\",\"schemaURL\":\"https://bench.example/s\","
        + "\"run\":{\"runId\":\""
        + id
        + "\"},\"job\":{\"namespace\":\"bench\",\"name\":\"job_"
        + table
        + "\"},"
        + "\"inputs\":[{\"namespace\":\"postgres://bench:5432\",\"name\":\""
        + table
        + "_src\",\"facets\":{"
        + schema
        + "}}],"
        + "\"outputs\":[{\"namespace\":\"postgres://bench:5432\",\"name\":\""
        + table
        + "\",\"facets\":{"
        + schema
        + ",\"columnLineage\":{\"_producer\":\"https://bench.example\",\"_schemaURL\":\"https://bench.example/s\",\"fields\":{"
        + map
        + "}}}}]}";
  }

  private static double control(String url, String password) throws SQLException {
    try (Connection connection = DriverManager.getConnection(url, "longthread", password);
        var statement = connection.createStatement()) {
      statement.execute(
          "create table if not exists bench_control (id bigint generated always as identity, body bytea)");
      long start = System.nanoTime();
      try (var insert =
          connection.prepareStatement("insert into bench_control (body) values (?)")) {
        for (int i = 0; i < CONTROL_EVENTS; i++) {
          insert.setBytes(1, event().getBytes(StandardCharsets.UTF_8));
          insert.executeUpdate();
        }
      }
      statement.execute("drop table bench_control");
      return CONTROL_EVENTS / seconds(start);
    }
  }

  private double single(int events) throws InterruptedException, ExecutionException {
    return rate(
        CONNECTIONS,
        events,
        () -> {
          post("/api/v1/lineage", event(), 201);
          return 1;
        });
  }

  private double batches(int events) throws InterruptedException, ExecutionException {
    return rate(
        SENDERS,
        events,
        () -> {
          var body = new StringBuilder();
          IntStream.range(0, BATCH).forEach(i -> body.append(event()).append('\n'));
          post("/api/v1/lineage/batch", body.toString(), 200);
          return BATCH;
        });
  }

  private double rate(int threads, int events, Callable<Integer> send)
      throws InterruptedException, ExecutionException {
    var pool = Executors.newFixedThreadPool(threads);
    try {
      long start = System.nanoTime();
      var senders =
          IntStream.range(0, threads)
              .<Future<Integer>>mapToObj(
                  t ->
                      pool.submit(
                          () -> {
                            int sent = 0;
                            while (sent < events / threads) {
                              sent += send.call();
                            }
                            return sent;
                          }))
              .toList();
      int sent = 0;
      for (Future<Integer> sender : senders) {
        sent += sender.get();
      }
      return sent / seconds(start);
    } finally {
      pool.shutdown();
    }
  }

  /** How long until nothing waits to be applied, in seconds. */
  private double drained() throws IOException, InterruptedException {
    long start = System.nanoTime();
    while (true) {
      var request =
          HttpRequest.newBuilder(URI.create(base + "/api/v1/intake?limit=1"))
              .header("Authorization", "Bearer " + token)
              .build();
      String answer = http.send(request, HttpResponse.BodyHandlers.ofString()).body();
      if (answer.contains("\"waiting\":0,")) {
        return seconds(start);
      }
      Thread.sleep(50);
    }
  }

  private void post(String path, String body, int wanted) throws IOException, InterruptedException {
    var request =
        HttpRequest.newBuilder(URI.create(base + path))
            .header("Authorization", "Bearer " + token)
            .header("Content-Type", "application/json")
            .POST(HttpRequest.BodyPublishers.ofString(body))
            .build();
    int status;
    do {
      status = http.send(request, HttpResponse.BodyHandlers.discarding()).statusCode();
    } while (status == 503);
    if (status != wanted) {
      throw new IllegalStateException("the service answered " + status);
    }
  }

  private static double seconds(long start) {
    return (System.nanoTime() - start) / 1e9;
  }
}
