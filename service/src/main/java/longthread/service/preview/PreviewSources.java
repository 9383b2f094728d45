package longthread.service.preview;

import java.io.File;
import java.io.IOException;
import java.nio.file.InvalidPathException;
import java.nio.file.Path;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.regex.Pattern;
import longthread.core.asset.Reference;
import longthread.reader.FilePreview;
import longthread.reader.PostgresPreview;
import longthread.reader.PostgresSettings;
import longthread.reader.Preview;
import longthread.reader.UnreadableSourceException;
import longthread.service.storage.preview.PreviewQueries;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.core.env.Environment;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Service;
import tools.jackson.databind.json.JsonMapper;

/**
 * The databases and folders from which rows can be read live. Stewards set them; which passwords
 * and folders they may name is for whoever runs the service to say.
 */
@Service
class PreviewSources {
  /** Environment variables that may hold a password begin like this. */
  static final String VARIABLE_PREFIX = "LONGTHREAD_PREVIEW_";

  private static final Pattern NAME = Pattern.compile("[A-Za-z0-9][A-Za-z0-9._-]{0,99}");
  private static final List<String> KINDS = List.of("postgres", "files");
  private static final Duration STATEMENT_TIME = Duration.ofSeconds(5);
  private static final int MIN_UNDER = 8;

  /**
   * A source as it is set.
   *
   * @param kind postgres or files
   * @param under the beginning of the references that it holds, up to the schema and table, or the
   *     path: {@code postgres://barn:5432/barn.}
   * @param url {@code postgres://user@host:port/database}, without a password
   * @param schema of tables whose references have none behind {@code under}; public if absent
   * @param passwordVariable an environment variable of the service that begins with {@code
   *     LONGTHREAD_PREVIEW_}
   * @param folder of files, in one of the folders that the service's settings allow
   * @param sampled whether values of columns without labels may be looked at, to propose labels
   */
  record WantedSource(
      @Nullable String name,
      @Nullable String kind,
      @Nullable String under,
      @Nullable String url,
      @Nullable String schema,
      @Nullable String passwordVariable,
      @Nullable String folder,
      @Nullable Boolean sampled) {}

  /** A source as it is listed. */
  record ListedSource(
      String name,
      String kind,
      String under,
      @Nullable String url,
      @Nullable String schema,
      @Nullable String folder,
      boolean sampled,
      String changedBy,
      Instant changedAt) {}

  private final PreviewQueries stored;
  private final Environment environment;
  private final JsonMapper json;
  private final Clock clock;
  private final List<Path> folders;
  private final List<String> hosts;

  PreviewSources(
      PreviewQueries stored,
      Environment environment,
      JsonMapper json,
      Clock clock,
      @Value("${longthread.preview.folders:}") String folders,
      @Value("${longthread.preview.hosts:}") List<String> hosts) {
    this.hosts = hosts.stream().map(host -> host.strip().toLowerCase(Locale.ROOT)).toList();
    this.stored = stored;
    this.environment = environment;
    this.json = json;
    this.clock = clock;
    this.folders =
        Arrays.stream(folders.split(File.pathSeparator))
            .filter(folder -> !folder.isBlank())
            .map(folder -> Path.of(folder.strip()).toAbsolutePath().normalize())
            .toList();
  }

  List<ListedSource> all() {
    return stored.sources().stream().map(this::listed).toList();
  }

  private ListedSource listed(PreviewQueries.Source row) {
    WantedSource source = json.readValue(row.settings(), WantedSource.class);
    return new ListedSource(
        row.name(),
        text(source.kind()),
        text(source.under()),
        source.url(),
        source.schema(),
        source.folder(),
        Boolean.TRUE.equals(source.sampled()),
        row.changedBy(),
        row.changedAt());
  }

  private static String text(@Nullable String text) {
    return text == null ? "" : text.strip();
  }

