package longthread.client;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.io.UncheckedIOException;
import java.net.InetAddress;
import java.net.UnknownHostException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Properties;
import java.util.concurrent.Callable;
import longthread.emitter.Emitter;
import longthread.emitter.Run;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import tools.jackson.databind.JsonNode;

@Command(
    name = "wrap",
    description = "Run any command and report its run: start, end, exit code, last error lines.",
    mixinStandardHelpOptions = true,
    footer = {
      "",
      "The command gets its input, output, signals and exit code as if it ran alone. It never fails",
      "because of the service: what cannot be sent is kept in a spool and sent by the next wrap, or",
      "by longthread wrap --send-kept.",
      "Example, in a crontab:",
      "  longthread wrap --job @cron/export --reads core.farm --writes share/farms.csv -- /opt/export.sh"
    })
final class WrapCommand extends Output implements Callable<Integer> {
  private static final int TAIL_BYTES = 8_192;
  private static final int SIGNAL_BASE = 128;

  @Option(
      names = "--job",
      paramLabel = "NAME",
      description = "Its job: @namespace/name, or a name alone in the namespace of this machine.")
  private @Nullable String job;

  @Option(names = "--reads", paramLabel = "REF", description = "What it reads; may be repeated.")
  private List<String> reads = List.of();

  @Option(names = "--writes", paramLabel = "REF", description = "What it writes; may be repeated.")
  private List<String> writes = List.of();

  @Option(
      names = "--sql",
      paramLabel = "FILE",
      description = "The SQL that it runs; its lineage is read out of it.")
  private @Nullable Path sql;

  @Option(names = "--dialect", paramLabel = "DIALECT", description = "The dialect of the SQL.")
  private @Nullable String dialect;

  @Option(
      names = "--property",
      paramLabel = "NAME=VALUE",
      description = "A property to show with the run; may be repeated.")
  private List<String> properties = List.of();

  @Option(names = "--send-kept", description = "Send what earlier runs kept, and run nothing.")
  private boolean sendKept;

  @Parameters(
      arity = "0..*",
      paramLabel = "-- COMMAND",
      description = "The command with its arguments, behind --.")
  private List<String> command = List.of();

  @Override
  public Integer call() throws InterruptedException {
    Connection.Named service = named();
    Path spool = spool(service.address());
    if (sendKept) {
      return sendKept(service, spool);
    }
    if (command.isEmpty() || job == null) {
      throw new picocli.CommandLine.ParameterException(
          spec.commandLine(), "Give --job NAME, and the command behind --");
    }
    String text = sqlText(); // wrong usage is found before anything runs
    try (Emitter emitter = emitter(service, spool)) {
      Run run = describe(emitter, new RefMemory(spool), text);
      run.start();
      return run(run);
    }
  }

  /** The service, or none: then everything is kept for later. */
  private Connection.Named named() {
    try {
      return connection.named();
    } catch (ServiceException e) {
      note("longthread: " + e.getMessage() + "; the run is kept and sent later");
      return new Connection.Named("http://127.0.0.1:9", "");
    }
  }

  /** What is kept goes to the address it was meant for, so each has a folder of its own. */
  private static Path spool(String address) {
    Map<String, String> environment = Main.environment();
    String named = environment.getOrDefault("LONGTHREAD_SPOOL", "");
    Path root =
        named.isEmpty()
            ? Path.of(environment.getOrDefault("HOME", "."), ".longthread", "spool")
            : Path.of(named);
    return root.resolve(address.replaceAll("[^A-Za-z0-9.-]+", "_"));
  }

  private Emitter emitter(Connection.Named service, Path spool) {
    String name = jobName();
    return Emitter.to(service.address(), service.key())
        .namespace(name.substring(0, name.indexOf('\n')))
        .producer("https://longthread.example/wrap/1")
        .spool(spool)
        .timeout(Duration.ofSeconds(2))
        .onProblem(problem -> note("longthread: " + problem))
        .start();
  }

  /** Namespace and name, with a line break between. */
  private String jobName() {
    String name = String.valueOf(job);
    name = name.startsWith("@") ? name.substring(1) : name;
    int cut = name.indexOf('/');
    return cut > 0 ? name.substring(0, cut) + "\n" + name.substring(cut + 1) : host() + "\n" + name;
  }

  private static String host() {
    try {
      return InetAddress.getLocalHost().getHostName();
    } catch (UnknownHostException e) {
      return "localhost";
    }
  }

  private int sendKept(Connection.Named service, Path spool) {
    job = "spool";
    try (Emitter emitter = emitter(service, spool)) {
      var drained = emitter.sendKept();
      out()
          .printf(
              "%d events sent, %d refused, %d files still kept%n",
              drained.sent(), drained.refused(), drained.left());
      return drained.left() == 0 ? 0 : ServiceException.NOT_REACHABLE;
    }
  }

  private @Nullable String sqlText() {
    try {
      return sql == null ? null : Files.readString(sql);
    } catch (IOException e) {
      throw new picocli.CommandLine.ParameterException(
          spec.commandLine(), sql + " cannot be read: " + FileWords.why(e));
    }
  }

