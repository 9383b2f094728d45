package longthread.emitter;

import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Method;
import java.lang.reflect.Proxy;
import java.nio.file.Path;
import java.time.Clock;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicLong;
import java.util.function.Consumer;
import org.jspecify.annotations.Nullable;

/**
 * Reports runs of a program. Safe for use by many threads; one for a whole program is enough.
 *
 * <pre>{@code
 * try (Emitter emitter = Emitter.to("http://127.0.0.1:20100", key).namespace("nightshift").start()) {
 *   try (Run run = emitter.run("load_pickups")
 *       .reads("postgres://collect:5432/collect.public.pickup")
 *       .writes("postgres://barn:5432/barn.raw.pickup")
 *       .start()) {
 *     long rows = load();
 *     run.rows("postgres://barn:5432/barn.raw.pickup", rows).complete();
 *   } // without complete() the run has failed
 * }
 * }</pre>
 */
public final class Emitter implements AutoCloseable {
  private static final int MAX_QUEUED = 10_000;
  private static final int MAX_BATCH = 200;
  private static final int MAX_EVENT = 8 << 20;

  private final String namespace;
  private final String producer;
  private final Clock clock;
  private final Sender sender;
  private final Spool spool;
  private final Consumer<String> problems;
  private final BlockingQueue<String> queue = new ArrayBlockingQueue<>(MAX_QUEUED);
  private final AtomicLong accepted = new AtomicLong();
  private final AtomicLong settled = new AtomicLong(); // sent, kept or lost
  private final AtomicLong kept = new AtomicLong();
  private final AtomicLong dropped = new AtomicLong();
  private final Thread thread;
  private volatile boolean closing;

  private Emitter(Builder settings) {
    this.namespace = settings.namespace;
    this.producer = settings.producer;
    this.clock = settings.clock;
    this.sender = new Sender(settings.service, settings.key, settings.timeout);
    this.spool = new Spool(settings.spool);
    this.problems = settings.problems;
    this.thread = new Thread(this::sendLoop, "longthread-emitter");
    thread.setDaemon(true);
    thread.start();
  }

  /** Starts the settings of an emitter that sends to a service with a key of the role emitter. */
  public static Builder to(String service, String key) {
    return new Builder(service, key);
  }

  /** The settings of an emitter. */
  public static final class Builder {
    private final String service;
    private final String key;
    private String namespace = "java";
    private String producer = "https://longthread.example/emitter/java/1";
    private Path spool = Path.of(System.getProperty("user.home", "."), ".longthread", "spool");
    private Duration timeout = Duration.ofSeconds(2);
    private Clock clock = Clock.systemUTC();
    private Consumer<String> problems = problem -> {};

    private Builder(String service, String key) {
      this.service = service;
      this.key = key;
    }

    /** The namespace of the jobs that are reported. */
    public Builder namespace(String name) {
      this.namespace = name;
      return this;
    }

    /** The address by which the program names itself in its events. */
    public Builder producer(String uri) {
      this.producer = uri;
      return this;
    }

    /** The folder that keeps what cannot be sent. */
    public Builder spool(Path folder) {
      this.spool = folder;
      return this;
    }

    /** How long to try to reach the service before events go to the spool. */
    public Builder timeout(Duration longest) {
      this.timeout = longest;
      return this;
    }

    /** Who is told, in a sentence, what could not be sent. */
    public Builder onProblem(Consumer<String> listener) {
      this.problems = listener;
      return this;
    }

    Builder clock(Clock other) {
      this.clock = other;
      return this;
    }

    /** Starts the emitter. */
    public Emitter start() {
      return new Emitter(this);
    }
  }

  /** Begins to describe a run of a job. */
  public Run run(String job) {
    return new Run(this, namespace, job);
  }

  Clock clock() {
    return clock;
  }

  String producer() {
    return producer;
  }

  /**
   * Sends an event of the standard that the caller has written.
   *
   * @param event JSON, in one line
   */
  public void send(String event) {
    emit(event.replaceAll("[\\r\\n]+", " "));
  }

  /** Takes an event over; never waits for the service. */
  void emit(String event) {
    if (event.length() > MAX_EVENT) {
      problem("an event has more than " + MAX_EVENT + " characters and was dropped");
      dropped.incrementAndGet();
    } else {
      accepted.incrementAndGet();
      if (closing || !queue.offer(event)) {
        keep(List.of(event));
        settled.incrementAndGet();
      }
    }
  }