  /**
   * Sets a source; all that it names is checked first.
   *
   * @param administers whether the caller is an administrator, who may name any machine: it is sent
   *     the service's password
   */
  ListedSource put(String by, boolean administers, WantedSource wanted) {
    String name = text(wanted.name());
    if (!NAME.matcher(name).matches()) {
      throw bad("'" + name + "' is no name of a source; use letters, digits, . _ and -");
    }
    String kind = text(wanted.kind()).toLowerCase(Locale.ROOT);
    if (!KINDS.contains(kind)) {
      throw ProblemException.badRequest(
          "unknown-word", "kind is '" + kind + "'; use " + String.join(" or ", KINDS));
    }
    if (text(wanted.under()).length() < MIN_UNDER) {
      throw bad(
          "under is '"
              + text(wanted.under())
              + "'; give the beginning of the references that the source holds, such as"
              + " postgres://barn.example:5432/barn.");
    }
    if (kind.equals("postgres")) {
      checkHost(settings(wanted).host(), administers);
    } else {
      folder(wanted);
    }
    stored.put(name, json.writeValueAsString(wanted), by, clock.instant());
    return all().stream().filter(one -> one.name().equals(name)).findFirst().orElseThrow();
  }

  private void checkHost(String host, boolean administers) {
    if (!administers && !hosts.contains(host)) {
      throw new ProblemException(
          HttpStatus.FORBIDDEN,
          "forbidden",
          "This machine is for an administrator to name",
          "the service would send its password to '"
              + host
              + "': ask an administrator to set the source, or whoever runs the service to name the"
              + " machine in LONGTHREAD_PREVIEW_HOSTS");
    }
  }

  void delete(String name) {
    if (stored.delete(name) == 0) {
      throw new ProblemException(
          HttpStatus.NOT_FOUND,
          "unknown-preview-source",
          "There is no such source",
          "no source is named '" + name + "'; GET /api/v1/preview/sources lists them");
    }
  }

  private PostgresSettings settings(WantedSource wanted) {
    String password = null;
    String variable = text(wanted.passwordVariable());
    if (!variable.isEmpty()) {
      if (!variable.startsWith(VARIABLE_PREFIX)) {
        throw bad(
            "passwordVariable is '"
                + variable
                + "'; only variables that begin with "
                + VARIABLE_PREFIX
                + " are read");
      }
      password = environment.getProperty(variable);
      if (password == null) {
        throw bad("the service has no environment variable " + variable);
      }
    }
    try {
      PostgresSettings bare = PostgresSettings.of(text(wanted.url()), null, password, List.of());
      return new PostgresSettings(
          bare.host(),
          bare.port(),
          bare.database(),
          bare.user(),
          bare.password(),
          bare.namespace(),
          List.of(),
          STATEMENT_TIME);
    } catch (IllegalArgumentException e) {
      throw bad(String.valueOf(e.getMessage()));
    }
  }

  /** A folder in one that is allowed; links out of it do not count. */
  private Path folder(WantedSource wanted) {
    if (folders.isEmpty()) {
      throw bad(
          "the service may show no files; whoever runs it names folders in"
              + " LONGTHREAD_PREVIEW_FOLDERS");
    }
    try {
      Path folder = Path.of(text(wanted.folder())).toAbsolutePath().normalize().toRealPath();
      for (Path allowed : folders) {
        if (folder.startsWith(allowed.toRealPath())) {
          return folder;
        }
      }
    } catch (InvalidPathException | IOException e) {
      // reported below, as a folder that must not be looked at is
    }
    throw bad(
        "'" + text(wanted.folder()) + "' is in none of the folders that the service may show");
  }

  private static ProblemException bad(String detail) {
    return ProblemException.badRequest("bad-preview-source", detail);
  }

  /** A source with the part of an asset that it holds. */
  record Match(String source, String part, WantedSource settings) {
    /** The reference behind what the source's own begin with. */
    String rest() {
      return part.substring(under().length());
    }

    String under() {
      return text(settings.under());
    }

    /** Whether a steward lets its values be looked at. */
    boolean isSampled() {
      return Boolean.TRUE.equals(settings.sampled());
    }
  }

  /** The sources as they are set at one moment, to look up many assets in. */
  final class Matcher {
    private final Map<String, WantedSource> byName = new LinkedHashMap<>();

    private Matcher() {
      stored
          .sources()
          .forEach(
              row -> byName.put(row.name(), json.readValue(row.settings(), WantedSource.class)));
    }

    /** Whether a source that may be sampled can hold one of these names. */
    boolean mayBeSampled(List<String> parts) {
      return byName.values().stream()
          .filter(source -> Boolean.TRUE.equals(source.sampled()))
          .anyMatch(
              source -> parts.stream().anyMatch(part -> part.startsWith(text(source.under()))));
    }

