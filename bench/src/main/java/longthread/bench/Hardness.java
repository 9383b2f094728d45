package longthread.bench;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.net.Socket;
import java.net.URI;
import java.net.http.HttpRequest;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Random;
import java.util.TreeMap;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicLong;
import java.util.zip.GZIPOutputStream;

/**
 * What a running service does under callers that are slow, many, large or damaged, and how much
 * memory it takes meanwhile.
 *
 * <p>Arguments: the service's address, the file of its token, the file of its process id, and the
 * parts to run, of: {@code slow}, {@code queries}, {@code bodies}, {@code fuzz}, {@code memory=N}
 * for N minutes of mixed load. All of it is the same for the same seed.
 */
public final class Hardness {
  private static final int SLOW_CALLERS = 210;
  private static final int QUERIES = 64;

  private final Calls calls;
  private final HardEvents events = new HardEvents();
  private final String watchToken;

  private Hardness(Calls calls) throws IOException, InterruptedException {
    this.calls = calls;
    this.watchToken = calls.makeKey();
  }

  public static void main(String[] args) throws Exception {
    String token = Files.readString(Path.of(args[1])).strip();
    var run = new Hardness(new Calls(URI.create(args[0]), token, Path.of(args[2])));
    run.warmUp();
    for (String part : Arrays.copyOfRange(args, 3, args.length)) {
      switch (part.replaceAll("=.*", "")) {
        case "slow" -> run.slow();
        case "queries" -> run.queries();
        case "bodies" -> run.bodies();
        case "fuzz" -> new DamagedReads(run.calls).run();
        case "memory" ->
            new MixedLoad(run.calls, run.events)
                .run(Integer.parseInt(part.substring("memory=".length())));
        default -> throw new IllegalArgumentException("unknown part " + part);
      }
    }
  }

  private Watch watch() {
    return new Watch(calls, watchToken, events);
  }

  private void warmUp() throws InterruptedException {
    Watch watch = watch();
    for (int i = 0; i < 200; i++) {
      watch.once();
    }
  }

  private String quiet() throws InterruptedException {
    try (var watch = watch().begin()) {
      Thread.sleep(5_000);
      watch.close();
      return watch.words();
    }
  }

  /** Callers without a key, and then with one, that send a byte of their body now and then. */
  private void slow() throws IOException, InterruptedException {
    System.out.println("slow clients; alone: " + quiet());
    for (String key : List.of("", "Authorization: Bearer " + calls.token() + "\r\n")) {
      var sockets = new ArrayList<Socket>();
      try (var watch = watch().begin()) {
        for (int i = 0; i < SLOW_CALLERS; i++) {
          var socket = new Socket(calls.base().getHost(), calls.base().getPort());
          sockets.add(socket);
          String path = i % 3 == 0 ? "/api/v1/sql/lineage" : "/api/v1/lineage";
          socket
              .getOutputStream()
              .write(
                  ("POST "
                          + path
                          + " HTTP/1.1\r\nHost: h\r\n"
                          + key
                          + "Content-Type: application/json\r\nContent-Length: 9000\r\n\r\n{")
                      .getBytes(StandardCharsets.UTF_8));
        }
        for (int second = 0; second < 20; second++) {
          Thread.sleep(1_000);
          for (Socket socket : sockets) {
            try {
              socket.getOutputStream().write(' ');
            } catch (IOException e) {
              // closed by the service: that is one way to be rid of it
            }
          }
        }
        watch.close();
        System.out.printf(
            "%d slow posts %s key: %s%n",
            SLOW_CALLERS, key.isEmpty() ? "without" : "with a good", watch.words());
      } finally {
        for (Socket socket : sockets) {
          socket.close();
        }
      }
    }
  }

  /** Heavy queries at once, again and again for a while, beside posts. */
  private void queries() throws InterruptedException {
    System.out.println(QUERIES + " queries; alone: " + quiet());
    List<String> heavy =
        List.of(
            "/api/v1/graph?ref=pg://hard/out1&detail=columns&limit=1000",
            "/api/v1/search?q=out&limit=1000",
            "/api/v1/runs?limit=1000",
            "/api/v1/causes?ref=pg://hard/out3",
            "/api/v1/intake?limit=1000",
            "/api/v1/browse?limit=1000",
            "/api/v1/impact?ref=pg://hard/in1&change=drop&limit=1000");
    var times = new ConcurrentHashMap<Integer, ConcurrentLinkedQueue<Double>>();
    ExecutorService callers = Executors.newFixedThreadPool(QUERIES);
    long end = System.nanoTime() + TimeUnit.SECONDS.toNanos(30);
    try (var watch = watch().begin()) {
      for (int i = 0; i < QUERIES; i++) {
        var random = new Random(i);
        callers.submit(
            () -> {
              while (System.nanoTime() < end) {
                long start = System.nanoTime();
                int status =
                    calls.status(calls.to(heavy.get(random.nextInt(heavy.size()))).GET().build());
                times
                    .computeIfAbsent(status, s -> new ConcurrentLinkedQueue<>())
                    .add((System.nanoTime() - start) / 1e6);
                if (status == 503) {
                  Thread.sleep(500); // less than Retry-After asks for
                }
              }
              return true;
            });
      }
      callers.shutdown();
      callers.awaitTermination(3, TimeUnit.MINUTES);
      watch.close();
      System.out.println("beside them: " + watch.words());
    }
    new TreeMap<>(times)
        .forEach(
            (status, all) -> System.out.println("  answered " + status + ": " + Watch.spread(all)));
  }

  /** Bodies that unpack to much, many at once. */
  private void bodies() throws IOException, InterruptedException {
    var packed = new ByteArrayOutputStream();
    try (var gzip = new GZIPOutputStream(packed)) {
      byte[] line = " ".repeat(1 << 16).getBytes(StandardCharsets.UTF_8);
      for (int i = 0; i < 1_920; i++) {
        gzip.write(line); // 120 MiB of a JSON array that is not there yet
      }
      gzip.write("[]".getBytes(StandardCharsets.UTF_8));
    }
    var statuses = new ConcurrentHashMap<Integer, AtomicLong>();
    ExecutorService callers = Executors.newFixedThreadPool(12);
    try (var watch = watch().begin()) {
      for (int i = 0; i < 36; i++) {
        callers.submit(
            () ->
                statuses
                    .computeIfAbsent(
                        calls.status(
                            calls
                                .to("/api/v1/lineage/batch")
                                .header("Content-Encoding", "gzip")
                                .POST(HttpRequest.BodyPublishers.ofByteArray(packed.toByteArray()))
                                .build()),
                        s -> new AtomicLong())
                    .incrementAndGet());
      }
      callers.shutdown();
      callers.awaitTermination(5, TimeUnit.MINUTES);
      watch.close();
      System.out.printf(
          "36 bodies of 120 MiB, 12 at once: statuses %s, process %d MiB; beside them: %s%n",
          new TreeMap<>(statuses), calls.resident(), watch.words());
    }
  }
}
