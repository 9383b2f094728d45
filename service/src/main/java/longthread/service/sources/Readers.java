package longthread.service.sources;

import jakarta.annotation.PreDestroy;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.InvalidPathException;
import java.nio.file.Path;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.regex.Pattern;
import longthread.reader.PostgresReader;
import longthread.reader.PostgresSettings;
import longthread.reader.ReadingState;
import longthread.reader.UnreadableSourceException;
import longthread.service.log.EventLog;
import longthread.service.storage.StoredText;
import longthread.service.storage.sources.ConnectionQueries;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.core.env.Environment;
import org.springframework.http.HttpStatus;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Service;
import tools.jackson.databind.json.JsonMapper;

/**
 * The databases that the service reads by itself, each at its interval. Of all replicas one reads a
 * database at a time. Passwords are in files or environment variables of the service's own, and
 * never in the catalog.
 */
@Service
class Readers {
  /** Environment variables that may hold a password of a source begin like this. */
  static final String VARIABLE_PREFIX = "LONGTHREAD_READ_";

  private static final Logger LOG = LoggerFactory.getLogger(Readers.class);
  private static final Pattern NAME = Pattern.compile("[A-Za-z0-9][A-Za-z0-9._-]{0,99}");
  private static final int EVENTS_AT_ONCE = 500;
  private static final int MAX_DAYS = 31;
  private static final Duration LONGEST = Duration.ofMinutes(30);

  /**
   * What to read, and how often.
   *
   * @param url {@code postgres://user@host:port/database}, without a password
   * @param passwordFile the name of a file in the service's folder of secrets
   * @param passwordVariable an environment variable of the service that begins with {@code
   *     LONGTHREAD_READ_}
   * @param schemas names; all but those of the system if there are none
   * @param namespace under which its tables are reported; {@code postgres://host:port} if it is
   *     missing
   * @param queryLog a CSV log of the server in the service's folder of secrets, or below the folder
   *     of files
   */
  public record WantedReader(
      @Nullable String name,
      @Nullable String url,
      @Nullable String passwordFile,
      @Nullable String passwordVariable,
      @Nullable List<String> schemas,
      @Nullable String namespace,
      @Nullable String queryLog,
      @Nullable Integer everyMinutes,
      @Nullable Boolean enabled) {}

  /** A reader as it is listed. */
  record ListedReader(
      String name,
      String url,
      List<String> schemas,
      String namespace,
      int everyMinutes,
      boolean enabled,
      String changedBy,
      @Nullable Instant lastAt,
      @Nullable Instant lastOkAt,
      @Nullable Instant nextAt,
      @Nullable String outcome,
      @Nullable String problem) {}

  private final ConnectionQueries stored;
  private final EventLog log;
  private final Clock clock;
  private final Environment environment;
  private final JsonMapper json;
  private final @Nullable Path secrets;
  private final long largestEvent;
  private final ExecutorService work =
      Executors.newSingleThreadExecutor(
          task -> {
            var thread = new Thread(task, "source-reader");
            thread.setDaemon(true);
            return thread;
          });

  Readers(
      ConnectionQueries stored,
      EventLog log,
      Clock clock,
      Environment environment,
      JsonMapper json,
      @Value("${longthread.readers.secrets:}") String secrets,
      @Value("${longthread.intake.largest-event}") long largestEvent) {
    this.stored = stored;
    this.log = log;
    this.clock = clock;
    this.environment = environment;
    this.json = json;
    this.secrets = secrets.isBlank() ? null : Path.of(secrets).toAbsolutePath().normalize();
    this.largestEvent = largestEvent;
  }

  @PreDestroy
  void stop() {
    work.shutdownNow();
  }

