package longthread.bench;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.net.URI;
import java.net.URLEncoder;
import java.net.http.HttpRequest;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.function.IntFunction;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/**
 * Sends a whole estate to a fresh service, then asks its queries under eight readers, with and
 * without events coming in, and prints one table.
 *
 * <p>Arguments: address, token file, file of the service's process number, home (of the private
 * database), size (S, M, L or a number of columns), and what to do: {@code send}, {@code ask} or
 * {@code all}; {@code ask=PART} asks only what has this in its name.
 */
public final class EstateRun {
  private static final int SENDERS = 4;
  private static final int BATCH = 100;
  private static final int READERS = 8;
  private static final int PAUSE_MILLIS = 25; // of a reader between two questions
  private static final int SECONDS = Integer.getInteger("seconds", 6); // for each question
  private static final int EVENTS_PER_SECOND = 200;
  private static final int FEW_JOBS = 2_000;
  private static final Pattern WAITING = Pattern.compile("\"waiting\":(\\d+)");
  static final long SEED = 7;

  private final Calls calls;
  private final Path home;
  private final WholeEstate estate;
  private final EstateEvents events;

  private EstateRun(Calls calls, Path home, int columns) {
    this.calls = calls;
    this.home = home;
    estate = new WholeEstate(columns, SEED);
    events = new EstateEvents(estate, SEED);
  }

  public static void main(String[] args) throws Exception {
    String token = Files.readString(Path.of(args[1])).strip();
    var calls = new Calls(URI.create(args[0]), token, Path.of(args[2]));
    Integer known = Estate.sizes().get(args[4]);
    int columns = known == null ? Integer.parseInt(args[4]) : known;
    var run = new EstateRun(calls, Path.of(args[3]), columns);
    String what = args.length > 5 ? args[5] : "all";
    if (what.equals("labels")) {
      int hub = run.estate.hub();
      String table = run.events.reference(run.estate.tableOf(hub));
      new LabelRun(calls, table + "#" + run.events.column(hub)).run();
      return;
    }
    if (what.equals("history")) {
      new HistoryRun(calls).run();
      return;
    }
    if (what.equals("grants")) {
      new GrantRun(calls).run();
      return;
    }
    if (!what.startsWith("ask")) {
      run.send(what.equals("rest"));
    }
    if (!what.equals("send")) {
      run.ask(what.startsWith("ask=") ? what.substring(4) : "");
    }
  }

  // ------------------------------------------------------------------ sending

  private void send(boolean rest) throws Exception {
    System.out.printf(
        "estate: %d columns, %d tables, models and charts, %d jobs, %d workspaces%n",
        estate.columns(),
        estate.tables(),
        events.endOfJobs() - events.firstJob(),
        events.workspaces());
    double fresh = rest ? Double.NaN : firstNight();
    workspaces();
    stream(
        "second night, every job known",
        events.firstJob(),
        events.endOfJobs(),
        t -> events.run(t, 1));
    int few = Math.min(FEW_JOBS, events.endOfJobs() - events.firstJob());
    double repeated =
        stream(
            "few jobs, five nights",
            0,
            few * 5,
            i -> events.run(events.firstJob() + i % few, 2 + i / few));
    System.out.printf("new against repeated: %.2f%n", fresh / repeated);
    sizes();
  }

  private double firstNight() throws Exception {
    stream("sources", 0, events.firstJob(), events::source);
    return stream(
        "first night, every job new", events.firstJob(), events.endOfJobs(), t -> events.run(t, 0));
  }

  /** Sends events in batches; prints and returns how many a second were applied. */
  private double stream(String name, int from, int to, IntFunction<byte[]> event) throws Exception {
    long began = System.nanoTime();
    var next = new AtomicInteger(from);
    var bytes = new java.util.concurrent.atomic.AtomicLong();
    var workers = Executors.newFixedThreadPool(SENDERS);
    var done = new ArrayList<Future<Boolean>>();
    for (int i = 0; i < SENDERS; i++) {
      done.add(workers.submit(() -> sendBatches(next, to, event, bytes)));
    }
    for (Future<Boolean> sender : done) {
      sender.get();
    }
    workers.shutdown();
    double accepted = (System.nanoTime() - began) / 1e9;
    long waited = 0;
    while (waiting() > 0) {
      Thread.sleep(200);
      if (System.nanoTime() - began > waited * 60_000_000_000L) {
        waited++;
        System.out.printf(
            "  %s: %d wait after %.0f s%n", name, waiting(), (System.nanoTime() - began) / 1e9);
      }
    }
    double applied = (System.nanoTime() - began) / 1e9;
    int count = to - from;
    System.out.printf(
        "%s: %d events of %.1f KB, accepted %.0f/s, applied %.0f/s (%.1f s); process %d MiB%n",
        name,
        count,
        bytes.get() / 1e3 / count,
        count / accepted,
        count / applied,
        applied,
        calls.resident());
    return count / applied;
  }

