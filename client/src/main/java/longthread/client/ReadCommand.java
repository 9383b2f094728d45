package longthread.client;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.concurrent.Callable;
import longthread.client.answers.BatchAnswer;
import longthread.reader.PostgresReader;
import longthread.reader.PostgresSettings;
import longthread.reader.ReadingState;
import longthread.reader.UnreadableSourceException;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import tools.jackson.databind.JsonNode;

@Command(
    name = "read",
    description = "Read what a source system knows of its own data.",
    mixinStandardHelpOptions = true,
    subcommands = {ReadCommand.Postgres.class, ReadCommand.Schedules.class},
    footer = {
      "",
      "Examples:",
      "  longthread read postgres --url postgres://reader@db.example:5432/shop --schema sales",
      "  longthread read schedules --run shop"
    })
final class ReadCommand extends Output implements Callable<Integer> {
  @Override
  public Integer call() {
    spec.commandLine().usage(out());
    return 2;
  }

  @Command(
      name = "postgres",
      description =
          "Read a PostgreSQL database: tables, views with lineage, keys, comments, labels, usage.",
      mixinStandardHelpOptions = true,
      footer = {
        "",
        "It is read in one transaction that changes nothing. The password comes from",
        "LONGTHREAD_READ_PASSWORD or --password-file, never from the address. Only what changed since",
        "the last reading is sent; --all sends everything again.",
        "Examples:",
        "  longthread read postgres --url postgres://reader@db.example:5432/shop --schema sales",
        "  longthread read postgres --url … --schedule shop --every 60 --password-file shop"
      })
  static final class Postgres extends Printer implements Callable<Integer> {
    private static final int BATCH_BYTES = 4 << 20;

    @Option(
        names = "--url",
        required = true,
        paramLabel = "URL",
        description = "postgres://user@host:port/database")
    private String url = "";

    // The service has another option here than elsewhere, since --url is the database.
    @Option(
        names = "--service",
        paramLabel = "URL",
        description = "Address of the service; else LONGTHREAD_URL, else that of this checkout.")
    private @Nullable String serviceUrl;

    @Option(
        names = "--token",
        paramLabel = "KEY",
        description = "The bearer key; else LONGTHREAD_TOKEN, else the one kept by login.")
    private @Nullable String token;

    @Option(
        names = "--schema",
        paramLabel = "SCHEMA",
        description = "Only this schema; may be repeated.")
    private List<String> schemas = List.of();

    @Option(
        names = "--namespace",
        paramLabel = "NAMESPACE",
        description = "Report its tables under this namespace; postgres://host:port unless given.")
    private @Nullable String namespace;

    @Option(
        names = "--password-file",
        paramLabel = "FILE",
        description =
            "A file that holds the password; with --schedule its name in the service's"
                + " folder of secrets.")
    private @Nullable String passwordFile;

    @Option(
        names = "--password-variable",
        paramLabel = "NAME",
        description = "With --schedule: the service's environment variable, LONGTHREAD_READ_….")
    private @Nullable String passwordVariable;

    @Option(
        names = "--query-log",
        paramLabel = "FILE",
        description = "A CSV log of the server: who reads what, and what its statements write.")
    private @Nullable String queryLog;

    @Option(names = "--all", description = "Send everything, not only what changed.")
    private boolean all;

    @Option(names = "--dry-run", description = "Print the events; send nothing.")
    private boolean dryRun;

    @Option(
        names = "--schedule",
        paramLabel = "NAME",
        description = "Let the service read it under this name, at an interval.")
    private @Nullable String schedule;

    @Option(
        names = "--every",
        paramLabel = "MINUTES",
        defaultValue = "60",
        description = "The interval (${DEFAULT-VALUE}).")
    private int every;

    private ServiceClient service() {
      Connection.Named named = Connection.named(serviceUrl, token);
      return new ServiceClient(named.address(), named.key());
    }

    private final ByteArrayOutputStream batch = new ByteArrayOutputStream();
    private int sent;
    private int refused;

    @Override
    public Integer call() throws IOException {
      if (schedule != null) {
        return schedule();
      }
      PostgresSettings settings;
      try {
        settings = PostgresSettings.of(url, null, password(), schemas);
      } catch (IllegalArgumentException e) {
        throw new picocli.CommandLine.ParameterException(
            spec.commandLine(), String.valueOf(e.getMessage()));
      }
      settings = namespace == null ? settings : settings.under(namespace);
      Path memory = memory(settings);
      ReadingState before =
          all || dryRun || !Files.isReadable(memory)
              ? ReadingState.NOTHING
              : ReadingState.parse(Files.readString(memory));
      ServiceClient service = dryRun ? null : service();
      PostgresReader.Reading reading;
      try {
        reading =
            PostgresReader.read(
                settings,
                before,
                queryLog == null ? null : Path.of(queryLog),
                Instant.now(),
                event -> take(service, event));
      } catch (UnreadableSourceException e) {
        throw new ServiceException(
            ServiceException.NOT_REACHABLE, settings + " cannot be read: " + FileWords.why(e));
      }
      flush(service);
      if (!dryRun && refused == 0) {
        keep(memory, reading.state());
      }
      print(reading.found());
      return refused == 0 ? 0 : ServiceException.FINDING;
    }

