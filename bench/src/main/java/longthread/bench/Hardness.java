package longthread.bench;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.net.Socket;
import java.net.URI;
import java.net.URLEncoder;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
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
  private static final int FUZZ = 10_000;
  private static final int SENDERS = 4;
  private static final int READERS = 4;
  private static final int EVENTS_PER_SECOND = 80;
  private static final int JOBS = 2_000;

  private final URI base;
  private final String token;
  private final Path pidFile;
  private final HttpClient http =
      HttpClient.newBuilder()
          .version(HttpClient.Version.HTTP_1_1)
          .connectTimeout(Duration.ofSeconds(10))
          .build();
  private final AtomicLong counter = new AtomicLong();
  private String watchToken = "";
  private final long started = System.nanoTime();

  private Hardness(URI base, String token, Path pidFile) {
    this.base = base;
    this.token = token;
    this.pidFile = pidFile;
  }

  public static void main(String[] args) throws Exception {
    var run =
        new Hardness(
            URI.create(args[0]), Files.readString(Path.of(args[1])).strip(), Path.of(args[2]));
    run.makeWatchKey();
    run.warmUp();
    for (String part : Arrays.copyOfRange(args, 3, args.length)) {
      switch (part.replaceAll("=.*", "")) {
        case "slow" -> run.slow();
        case "queries" -> run.queries();
        case "bodies" -> run.bodies();
        case "fuzz" -> run.fuzz();
        case "memory" -> run.memory(Integer.parseInt(part.substring("memory=".length())));
        default -> throw new IllegalArgumentException("unknown part " + part);
      }
    }
  }

  /** A key of its own for those who look on, as other programs have it. */
  private void makeWatchKey() throws IOException, InterruptedException {
    String body = "{\"name\":\"watch-" + System.nanoTime() + "\",\"role\":\"steward\"}";
    String answer =
        http.send(
                to("/api/v1/keys")
                    .header("Content-Type", "application/json")
                    .POST(HttpRequest.BodyPublishers.ofString(body))
                    .build(),
                HttpResponse.BodyHandlers.ofString())
            .body();
    watchToken = answer.replaceAll(".*\"token\":\"([^\"]*)\".*", "$1");
  }

  private void warmUp() throws InterruptedException {
    var watch = new Watch();
    for (int i = 0; i < 200; i++) {
      watch.once();
    }
  }

  // ------------------------------------------------------------------ calls

  private HttpRequest.Builder to(String path) {
    return to(path, token);
  }

  private HttpRequest.Builder to(String path, String key) {
    return HttpRequest.newBuilder(URI.create(base + path))
        .timeout(Duration.ofSeconds(120))
        .header("Authorization", "Bearer " + key);
  }

  private int status(HttpRequest request) {
    try {
      return http.send(request, HttpResponse.BodyHandlers.discarding()).statusCode();
    } catch (IOException e) {
      return 0;
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      return 0;
    }
  }

  private int post(byte[] body, boolean packed) {
    HttpRequest.Builder request = to("/api/v1/lineage");
    if (packed) {
      request.header("Content-Encoding", "gzip");
    }
    return status(request.POST(HttpRequest.BodyPublishers.ofByteArray(body)).build());
  }

  /** An event of one of many jobs; some jobs are new, some events have SQL, some fail. */
  private byte[] event(Random random) {
    long number = counter.incrementAndGet();
    int job = random.nextInt(JOBS) + (random.nextInt(50) == 0 ? (int) number : 0);
    int columns = 3 + job % 30;
    var fields = new StringBuilder();
    var map = new StringBuilder();
    for (int c = 0; c < columns; c++) {
      String comma = c == 0 ? "" : ",";
      fields.append(comma).append("{\"name\":\"c" + c + "\",\"type\":\"numeric\"}");
      map.append(comma)
          .append(
              "\"c" + c + "\":{\"inputFields\":[{\"namespace\":\"pg://hard\",\"name\":\"in" + job)
          .append("\",\"field\":\"c" + c + "\"}]}");
    }
    String schema =
        "\"schema\":{\"_producer\":\"p\",\"_schemaURL\":\"s\",\"fields\":[" + fields + "]}";
    String sql =
        job % 2 == 0
            ? ",\"facets\":{\"sql\":{\"_producer\":\"p\",\"_schemaURL\":\"s\",\"query\":\"insert into out"
                + job
                + " select * from in"
                + job
                + " where c0 > "
                + job
                + "\"}}"
            : "";
    return ("{\"eventType\":\""
            + (random.nextInt(20) == 0 ? "FAIL" : "COMPLETE")
            + "\",\"eventTime\":\""
            + Instant.now()
            + "\",\"producer\":\"https://hard.example\",\"schemaURL\":\"s\",\"run\":{\"runId\":\""
            + new java.util.UUID(random.nextLong(), random.nextLong())
            + "\"},\"job\":{\"namespace\":\"hard\",\"name\":\"job"
            + job
            + "\""
            + sql
            + "},\"inputs\":[{\"namespace\":\"pg://hard\",\"name\":\"in"
            + job
            + "\",\"facets\":{"
            + schema
            + "}}],\"outputs\":[{\"namespace\":\"pg://hard\",\"name\":\"out"
            + job
            + "\",\"facets\":{"
            + schema
            + ",\"columnLineage\":{\"_producer\":\"p\",\"_schemaURL\":\"s\",\"fields\":{"
            + map
            + "}}}}]}")
        .getBytes(StandardCharsets.UTF_8);
  }

  /** Posts and asks for the state, over and over, noting how long each takes. */
  private final class Watch implements AutoCloseable {
    private final ConcurrentLinkedQueue<Double> posts = new ConcurrentLinkedQueue<>();
    private final ConcurrentLinkedQueue<Double> health = new ConcurrentLinkedQueue<>();
    private final AtomicLong failed = new AtomicLong();
    private final Random random = new Random(7);
    private final Thread thread = new Thread(this::run);
    private volatile boolean stopping;

    Watch begin() {
      thread.start();
      return this;
    }

    private void run() {
      try {
        while (!stopping) {
          once();
          Thread.sleep(20);
        }
      } catch (InterruptedException e) {
        Thread.currentThread().interrupt();
      }
    }

    void once() throws InterruptedException {
      long start = System.nanoTime();
      HttpRequest post =
          to("/api/v1/lineage", watchToken)
              .POST(HttpRequest.BodyPublishers.ofByteArray(event(random)))
              .build();
      if (status(post) != 201) {
        failed.incrementAndGet();
      }
      posts.add((System.nanoTime() - start) / 1e6);
      start = System.nanoTime();
      if (status(to("/health/liveness").GET().build()) != 200) {
        failed.incrementAndGet();
      }
      health.add((System.nanoTime() - start) / 1e6);
    }

    @Override
    public void close() throws InterruptedException {
      stopping = true;
      thread.join();
    }

    String words() {
      return "posts " + spread(posts) + ", health " + spread(health) + ", failed " + failed;
    }
  }

  private static String spread(Iterable<Double> values) {
    var list = new ArrayList<Double>();
    values.forEach(list::add);
    if (list.isEmpty()) {
      return "none";
    }
    list.sort(null);
    return String.format(
        "p50 %.0f, p99 %.0f, longest %.0f ms (%d)",
        list.get(list.size() / 2),
        list.get(list.size() * 99 / 100),
        list.get(list.size() - 1),
        list.size());
  }

  private String quiet() throws InterruptedException {
    try (var watch = new Watch().begin()) {
      Thread.sleep(5_000);
      watch.close();
      return watch.words();
    }
  }

  // ------------------------------------------------------------------ parts

  /** Callers without a key, and then with one, that send a byte of their body now and then. */
  private void slow() throws IOException, InterruptedException {
    System.out.println("slow clients; alone: " + quiet());
    for (String key : List.of("", "Authorization: Bearer " + token + "\r\n")) {
      var sockets = new ArrayList<Socket>();
      try (var watch = new Watch().begin()) {
        for (int i = 0; i < SLOW_CALLERS; i++) {
          var socket = new Socket(base.getHost(), base.getPort());
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
    try (var watch = new Watch().begin()) {
      for (int i = 0; i < QUERIES; i++) {
        var random = new Random(i);
        callers.submit(
            () -> {
              while (System.nanoTime() < end) {
                long start = System.nanoTime();
                int status = status(to(heavy.get(random.nextInt(heavy.size()))).GET().build());
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
        .forEach((status, all) -> System.out.println("  answered " + status + ": " + spread(all)));
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
    try (var watch = new Watch().begin()) {
      for (int i = 0; i < 36; i++) {
        callers.submit(
            () ->
                statuses
                    .computeIfAbsent(
                        status(
                            to("/api/v1/lineage/batch")
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
          new TreeMap<>(statuses), resident(), watch.words());
    }
  }

  /** Damaged reads: every path with odd parameters, encodings and values. */
  private void fuzz() throws IOException {
    List<String> paths =
        List.of(
            "search",
            "browse",
            "asset",
            "graph",
            "thread",
            "impact",
            "causes",
            "runs",
            "run",
            "history",
            "checks",
            "statistics",
            "parts",
            "fold",
            "job",
            "job/steps",
            "intake",
            "intake/event",
            "intake/refused",
            "intake/refused/1",
            "intake/emitters",
            "intake/files",
            "rebuild",
            "keys",
            "accounts",
            "session",
            "openapi.json",
            "nothing",
            "schemas/steps.json",
            "../../health",
            "%2e%2e/health",
            "search/",
            "search//",
            ";a=b");
    List<String> names =
        List.of(
            "ref",
            "from",
            "to",
            "q",
            "kind",
            "limit",
            "cursor",
            "at",
            "asOf",
            "hops",
            "change",
            "direction",
            "detail",
            "exact",
            "after",
            "state",
            "system",
            "owner",
            "since",
            "until",
            "id",
            "name",
            "path",
            "problem",
            "verdict",
            "label",
            "job",
            "pipeline");
    List<String> values =
        List.of(
            "",
            "-1",
            "0",
            "1e99",
            "99999999999999999999",
            "%00",
            "%",
            "%zz",
            "%c3",
            "%ff%fe",
            "a%2500",
            "mart.payout_statement",
            "@x/y",
            "run:1",
            "system:",
            "*",
            "#",
            "%23",
            "a%23",
            "\u00e9",
            "%F0%9F%A7%80",
            "null",
            "true",
            "[]",
            "{}",
            "a/b/c#d.e",
            "2026-13-40",
            "0000-00-00T00:00:00Z",
            "-999999999-01-01T00:00:00Z",
            "rename",
            "columns",
            "steps",
            "9223372036854775807",
            "-9223372036854775808",
            "1.1",
            "a.b",
            "a.-1",
            "x".repeat(3_000),
            "%2e%2e%2f",
            "'",
            "\"",
            "<script>",
            "()*+",
            "((a)*)*!",
            "\\",
            "%0d%0aX-A:b");
    var random = new Random(11);
    var statuses = new TreeMap<Integer, Integer>();
    var faults = new ArrayList<String>();
    for (int i = 0; i < FUZZ; i++) {
      var target = new StringBuilder("/api/v1/").append(paths.get(random.nextInt(paths.size())));
      for (int n = random.nextInt(4), k = 0; k < n; k++) {
        target
            .append(k == 0 ? '?' : '&')
            .append(names.get(random.nextInt(names.size())))
            .append('=')
            .append(values.get(random.nextInt(values.size())));
      }
      if (random.nextInt(5) == 0) {
        target.insert(random.nextInt(target.length()), (char) (33 + random.nextInt(94)));
      }
      int status = raw(target.toString(), random.nextInt(20) == 0 ? "" : token);
      statuses.merge(status, 1, Integer::sum);
      if (status == 0 || status >= 500) {
        faults.add(status + " " + target);
      }
    }
    System.out.printf(
        "%d damaged reads: %s, of these 5xx or none: %d%n", FUZZ, statuses, faults.size());
    faults.stream().limit(20).forEach(System.out::println);
  }

  /** A request line as it is, which a client library would not send. */
  private int raw(String target, String key) throws IOException {
    try (var socket = new Socket(base.getHost(), base.getPort())) {
      socket.setSoTimeout(30_000);
      socket
          .getOutputStream()
          .write(
              ("GET "
                      + target
                      + " HTTP/1.1\r\nHost: h\r\nConnection: close\r\n"
                      + (key.isEmpty() ? "" : "Authorization: Bearer " + key + "\r\n")
                      + "\r\n")
                  .getBytes(StandardCharsets.UTF_8));
      String answer = new String(socket.getInputStream().readNBytes(12), StandardCharsets.US_ASCII);
      return answer.length() == 12 ? Integer.parseInt(answer.substring(9)) : 0;
    } catch (IOException e) {
      return 0;
    }
  }

  /** Events, reads, large packed batches and slow callers for a while, with the process's size. */
  private void memory(int minutes) throws InterruptedException, IOException {
    long end = System.nanoTime() + TimeUnit.MINUTES.toNanos(minutes);
    var sent = new AtomicLong();
    var read = new AtomicLong();
    var busy = new AtomicLong();
    var wrong = new ConcurrentHashMap<String, AtomicLong>();
    ExecutorService workers = Executors.newFixedThreadPool(SENDERS + READERS + 1);
    for (int i = 0; i < SENDERS; i++) {
      var random = new Random(100 + i);
      workers.submit(() -> send(end, random, sent, busy, wrong));
    }
    for (int i = 0; i < READERS; i++) {
      var random = new Random(200 + i);
      workers.submit(() -> read(end, random, read, busy, wrong));
    }
    workers.shutdown();
    System.out.println("minute, events, reads, refused as busy, other answers, process MiB");
    var sizes = new TreeMap<Long, Long>();
    while (System.nanoTime() < end) {
      Thread.sleep(30_000);
      long minute = (System.nanoTime() - started) / 60_000_000_000L;
      sizes.put(minute, resident());
      System.out.printf(
          "%d, %d, %d, %d, %s, %d%n",
          minute, sent.get(), read.get(), busy.get(), wrong, sizes.lastEntry().getValue());
    }
    workers.awaitTermination(2, TimeUnit.MINUTES);
    System.out.printf(
        "process: least %d, most %d, last %d MiB%n",
        sizes.values().stream().min(Long::compare).orElse(0L),
        sizes.values().stream().max(Long::compare).orElse(0L),
        sizes.isEmpty() ? 0 : sizes.lastEntry().getValue());
  }

  private boolean send(
      long end, Random random, AtomicLong sent, AtomicLong busy, Map<String, AtomicLong> wrong)
      throws InterruptedException {
    long pause = 1_000L * SENDERS / EVENTS_PER_SECOND;
    while (System.nanoTime() < end) {
      byte[] body = event(random);
      boolean packed = random.nextInt(4) == 0;
      int status = post(packed ? packed(body) : body, packed);
      note(status, 201, "post ", sent, busy, wrong);
      Thread.sleep(pause);
    }
    return true;
  }

  private boolean read(
      long end, Random random, AtomicLong read, AtomicLong busy, Map<String, AtomicLong> wrong)
      throws InterruptedException {
    while (System.nanoTime() < end) {
      int job = random.nextInt(JOBS);
      String ref = URLEncoder.encode("pg://hard/out" + job, StandardCharsets.UTF_8);
      String path =
          switch (random.nextInt(8)) {
            case 0 -> "/api/v1/search?q=out" + job;
            case 1 -> "/api/v1/graph?ref=" + ref;
            case 2 -> "/api/v1/impact?ref=" + ref + "&change=drop";
            case 3 -> "/api/v1/runs?limit=200";
            case 4 -> "/api/v1/intake";
            case 5 -> "/api/v1/causes?ref=" + ref;
            case 6 -> "/api/v1/history?ref=" + ref;
            default -> "/api/v1/asset?ref=" + ref;
          };
      int status = status(to(path).GET().build());
      note(status == 404 ? 200 : status, 200, path.replaceAll("\\?.*", " "), read, busy, wrong);
      Thread.sleep(100);
    }
    return true;
  }

  private static void note(
      int status,
      int good,
      String what,
      AtomicLong count,
      AtomicLong busy,
      Map<String, AtomicLong> wrong) {
    if (status == good) {
      count.incrementAndGet();
    } else if (status == 503) {
      busy.incrementAndGet();
    } else {
      wrong.computeIfAbsent(what + status, k -> new AtomicLong()).incrementAndGet();
    }
  }

  private static byte[] packed(byte[] body) {
    var out = new ByteArrayOutputStream();
    try (var gzip = new GZIPOutputStream(out)) {
      gzip.write(body);
    } catch (IOException e) {
      throw new java.io.UncheckedIOException("memory does not fail to be written", e);
    }
    return out.toByteArray();
  }

  /** The memory of the service's process that is in use, in MiB. */
  private long resident() throws IOException {
    String pid = Files.readString(pidFile).strip();
    for (String line : Files.readAllLines(Path.of("/proc", pid, "status"))) {
      if (line.startsWith("VmRSS:")) {
        return Long.parseLong(line.replaceAll("\\D", "")) / 1_024;
      }
    }
    return 0;
  }
}