  private boolean sendBatches(
      AtomicInteger next,
      int to,
      IntFunction<byte[]> event,
      java.util.concurrent.atomic.AtomicLong bytes)
      throws IOException, InterruptedException {
    while (true) {
      int start = next.getAndAdd(BATCH);
      if (start >= to) {
        return true;
      }
      var body = new ByteArrayOutputStream();
      for (int i = start; i < Math.min(to, start + BATCH); i++) {
        body.write(event.apply(i));
        body.write('\n');
      }
      bytes.addAndGet(body.size());
      int status = 503;
      while (status == 503) {
        HttpRequest post =
            calls
                .to("/api/v1/lineage/batch")
                .header("Content-Type", "application/x-ndjson")
                .POST(HttpRequest.BodyPublishers.ofByteArray(body.toByteArray()))
                .build();
        status = calls.status(post);
        if (status == 503) {
          Thread.sleep(200);
        }
      }
      if (status >= 300) {
        throw new IOException("a batch was answered with " + status);
      }
    }
  }

  private long waiting() throws IOException, InterruptedException {
    Matcher found = WAITING.matcher(calls.text("/api/v1/intake?limit=1"));
    return found.find() ? Long.parseLong(found.group(1)) : 1;
  }

  private void workspaces() throws Exception {
    List<List<Integer>> charts = events.chartsOfWorkspaces();
    long began = System.nanoTime();
    long items = 0;
    for (int i = 0; i < charts.size(); i++) {
      byte[] body = events.workspace(i, charts.get(i));
      items += charts.get(i).size() + 12;
      int status =
          calls.status(
              calls
                  .to("/api/v1/workspaces")
                  .header("Content-Type", "application/json")
                  .PUT(HttpRequest.BodyPublishers.ofByteArray(body))
                  .build());
      if (status >= 300) {
        throw new IOException(
            "workspace "
                + i
                + " was answered with "
                + status
                + ": "
                + new String(body, StandardCharsets.UTF_8).substring(0, 300));
      }
    }
    while (waiting() > 0) {
      Thread.sleep(200);
    }
    double seconds = (System.nanoTime() - began) / 1e9;
    System.out.printf(
        "%d workspaces, %d models and charts: %.1f s%n", charts.size(), items, seconds);
  }

  private void sizes() throws Exception {
    String pid = Files.readString(home.resolve("service.pid")).strip();
    run("jcmd", pid, "GC.run");
    String heap = run("jcmd", pid, "GC.heap_info");
    long used = 0;
    Matcher generation = Pattern.compile("total \\d+K, used (\\d+)K").matcher(heap);
    while (generation.find()) {
      used += Long.parseLong(generation.group(1));
    }
    System.out.printf(
        "heap after collection %d MiB, process %d MiB%n", used / 1024, calls.resident());
    try (Connection database = database();
        ResultSet size =
            database
                .createStatement()
                .executeQuery("select pg_database_size(current_database()) / 1048576")) {
      size.next();
      System.out.printf("database %d MiB%n", size.getLong(1));
    }
  }

  private Connection database() throws IOException, SQLException {
    String port = Files.readString(home.resolve("pg.port")).strip();
    return DriverManager.getConnection(
        "jdbc:postgresql://127.0.0.1:" + port + "/longthread",
        "longthread",
        Files.readString(home.resolve("pg.password")).strip());
  }

  private static String run(String... command) throws IOException, InterruptedException {
    Process process = new ProcessBuilder(command).redirectErrorStream(true).start();
    String said = new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
    process.waitFor();
    return said;
  }

  // ------------------------------------------------------------------ asking

  private static String encoded(String text) {
    return URLEncoder.encode(text, StandardCharsets.UTF_8);
  }

  private int typicalColumn(Random random) {
    int from = estate.layerStart(1);
    int table = from + random.nextInt(estate.layerStart(5) - from);
    return estate.first[table] + random.nextInt(estate.width(table));
  }

  private String table(Random random) {
    return encoded(events.reference(estate.tableOf(typicalColumn(random))));
  }

  private String column(int column) {
    return encoded(events.reference(estate.tableOf(column)) + "#" + events.column(column));
  }

  private String job(Random random) {
    int table = events.firstJob() + random.nextInt(events.endOfJobs() - events.firstJob());
    return encoded("@nightly/flow_" + estate.layer[table] + "_" + table / 20 + ".make_" + table);
  }

  /** A question, anew for each call. */
  private interface Question {
    String path(Random random);
  }

