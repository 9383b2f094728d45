package longthread.bench;

import java.net.http.HttpRequest;
import java.util.ArrayList;
import java.util.Random;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.atomic.AtomicLong;

/** Posts and asks for the state, over and over, noting how long each takes. */
final class Watch implements AutoCloseable {
  private final Calls calls;
  private final String token;
  private final HardEvents events;
  private final ConcurrentLinkedQueue<Double> posts = new ConcurrentLinkedQueue<>();
  private final ConcurrentLinkedQueue<Double> health = new ConcurrentLinkedQueue<>();
  private final AtomicLong failed = new AtomicLong();
  private final Random random = new Random(7);
  private final Thread thread = new Thread(this::run);
  private volatile boolean stopping;

  Watch(Calls calls, String token, HardEvents events) {
    this.calls = calls;
    this.token = token;
    this.events = events;
  }

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
        calls
            .to("/api/v1/lineage", token)
            .POST(HttpRequest.BodyPublishers.ofByteArray(events.next(random)))
            .build();
    if (calls.status(post) != 201) {
      failed.incrementAndGet();
    }
    posts.add((System.nanoTime() - start) / 1e6);
    start = System.nanoTime();
    if (calls.status(calls.to("/health/liveness").GET().build()) != 200) {
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

  static String spread(Iterable<Double> values) {
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
}
