package longthread.service.testing;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.concurrent.TimeUnit;

/** The service as a process of its own, which can be killed without a word. */
public final class ChildService implements AutoCloseable {
  private static final Duration START = Duration.ofSeconds(120);

  private final Process process;
  private final int port;
  private final Path log;

  /** Starts one on a database; returns when it takes requests. */
  public ChildService(TestPostgres postgres, String database, String... settings) {
    try {
      port = FreePort.next();
      log = Files.createTempFile("longthread-child-", ".log");
      var command =
          new java.util.ArrayList<>(
              List.of(
                  Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                  "-XX:TieredStopAtLevel=1",
                  "-XX:+UseSerialGC",
                  "-Xmx512m",
                  "-cp",
                  System.getProperty(
                      "surefire.test.class.path", System.getProperty("java.class.path")),
                  "longthread.service.Service",
                  "--server.port=" + port,
                  "--spring.datasource.url=" + postgres.url(database),
                  "--spring.datasource.username=longthread",
                  "--spring.datasource.password=" + postgres.password(),
                  "--LONGTHREAD_ADMIN_TOKEN=" + RunningService.TOKEN,
                  "--LONGTHREAD_ADMIN_PASSWORD=" + RunningService.PASSWORD));
      command.addAll(List.of(settings));
      process =
          new ProcessBuilder(command)
              .redirectErrorStream(true)
              .redirectOutput(log.toFile())
              .start();
      awaitReady();
    } catch (IOException e) {
      throw new IllegalStateException("the service cannot be started as a process", e);
    }
  }

  private void awaitReady() throws IOException {
    long deadline = System.nanoTime() + START.toNanos();
    while (System.nanoTime() < deadline && process.isAlive()) {
      try {
        if (new Api(base(), "").get("/health/readiness").status() == 200) {
          return;
        }
      } catch (IllegalStateException e) {
        // not listening yet
      }
      pause(100);
    }
    throw new IllegalStateException("the service did not start: " + Files.readString(log));
  }

  private static void pause(long millis) {
    try {
      Thread.sleep(millis);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
  }

  public String base() {
    return "http://127.0.0.1:" + port;
  }

  public Api api() {
    return new Api(base(), RunningService.TOKEN);
  }

  /** Kills it without a word, as a machine that loses its power would. */
  public void kill() {
    process.destroyForcibly();
    try {
      process.waitFor(20, TimeUnit.SECONDS);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
  }

  @Override
  public void close() {
    kill();
    log.toFile().delete();
  }
}