  private Map<String, Question> questions() {
    var all = new LinkedHashMap<String, Question>();
    String hubTable = encoded(events.reference(WholeEstate.CALENDAR));
    int workspaces = events.workspaces();
    Question dashboard = r -> encoded(events.dashboard(r.nextInt(workspaces)));
    all.put(
        "impact of a typical column, values",
        r -> "impact?change=values&ref=" + column(typicalColumn(r)));
    all.put(
        "impact of a typical column, drop",
        r -> "impact?change=drop&ref=" + column(typicalColumn(r)));
    all.put(
        "impact of the hub, first page", r -> "impact?change=values&ref=" + column(estate.hub()));
    all.put("asset page", r -> "asset?ref=" + table(r));
    all.put("asset page of the hub", r -> "asset?ref=" + hubTable);
    all.put("graph of two hops, columns", r -> "graph?detail=columns&hops=2&ref=" + table(r));
    all.put("graph of two hops, assets", r -> "graph?hops=2&ref=" + table(r));
    all.put("graph of the hub, columns", r -> "graph?detail=columns&hops=1&ref=" + hubTable);
    all.put("browse: top", r -> "browse");
    all.put("browse: a schema", r -> "browse?limit=100&path=" + encoded(browsePath(r)));
    all.put("search: word", r -> "search?limit=20&q=" + word(r));
    all.put("search: part of a word", r -> "search?limit=20&q=" + word(r).substring(1, 4));
    all.put("search: two words", r -> "search?limit=20&q=" + word(r) + "+" + word(r));
    all.put("search: typo", r -> "search?limit=20&q=" + typo(word(r), r));
    all.put("search: all, filtered", r -> "search?limit=20&kind=chart&q=");
    all.put("causes of a dashboard", r -> "causes?ref=" + dashboard.path(r));
    all.put("thread", r -> "thread?from=" + column(estate.hub()) + "&to=" + table(r));
    all.put("reader's view", r -> "reader?ref=" + dashboard.path(r));
    all.put("history", r -> "history?limit=50&ref=" + table(r));
    all.put("runs, newest", r -> "runs?limit=50");
    all.put("runs of a job", r -> "runs?limit=50&job=" + job(r));
    all.put("job", r -> "job?ref=" + job(r));
    all.put("job's steps", r -> "job/steps?ref=" + job(r));
    all.put("checks", r -> "checks?limit=50&ref=" + table(r));
    all.put("statistics", r -> "statistics?limit=50&ref=" + table(r));
    all.put(
        "workspace",
        r ->
            "workspace?ref="
                + encoded(
                    EstateEvents.TOOL
                        + "://"
                        + EstateEvents.INSTANCE
                        + "/w"
                        + r.nextInt(workspaces)));
    all.put("workspaces", r -> "workspaces?limit=50");
    all.put("today", r -> "today");
    all.put("blind spots", r -> "blind-spots?limit=50");
    all.put("coverage", r -> "coverage?limit=50");
    all.put("intake", r -> "intake?limit=50");
    all.put("emitters", r -> "intake/emitters");
    all.put("edits", r -> "edits?limit=50");
    all.put("suggestions: merges", r -> "suggestions/merges?limit=50");
    all.put("suggestions: terms", r -> "suggestions/terms?limit=50");
    all.put("copies", r -> "copies?limit=50");
    all.put("over-merged", r -> "over-merged?limit=50");
    all.put("recorded", r -> "recorded?limit=50");
    all.put("terms", r -> "terms?limit=50");
    all.put("notices", r -> "notices?limit=50");
    return all;
  }

  private String browsePath(Random random) {
    String name = events.name(estate.tableOf(typicalColumn(random)));
    String[] parts = name.split("\\.");
    return "postgres://warehouse.estate.example:5432/"
        + parts[0]
        + "/"
        + (parts.length > 1 ? parts[1] : "");
  }

  private static final String[] WORDS = {
    "payment", "invoice", "weather", "pallet", "ledger", "protein", "volume", "monthly", "history",
    "street"
  };

  private static String word(Random random) {
    return WORDS[random.nextInt(WORDS.length)];
  }

  private static String typo(String word, Random random) {
    int at = 1 + random.nextInt(word.length() - 2);
    return word.substring(0, at) + word.charAt(at + 1) + word.charAt(at) + word.substring(at + 2);
  }