    /** A name as one of each source's own that it lies under, in any case. */
    List<Match> holding(String part) {
      var holding = new java.util.ArrayList<Match>();
      byName.forEach(
          (source, settings) -> {
            String under = text(settings.under());
            if (part.length() > under.length()
                && part.regionMatches(true, 0, under, 0, under.length())) {
              holding.add(new Match(source, part, settings));
            }
          });
      return holding;
    }

    /** The source that holds one of these names; of several see {@link #isBetter}. */
    @Nullable Match match(List<String> parts) {
      Match best = null;
      for (Map.Entry<String, WantedSource> source : byName.entrySet()) {
        for (String part : parts) {
          var match = new Match(source.getKey(), part, source.getValue());
          boolean isUnder =
              part.startsWith(match.under()) && part.length() > match.under().length();
          if (isUnder && isBetter(best, match)) {
            best = match;
          }
        }
      }
      return best;
    }
  }

  Matcher matcher() {
    return new Matcher();
  }

  /** The source that holds one of these names. */
  @Nullable Match match(List<String> parts) {
    return matcher().match(parts);
  }

  /** Of many dated files the last one that is there is shown; of tables the leading name. */
  private boolean isBetter(@Nullable Match best, Match other) {
    if (best == null) {
      return true;
    }
    int longer = Integer.compare(other.under().length(), best.under().length());
    if (longer != 0 || !isFiles(other)) {
      return longer > 0; // names come the leading one first
    }
    int there = Boolean.compare(isThere(other), isThere(best));
    return there > 0 || (there == 0 && other.part().compareTo(best.part()) > 0);
  }

  private static boolean isFiles(Match match) {
    return text(match.settings().kind()).equals("files");
  }

  /** Whether a file can be read; of tables only their database knows. */
  private boolean isThere(Match match) {
    return !isFiles(match)
        || FilePreview.isThere(folder(match.settings()), Reference.decode(match.rest()));
  }

  /**
   * The one thing at a source that a reference means, whatever else it is called.
   *
   * @param place the database with its machine, or the folder
   * @param schema empty for a file
   * @param name of a table, or the path of a file in its folder
   */
  record Identity(String place, String schema, String name) {
    /** Whether both are the same for a source that may or may not look at the case of letters. */
    boolean isSame(Identity other) {
      return place.equals(other.place)
          && schema.equalsIgnoreCase(other.schema)
          && name.equalsIgnoreCase(other.name);
    }
  }

  private static final Pattern SYSTEM_SCHEMA =
      Pattern.compile("(?i)pg_.*|information_schema|crdb_internal|sys");

  /**
   * What a reference means at its source; null if it means nothing that may be shown: a name with
   * too many parts, a path that leaves its folder or is not written plainly, a system catalog.
   */
  @Nullable Identity identity(Match match) {
    String rest = match.rest();
    if (isFiles(match)) {
      String path = Reference.decode(rest);
      String plain = path.startsWith("/") ? path.substring(1) : path;
      for (String step : plain.split("/", -1)) {
        if (step.isEmpty() || step.equals(".") || step.equals("..")) {
          return null;
        }
      }
      String real = FilePreview.realPath(folder(match.settings()), path);
      return real == null ? null : new Identity(folder(match.settings()).toString(), "", real);
    }
    String[] parts = rest.split("\\.", -1);
    if (parts.length > 2 || java.util.Arrays.stream(parts).anyMatch(String::isEmpty)) {
      return null;
    }
    String own = text(match.settings().schema());
    String schema = parts.length == 2 ? Reference.decode(parts[0]) : own.isEmpty() ? "public" : own;
    return SYSTEM_SCHEMA.matcher(schema).matches()
        ? null
        : new Identity(
            database(match.settings()), schema, Reference.decode(parts[parts.length - 1]));
  }

  private static String database(WantedSource wanted) {
    PostgresSettings bare = PostgresSettings.of(text(wanted.url()), null, null, List.of());
    return bare.host() + ":" + bare.port() + "/" + bare.database();
  }

  /** Reads rows; only the columns that are asked for. */
  Preview read(Match match, List<String> columns, Preview.Bounds bounds)
      throws UnreadableSourceException {
    Identity identity = identity(match);
    if (identity == null) {
      throw new UnreadableSourceException(
          "'" + match.rest() + "' is not the plain name of a table or file there");
    }
    if (isFiles(match)) {
      return FilePreview.read(folder(match.settings()), identity.name(), columns, bounds);
    }
    return PostgresPreview.read(
        settings(match.settings()), identity.schema(), identity.name(), columns, bounds);
  }
}