  /** Sets what a reader is to do; what it read before is kept in mind. */
  ListedReader put(String by, WantedReader wanted) {
    String name = wanted.name() == null ? "" : wanted.name().strip();
    if (!NAME.matcher(name).matches()) {
      throw ProblemException.badRequest(
          "bad-reader", "'" + name + "' is no name of a reader; use letters, digits, . _ and -");
    }
    int every = wanted.everyMinutes() == null ? 60 : wanted.everyMinutes();
    if (every < 1 || every > MAX_DAYS * 24 * 60) {
      throw ProblemException.badRequest(
          "bad-reader", "everyMinutes is " + every + "; it takes 1 to " + MAX_DAYS * 24 * 60);
    }
    settings(wanted); // that it can be read at all
    password(wanted);
    queryLog(wanted);
    boolean enabled = wanted.enabled() == null || wanted.enabled();
    stored.putReader(name, json.writeValueAsString(wanted), every, enabled, by, clock.instant());
    return named(name);
  }

  void delete(String name) {
    if (stored.deleteReader(name) == 0) {
      throw unknown(name);
    }
  }

  private static ProblemException unknown(String name) {
    return new ProblemException(
        HttpStatus.NOT_FOUND,
        "unknown-reader",
        "There is no such reader",
        "no reader is named '" + name + "'; GET /api/v1/readers lists them");
  }

  List<ListedReader> all() {
    return stored.readers().stream().map(this::listed).toList();
  }

  private ListedReader named(String name) {
    return all().stream()
        .filter(reader -> reader.name().equals(name))
        .findFirst()
        .orElseThrow(() -> unknown(name));
  }

  private ListedReader listed(ConnectionQueries.Reader row) {
    WantedReader wanted = json.readValue(row.settings(), WantedReader.class);
    Instant last = row.lastAt();
    Instant next =
        !row.enabled()
            ? null
            : last == null ? clock.instant() : last.plus(Duration.ofMinutes(row.everyMinutes()));
    return new ListedReader(
        row.name(),
        Objects.requireNonNull(wanted.url()),
        wanted.schemas() == null ? List.of() : wanted.schemas(),
        settings(wanted).namespace(),
        row.everyMinutes(),
        row.enabled(),
        row.changedBy(),
        last,
        row.lastOkAt(),
        next,
        row.outcome(),
        row.problem());
  }

  // ------------------------------------------------------------------ settings

  private PostgresSettings settings(WantedReader wanted) {
    try {
      List<String> schemas = wanted.schemas() == null ? List.of() : wanted.schemas();
      PostgresSettings settings =
          PostgresSettings.of(wanted.url() == null ? "" : wanted.url(), null, null, schemas);
      return wanted.namespace() == null || wanted.namespace().isBlank()
          ? settings
          : settings.under(wanted.namespace().strip());
    } catch (IllegalArgumentException e) {
      throw ProblemException.badRequest("bad-reader", String.valueOf(e.getMessage()));
    }
  }

  private @Nullable String password(WantedReader wanted) {
    String variable = wanted.passwordVariable();
    if (variable != null && !variable.isBlank()) {
      if (!variable.startsWith(VARIABLE_PREFIX)) {
        throw ProblemException.badRequest(
            "bad-reader",
            "passwordVariable is '"
                + variable
                + "'; only variables that begin with "
                + VARIABLE_PREFIX
                + " are read");
      }
      String value = environment.getProperty(variable);
      if (value == null) {
        throw ProblemException.badRequest(
            "bad-reader", "the service has no environment variable " + variable);
      }
      return value;
    }
    String file = wanted.passwordFile();
    if (file == null || file.isBlank()) {
      return null;
    }
    try {
      return Files.readString(inSecrets(file), StandardCharsets.UTF_8).strip();
    } catch (IOException e) {
      throw ProblemException.badRequest(
          "bad-reader", "the file of the password cannot be read: " + e.getMessage());
    }
  }