  private void ask(String part) throws Exception {
    bare();
    System.out.printf(
        "%-38s | %8s %8s %8s %6s | %8s %8s %8s %6s | %s%n",
        "with " + READERS + " readers, ms",
        "p50",
        "p99",
        "/health",
        "x",
        "p50",
        "p99",
        "/health",
        "x",
        "");
    System.out.printf(
        "%-38s | %33s | %33s |%n", "", "quiet", EVENTS_PER_SECOND + " events/s come in");
    var random = new Random(3);
    for (Map.Entry<String, Question> question : questions().entrySet()) {
      if (!question.getKey().contains(part)) {
        continue;
      }
      String path = "/api/v1/" + question.getValue().path(random);
      long began = System.nanoTime();
      String answer = calls.text(path);
      double first = (System.nanoTime() - began) / 1e6;
      Asked quiet = read(question.getValue());
      var stop = new java.util.concurrent.atomic.AtomicBoolean();
      var sender = Executors.newFixedThreadPool(SENDERS);
      for (int i = 0; i < SENDERS; i++) {
        int seed = i;
        sender.submit(() -> trickle(stop, new Random(System.nanoTime() + seed)));
      }
      Asked busy = read(question.getValue());
      stop.set(true);
      sender.shutdown();
      sender.awaitTermination(1, TimeUnit.MINUTES);
      System.out.printf(
          "%-38s | %s | %s | first %.0f ms, %.1f KB%s%n",
          question.getKey(),
          quiet,
          busy,
          first,
          answer.length() / 1e3,
          quiet.failures + busy.failures > 0
              ? ", FAILED "
                  + (quiet.failures + busy.failures)
                  + " e.g. "
                  + answer.substring(0, Math.min(200, answer.length()))
              : "");
    }
  }

  private void bare() {
    BareSearch bare = estate.bare();
    var random = new Random(5);
    for (int round = 0; round < 2; round++) {
      double[] typical = new double[500];
      for (int i = 0; i < typical.length; i++) {
        int column = typicalColumn(random);
        long began = System.nanoTime();
        bare.reach(column);
        typical[i] = (System.nanoTime() - began) / 1e6;
      }
      double[] hub = new double[20];
      for (int i = 0; i < hub.length; i++) {
        long began = System.nanoTime();
        bare.reach(estate.hub());
        hub[i] = (System.nanoTime() - began) / 1e6;
      }
      if (round > 0) {
        System.out.printf(
            "bare search: typical p50 %.3f p99 %.3f ms, hub p50 %.2f ms%n",
            at(typical, 0.5), at(typical, 0.99), at(hub, 0.5));
      }
    }
  }

  private boolean trickle(java.util.concurrent.atomic.AtomicBoolean stop, Random random)
      throws InterruptedException {
    while (!stop.get()) {
      int table = events.firstJob() + random.nextInt(events.endOfJobs() - events.firstJob());
      calls.post(events.run(table, EstateEvents.LAST_NIGHT, 1 + random.nextInt(90_000)), false);
      Thread.sleep(1_000L * SENDERS / EVENTS_PER_SECOND);
    }
    return true;
  }

  private static final class Asked {
    double[] times = {};
    double[] health = {};
    int failures;

    @Override
    public String toString() {
      double own = at(times, 0.5);
      double control = at(health, 0.5);
      return String.format("%8.1f %8.1f %8.1f %6.0f", own, at(times, 0.99), control, own / control);
    }
  }

  private Asked read(Question question) throws InterruptedException, ExecutionException {
    var workers = Executors.newFixedThreadPool(READERS);
    var done = new ArrayList<Future<List<double[]>>>();
    var failed = new AtomicInteger();
    long end = System.nanoTime() + TimeUnit.SECONDS.toNanos(SECONDS);
    for (int i = 0; i < READERS; i++) {
      var random = new Random(11 + i);
      done.add(workers.submit(() -> one(question, random, end, failed)));
    }
    var asked = new Asked();
    for (Future<List<double[]>> reader : done) {
      for (double[] pair : reader.get()) {
        asked.times = with(asked.times, pair[0]);
        asked.health = with(asked.health, pair[1]);
      }
    }
    workers.shutdown();
    asked.failures = failed.get();
    return asked;
  }

  private static double[] with(double[] all, double one) {
    double[] more = Arrays.copyOf(all, all.length + 1);
    more[all.length] = one;
    return more;
  }

  private List<double[]> one(Question question, Random random, long end, AtomicInteger failed)
      throws InterruptedException {
    var times = new ArrayList<double[]>();
    while (System.nanoTime() < end) {
      long began = System.nanoTime();
      int status = calls.status(calls.to("/api/v1/" + question.path(random)).GET().build());
      double own = (System.nanoTime() - began) / 1e6;
      if (status != 200) {
        failed.incrementAndGet();
      }
      began = System.nanoTime();
      calls.status(calls.to("/health").GET().build());
      times.add(new double[] {own, (System.nanoTime() - began) / 1e6});
      Thread.sleep(random.nextInt(2 * PAUSE_MILLIS));
    }
    return times;
  }

  private static double at(double[] values, double share) {
    if (values.length == 0) {
      return 0;
    }
    double[] sorted = values.clone();
    Arrays.sort(sorted);
    return sorted[(int) Math.min(sorted.length - 1, Math.floor(sorted.length * share))];
  }
}
