package longthread.bench;

import java.io.IOException;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.Map;
import java.util.Random;
import java.util.TreeMap;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicLong;

/** Events and reads of many callers for a while. */
final class MixedLoad {
  private static final int SENDERS = 4;
  private static final int READERS = 4;
  private static final int EVENTS_PER_SECOND = 80;

  private final Calls calls;
  private final HardEvents events;
  private final long started = System.nanoTime();

  MixedLoad(Calls calls, HardEvents events) {
    this.calls = calls;
    this.events = events;
  }

  /** Events, reads, large packed batches and slow callers for a while, with the process's size. */
  void run(int minutes) throws InterruptedException, IOException {
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
      sizes.put(minute, calls.resident());
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

  boolean send(
      long end, Random random, AtomicLong sent, AtomicLong busy, Map<String, AtomicLong> wrong)
      throws InterruptedException {
    long pause = 1_000L * SENDERS / EVENTS_PER_SECOND;
    while (System.nanoTime() < end) {
      byte[] body = events.next(random);
      boolean packed = random.nextInt(4) == 0;
      int status = calls.post(packed ? Calls.packed(body) : body, packed);
      note(status, 201, "post ", sent, busy, wrong);
      Thread.sleep(pause);
    }
    return true;
  }

  boolean read(
      long end, Random random, AtomicLong read, AtomicLong busy, Map<String, AtomicLong> wrong)
      throws InterruptedException {
    while (System.nanoTime() < end) {
      int job = random.nextInt(HardEvents.JOBS);
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
      int status = calls.status(calls.to(path).GET().build());
      note(status == 404 ? 200 : status, 200, path.replaceAll("\\?.*", " "), read, busy, wrong);
      Thread.sleep(100);
    }
    return true;
  }

  static void note(
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
}