  /** A file by its name in the folder of secrets; nothing outside it is ever read. */
  private Path inSecrets(String file) {
    Path folder = secrets;
    if (folder == null) {
      throw ProblemException.badRequest(
          "bad-reader",
          "the service has no folder of secrets; set LONGTHREAD_READER_SECRETS, or use"
              + " passwordVariable");
    }
    try {
      Path path = folder.resolve(file).normalize();
      if (path.startsWith(folder)
          && Files.isRegularFile(path)
          && path.toRealPath().startsWith(folder.toRealPath())) {
        return path;
      }
    } catch (InvalidPathException | IOException e) {
      // reported below
    }
    throw ProblemException.badRequest(
        "bad-reader", "there is no file '" + file + "' in the service's folder of secrets");
  }

  private @Nullable Path queryLog(WantedReader wanted) {
    String file = wanted.queryLog();
    return file == null || file.isBlank() ? null : inSecrets(file);
  }

  // ------------------------------------------------------------------ reading

  /** Reads one database now, whatever its interval; returns when it is done. */
  ListedReader readNow(String name) {
    named(name);
    ConnectionQueries.Reader taken =
        stored
            .take(name, clock.instant(), clock.instant().plus(LONGEST))
            .orElseThrow(
                () ->
                    new ProblemException(
                        HttpStatus.CONFLICT,
                        "reader-busy",
                        "The database is being read",
                        "'" + name + "' is being read just now; look again in a moment"));
    read(taken);
    return named(name);
  }

  /** Looks for databases that are due. */
  @Scheduled(fixedDelay = 10_000)
  void readDue() {
    work.execute(
        () -> {
          try {
            Instant now = clock.instant();
            var due = stored.take("", now, now.plus(LONGEST));
            while (due.isPresent()) {
              read(due.get());
              now = clock.instant();
              due = stored.take("", now, now.plus(LONGEST));
            }
          } catch (RuntimeException e) {
            LOG.warn("databases cannot be read now: {}", e.getMessage());
          }
        });
  }

  private void read(ConnectionQueries.Reader row) {
    WantedReader wanted = json.readValue(row.settings(), WantedReader.class);
    try {
      PostgresSettings bare = settings(wanted);
      var settings =
          new PostgresSettings(
              bare.host(),
              bare.port(),
              bare.database(),
              bare.user(),
              password(wanted),
              bare.namespace(),
              bare.schemas(),
              bare.statementTime());
      ReadingState before =
          stored
              .state(row.name())
              .map(bytes -> ReadingState.parse(StoredText.text(bytes)))
              .orElse(ReadingState.NOTHING);
      var events = new ArrayList<EventLog.Item>();
      PostgresReader.Reading reading =
          PostgresReader.read(
              settings,
              before,
              queryLog(wanted),
              clock.instant(),
              event -> {
                events.add(log.item(event.getBytes(StandardCharsets.UTF_8), largestEvent));
                if (events.size() >= EVENTS_AT_ONCE) {
                  append(row.name(), events);
                }
              });
      append(row.name(), events);
      stored.keepState(row.name(), StoredText.packed(reading.state().text()));
      PostgresReader.Found found = reading.found();
      ended(row.name(), true, outcome(found), String.join("; ", found.notes()));
    } catch (UnreadableSourceException e) {
      ended(row.name(), false, "failed", String.valueOf(e.getMessage()));
    } catch (RuntimeException e) {
      LOG.warn("{} could not be read", row.name(), e);
      ended(row.name(), false, "failed", String.valueOf(e.getMessage()));
    }
  }

  private void ended(String name, boolean ok, String outcome, String problem) {
    stored.ended(name, clock.instant(), ok, outcome, problem);
  }

  private void append(String name, List<EventLog.Item> events) {
    if (!events.isEmpty()) {
      log.append(List.copyOf(events), "reader:" + name);
      events.clear();
    }
  }

  static String outcome(PostgresReader.Found found) {
    return found.tables()
        + " tables, "
        + found.views()
        + " views, "
        + found.functions()
        + " functions, "
        + found.statements()
        + " statements seen; "
        + found.changed()
        + " changes reported";
  }
}