  private void keep(List<String> events) {
    if (spool.keep(events)) {
      kept.addAndGet(events.size());
    } else {
      dropped.addAndGet(events.size());
      problem("the spool is full or cannot be written: " + events.size() + " events are lost");
    }
  }

  private void problem(String sentence) {
    try {
      problems.accept(sentence);
    } catch (RuntimeException e) {
      // Whoever listens must not harm the pipeline either.
    }
  }

  private void sendLoop() {
    var batch = new ArrayList<String>();
    while (!closing || !queue.isEmpty()) {
      try {
        String first = queue.poll(100, TimeUnit.MILLISECONDS);
        if (first != null) {
          batch.add(first);
          queue.drainTo(batch, MAX_BATCH - 1);
          send(batch);
        }
      } catch (InterruptedException e) {
        closing = true;
      } catch (RuntimeException e) {
        problem("events could not be sent: " + e);
        keep(batch);
      } finally {
        settled.addAndGet(batch.size());
        batch.clear();
      }
    }
  }

  private void send(List<String> batch) {
    if (spool.size() > 0 && spool.drain(sender).left() > 0) {
      keep(batch); // behind what waits already, so that the order stays
      return;
    }
    Sender.Outcome outcome = sender.send(batch);
    if (outcome.delivered()) {
      outcome.refused().forEach(one -> problem("an event was refused: " + one.reason()));
      spool.refuse(outcome.refused());
    } else {
      problem(outcome.problem() + "; events are kept in the spool");
      keep(batch);
    }
  }

  /** Waits until all events so far were sent or kept; returns whether that came in time. */
  public boolean flush(Duration longest) {
    long until = System.nanoTime() + longest.toNanos();
    long all = accepted.get();
    while (settled.get() < all && System.nanoTime() < until && thread.isAlive()) {
      try {
        Thread.sleep(5);
      } catch (InterruptedException e) {
        Thread.currentThread().interrupt();
        return false;
      }
    }
    return settled.get() >= all;
  }

  /** Tries to send what the spool keeps; nothing else is waited for. */
  public Spool.Drained sendKept() {
    return spool.drain(sender);
  }

  /** How many events were kept in the spool by this emitter. */
  public long kept() {
    return kept.get();
  }

  /** How many events were lost, since neither service nor spool could take them. */
  public long dropped() {
    return dropped.get();
  }

  /**
   * Returns a thing that does what {@code pipeline} does and reports each call of a method that the
   * interface marks with {@link Makes} as a run.
   *
   * @param type an interface
   */
  public <T> T watch(Class<T> type, T pipeline) {
    return type.cast(
        Proxy.newProxyInstance(
            type.getClassLoader(),
            new Class<?>[] {type},
            (proxy, method, arguments) -> call(pipeline, method, arguments)));
  }

  private @Nullable Object call(Object pipeline, Method method, Object @Nullable [] arguments)
      throws Throwable {
    Makes makes = method.getAnnotation(Makes.class);
    if (makes == null) {
      return invoke(pipeline, method, arguments);
    }
    Run run = run(makes.job().isEmpty() ? method.getName() : makes.job());
    for (String asset : makes.reads()) {
      run.reads(asset);
    }
    for (String asset : makes.value()) {
      run.writes(asset);
    }
    for (String property : makes.properties()) {
      int equals = property.indexOf('=');
      run.property(
          equals < 0 ? property : property.substring(0, equals),
          equals < 0 ? "" : property.substring(equals + 1));
    }
    run.start();
    try {
      Object result = invoke(pipeline, method, arguments);
      if (makes.returnsRows() && result instanceof Number rows && makes.value().length > 0) {
        run.rows(makes.value()[0], rows.longValue());
      }
      run.complete();
      return result;
    } catch (Throwable e) {
      run.fail(e);
      throw e;
    }
  }

  private static @Nullable Object invoke(
      Object pipeline, Method method, Object @Nullable [] arguments) throws Throwable {
    method.trySetAccessible(); // the interface need not be public
    try {
      return method.invoke(pipeline, arguments);
    } catch (InvocationTargetException e) {
      throw e.getCause();
    }
  }

  /** Sends or keeps what is left, within a bounded time. */
  @Override
  public void close() {
    flush(Duration.ofSeconds(10));
    closing = true;
    try {
      thread.join(1_000);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
    var left = new ArrayList<String>();
    queue.drainTo(left);
    if (!left.isEmpty()) {
      keep(left);
    }
  }
}