  private Run describe(Emitter emitter, RefMemory refs, @Nullable String text) {
    String name = jobName();
    Run run = emitter.run(name.substring(name.indexOf('\n') + 1));
    for (String ref : reads) {
      String whole = refs.whole(ref);
      if (whole != null) {
        run.reads(whole);
      }
    }
    for (String ref : writes) {
      String whole = refs.whole(ref);
      if (whole != null) {
        run.writes(whole);
      }
    }
    if (text != null) {
      run.sql(text, dialect);
    }
    for (String property : properties) {
      int equals = property.indexOf('=');
      run.property(
          equals < 0 ? property : property.substring(0, equals),
          equals < 0 ? "" : property.substring(equals + 1));
    }
    run.property("command", String.join(" ", command));
    run.property("host", host());
    return run;
  }

  /**
   * Whole references of short names. What the service said last is remembered, so that a run that
   * begins while it is away is reported with the same names.
   */
  private final class RefMemory {
    private final Path file;
    private final Properties known = new Properties();

    RefMemory(Path spool) {
      this.file = spool.resolve("names");
      if (Files.isReadable(file)) {
        try (var in = Files.newBufferedReader(file)) {
          known.load(in);
        } catch (IOException | IllegalArgumentException e) {
          known.clear(); // it is only a memory
        }
      }
    }

    @Nullable String whole(String ref) {
      if (ref.contains("://") && ref.indexOf('/', ref.indexOf("://") + 3) > 0) {
        return ref;
      }
      try {
        JsonNode asset = service().get("/api/v1/asset", Map.of("ref", ref), JsonNode.class).json();
        String whole = asset.path("ref").stringValue(ref);
        remember(ref, whole);
        return whole;
      } catch (ServiceException e) {
        String before = known.getProperty(ref);
        if (before != null) {
          return before;
        }
        if (ref.indexOf('/') > 0) {
          return ref; // new to the catalog, and given in full
        }
        note(
            "longthread: "
                + e.getMessage()
                + "; the run is reported without "
                + ref
                + ", give it as namespace/name");
        return null;
      }
    }

    private void remember(String ref, String whole) {
      if (!whole.equals(known.getProperty(ref))) {
        known.setProperty(ref, whole);
        try {
          Files.createDirectories(file.getParent());
          try (var out = Files.newBufferedWriter(file)) {
            known.store(out, "names that the catalog resolved");
          }
        } catch (IOException e) {
          // it is only a memory
        }
      }
    }
  }

  // ------------------------------------------------------------------ the command

  private int run(Run run) throws InterruptedException {
    Process process;
    try {
      process =
          new ProcessBuilder(new ArrayList<>(command))
              .redirectInput(ProcessBuilder.Redirect.INHERIT)
              .redirectOutput(ProcessBuilder.Redirect.INHERIT)
              .redirectError(ProcessBuilder.Redirect.PIPE)
              .start();
    } catch (IOException e) {
      note("longthread: " + command.get(0) + " cannot be run: " + e.getMessage());
      run.fail("the command cannot be run: " + e.getMessage(), null);
      return 127; // as a shell says it
    }
    SignalRelay.to(process);
    var tail = new Tail();
    var copy = new Thread(() -> copy(process.getErrorStream(), System.err, tail), "stderr");
    copy.setDaemon(true);
    copy.start();
    int code = process.waitFor();
    copy.join(2_000); // a child that lives on may keep it open
    if (code == 0) {
      run.complete();
    } else if (code > SIGNAL_BASE) {
      run.property("exit code", "" + code);
      run.abort("ended by signal " + (code - SIGNAL_BASE) + lastLines(tail));
    } else {
      run.property("exit code", "" + code);
      run.fail("exit code " + code + lastLines(tail), tail.text());
    }
    return code;
  }

  private static String lastLines(Tail tail) {
    List<String> lines = tail.text().lines().filter(line -> !line.isBlank()).toList();
    return lines.isEmpty() ? "" : ": " + lines.get(lines.size() - 1).strip();
  }

  private static void copy(InputStream in, OutputStream out, Tail tail) {
    byte[] piece = new byte[4_096];
    try {
      for (int n = in.read(piece); n >= 0; n = in.read(piece)) {
        out.write(piece, 0, n);
        out.flush();
        tail.add(piece, n);
      }
    } catch (IOException | UncheckedIOException e) {
      // the command ended, or nobody reads its errors any more
    }
  }

  /** The last bytes of an output. */
  private static final class Tail {
    private final ByteArrayOutputStream bytes = new ByteArrayOutputStream();

    synchronized void add(byte[] piece, int n) {
      bytes.write(piece, 0, n);
      if (bytes.size() > 4 * TAIL_BYTES) {
        byte[] all = bytes.toByteArray();
        bytes.reset();
        bytes.write(all, all.length - TAIL_BYTES, TAIL_BYTES);
      }
    }

    synchronized String text() {
      byte[] all = bytes.toByteArray();
      int from = Math.max(0, all.length - TAIL_BYTES);
      return new String(all, from, all.length - from, StandardCharsets.UTF_8);
    }
  }
}
