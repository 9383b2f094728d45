package longthread.service.testing;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Comparator;
import java.util.List;
import java.util.stream.Stream;

/**
 * A real PostgreSQL of its own, for the length of a test run. Not durable unless asked to be, and
 * only for that.
 */
public final class TestPostgres implements AutoCloseable {
  private final Path bin;
  private final Path data;
  private final int port;
  private final boolean root = System.getProperty("user.name").equals("root");

  private final boolean durable;

  public TestPostgres() {
    this(false);
  }

  /**
   * @param durable whether it keeps what it confirmed when it is killed, as one in use does
   */
  public TestPostgres(boolean durable) {
    this.durable = durable;
    try {
      bin = newestBin();
      // Not below the checkout: PostgreSQL's user must be able to enter every folder above.
      data = Files.createTempDirectory(Path.of("/var/tmp"), "longthread-test-");
      port = FreePort.next();
      Path password = Files.writeString(data.resolve("password"), "secret\n");
      Files.setPosixFilePermissions(password, PosixFilePermissions.fromString("rw-r--r--"));
      Files.setPosixFilePermissions(data, PosixFilePermissions.fromString("rwxr-xr-x"));
      Path cluster = Files.createDirectory(data.resolve("cluster"));
      if (root) {
        run(List.of("chown", "postgres", cluster.toString()), false);
      }
      run(
          List.of(
              bin.resolve("initdb").toString(),
              "-D",
              cluster.toString(),
              "-U",
              "longthread",
              "--auth=scram-sha-256",
              "--pwfile=" + password,
              "-E",
              "UTF8",
              "--locale=C.UTF-8"),
          true);
      start();
    } catch (IOException e) {
      throw new IllegalStateException("PostgreSQL cannot be set up for the tests", e);
    }
  }

  /** Starts it again, after it was stopped or killed. */
  public void start() {
    Path cluster = data.resolve("cluster");
    control(
        "-w",
        "-s",
        "-t",
        "60",
        "-l",
        cluster.resolve("log").toString(),
        "-o",
        "-p "
            + port
            + " -c listen_addresses=127.0.0.1 -c unix_socket_directories=''"
            + " -c shared_preload_libraries=pg_stat_statements"
            + (durable ? "" : " -c fsync=off -c synchronous_commit=off -c full_page_writes=off"),
        "start");
  }

  /** Stops it at once, without a checkpoint: what it comes back with is read from its log. */
  public void kill() {
    control("-m", "immediate", "-s", "-w", "stop");
  }

  private void control(String... words) {
    var command =
        new ArrayList<>(
            List.of(bin.resolve("pg_ctl").toString(), "-D", data.resolve("cluster").toString()));
    command.addAll(Arrays.asList(words));
    try {
      run(command, true);
    } catch (IOException e) {
      throw new IllegalStateException("PostgreSQL does not obey", e);
    }
  }

  private static Path newestBin() throws IOException {
    try (Stream<Path> versions = Files.list(Path.of("/usr/lib/postgresql"))) {
      return versions
          .map(version -> version.resolve("bin"))
          .filter(dir -> Files.isExecutable(dir.resolve("initdb")))
          .max(Comparator.naturalOrder())
          .orElseThrow(() -> new IllegalStateException("install the package postgresql"));
    }
  }

  private void run(List<String> command, boolean asPostgres) throws IOException {
    var whole = new ArrayList<String>();
    if (asPostgres && root) {
      whole.addAll(Arrays.asList("runuser", "-u", "postgres", "--"));
    }
    whole.addAll(command);
    Path output = data.resolve("output");
    Process process =
        new ProcessBuilder(whole)
            .directory(data.toFile())
            .redirectErrorStream(true)
            .redirectOutput(output.toFile())
            .start();
    try {
      if (process.waitFor() != 0) {
        throw new IllegalStateException(whole + " failed: " + Files.readString(output));
      }
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
    }
  }

  public String url(String database) {
    return "jdbc:postgresql://127.0.0.1:" + port + "/" + database;
  }

  public String password() {
    return "secret";
  }

  public void createDatabase(String name) {
    try (Connection connection =
            DriverManager.getConnection(url("postgres"), "longthread", password());
        var statement = connection.createStatement()) {
      statement.execute("create database " + name);
    } catch (SQLException e) {
      throw new IllegalStateException(e);
    }
  }

  @Override
  public void close() {
    try {
      run(
          List.of(
              bin.resolve("pg_ctl").toString(),
              "-D",
              data.resolve("cluster").toString(),
              "-m",
              "immediate",
              "-s",
              "stop"),
          true);
      try (Stream<Path> files = Files.walk(data)) {
        files.sorted(Comparator.reverseOrder()).forEach(file -> file.toFile().delete());
      }
    } catch (IOException e) {
      throw new IllegalStateException("the tests' PostgreSQL did not stop", e);
    }
  }
}