    private @Nullable String password() throws IOException {
      if (passwordFile != null) {
        return Files.readString(Path.of(passwordFile)).strip();
      }
      return Main.environment().get("LONGTHREAD_READ_PASSWORD");
    }

    /** Where it is kept what was sent last, for each service and database. */
    private Path memory(PostgresSettings settings) {
      String address = dryRun ? "" : Connection.named(serviceUrl, token).address();
      String name =
          (address + " " + settings + " " + settings.namespace() + " " + schemas)
              .replaceAll("[^A-Za-z0-9.-]+", "_");
      return Path.of(Main.environment().getOrDefault("HOME", "."), ".longthread", "read", name);
    }

    private static void keep(Path memory, ReadingState state) throws IOException {
      Files.createDirectories(memory.getParent());
      Path part = memory.resolveSibling(memory.getFileName() + ".part");
      Files.writeString(part, state.text());
      Files.move(part, memory, StandardCopyOption.REPLACE_EXISTING);
    }

    private void take(@Nullable ServiceClient service, String event) {
      if (service == null) {
        out().println(event);
        return;
      }
      batch.writeBytes((event + "\n").getBytes(StandardCharsets.UTF_8));
      if (batch.size() > BATCH_BYTES) {
        flush(service);
      }
    }

    private void flush(@Nullable ServiceClient service) {
      if (service != null && batch.size() > 0) {
        BatchAnswer answer =
            service
                .sendEvents(
                    batch.toByteArray(), BatchAnswer.class, why -> note(why + "; trying again"))
                .value();
        sent += answer.accepted();
        answer.refused().forEach(one -> note("refused: " + one.reason()));
        refused += answer.refused().size();
        batch.reset();
      }
    }

    private void print(PostgresReader.Found found) {
      found.notes().forEach(this::note);
      if (dryRun) {
        return;
      }
      if (json) {
        printJson(found);
        return;
      }
      out()
          .printf(
              "%d tables, %d views, %d columns, %d functions, %d statements seen, %d dropped%n",
              found.tables(),
              found.views(),
              found.columns(),
              found.functions(),
              found.statements(),
              found.dropped());
      out()
          .println(
              found.changed() == 0
                  ? "Nothing changed since the last reading."
                  : sent + " changes reported.");
    }

    private int schedule() {
      var body = new TreeMap<String, @Nullable Object>();
      body.put("name", schedule);
      body.put("url", url);
      body.put("schemas", schemas);
      body.put("namespace", namespace);
      body.put("passwordFile", passwordFile);
      body.put("passwordVariable", passwordVariable);
      body.put("queryLog", queryLog);
      body.put("everyMinutes", every);
      body.put("enabled", true);
      service().change("PUT", "/api/v1/readers", Map.of(), body);
      JsonNode outcome =
          service().post("/api/v1/readers/run?name=" + schedule, null, JsonNode.class).json();
      if (json) {
        printJson(outcome);
      } else {
        out()
            .println(
                outcome.path("outcome").stringValue("")
                    + (outcome.path("problem").isString()
                        ? ": " + outcome.path("problem").stringValue()
                        : ""));
        out().println("It is read again every " + every + " minutes.");
      }
      return outcome.path("outcome").stringValue("").equals("failed")
          ? ServiceException.FINDING
          : 0;
    }
  }

  @Command(
      name = "schedules",
      description = "List, run and remove the databases that the service reads by itself.",
      mixinStandardHelpOptions = true)
  static final class Schedules extends ListOutput implements Callable<Integer> {
    @Option(names = "--run", paramLabel = "NAME", description = "Read it now.")
    private @Nullable String run;

    @Option(names = "--remove", paramLabel = "NAME", description = "Read it no more.")
    private @Nullable String remove;

    @Override
    public Integer call() {
      if (remove != null) {
        service().delete("/api/v1/readers", Map.of("name", remove));
      }
      if (run != null) {
        service().post("/api/v1/readers/run?name=" + run, null, JsonNode.class);
      }
      JsonNode answer =
          service()
              .get("/api/v1/readers", Map.of("limit", paging.orElse(200)), JsonNode.class)
              .json();
      if (json) {
        printJson(answer);
        return 0;
      }
      var rows = new java.util.ArrayList<List<String>>();
      for (JsonNode one : answer.path("items")) {
        rows.add(
            List.of(
                one.path("name").stringValue(""),
                one.path("url").stringValue(""),
                "every " + one.path("everyMinutes").intValue(0) + " min",
                one.path("lastAt").stringValue("-").replaceFirst("\\..*|Z$", "").replace('T', ' '),
                one.path("outcome").stringValue("-"),
                one.path("problem").stringValue("-")));
      }
      printList(List.of("NAME", "DATABASE", "INTERVAL", "LAST READ", "OUTCOME", "PROBLEM"), rows);
      return 0;
    }
  }
}
