package longthread.service.sources;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeSet;
import longthread.core.asset.Card;
import longthread.service.access.EmitterKeys;
import longthread.service.intake.FilePickup;
import longthread.service.intake.KeyActivity;
import longthread.service.storage.sources.ConnectionQueries;
import longthread.service.storage.sources.TakenFileQueries;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.core.env.Environment;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** The ways in that are open, and what came by each. */
@Service
class Connections {
  /** The kinds of sources that can be connected, from the least work to the most. */
  static final List<String> KINDS =
      List.of(
          "http", "kafka", "files", "wrap", "java", "python", "postgres", "workspace", "by-hand");

  private static final Duration LOOKED_BACK = Duration.ofDays(7);

  /**
   * A way in.
   *
   * @param kind {@code http}, {@code files}, {@code kafka} or {@code postgres}
   * @param state {@code waiting} while nothing came, {@code working}, {@code failing} where the
   *     newest thing that happened is an error, {@code off}
   * @param covers the namespaces that its newest events are about
   * @param rate events of the past seven days, where that is counted
   * @param problem the newest error, in a sentence
   */
  record OpenConnection(
      String kind,
      String name,
      String state,
      @Nullable Instant firstAt,
      @Nullable Instant lastAt,
      long accepted,
      long refused,
      List<String> covers,
      @Nullable Long rate,
      @Nullable String problem,
      @Nullable Instant problemAt) {}

  /** An event that a new connection sent, with what it changed. */
  record FirstEvent(
      String id, Instant receivedAt, String type, String about, List<String> changed) {}

  /** What came by one key so far. */
  record KeyProgress(
      String name,
      long accepted,
      long refused,
      @Nullable String refusal,
      @Nullable Instant refusedAt,
      List<FirstEvent> events) {}

  /** Settings to paste, with what they are for. */
  record Snippet(String title, String text) {}

  /** A connection that was made ready. */
  record NewConnection(
      String kind, @Nullable String name, @Nullable String token, List<Snippet> settings) {}

  private final ConnectionQueries stored;
  private final EmitterKeys keys;
  private final KeyActivity activity;
  private final Readers readers;
  private final FilePickup files;
  private final Environment environment;
  private final Clock clock;

  Connections(
      ConnectionQueries stored,
      EmitterKeys keys,
      KeyActivity activity,
      Readers readers,
      FilePickup files,
      Environment environment,
      Clock clock) {
    this.stored = stored;
    this.keys = keys;
    this.activity = activity;
    this.readers = readers;
    this.files = files;
    this.environment = environment;
    this.clock = clock;
  }

  /** All ways in: those with trouble first, then by the newest contact. */
  @Transactional(readOnly = true)
  List<OpenConnection> all() {
    var all = new ArrayList<OpenConnection>();
    Map<String, ConnectionQueries.Use> uses = new HashMap<>();
    stored.uses().forEach(use -> uses.put(use.name(), use));
    for (EmitterKeys.SendingKey key : keys.all()) {
      ConnectionQueries.Use use = uses.get(key.name());
      if (use != null || key.role().equals("emitter")) {
        all.add(ofKey(key, use));
      }
    }
    List<ConnectionQueries.Source> sources =
        stored.sourcesSince(clock.instant().minus(LOOKED_BACK));
    if (files.folder() != null) {
      all.add(ofFiles(sources));
    }
    String topics = environment.getProperty("longthread.kafka.bootstrap", "");
    if (!topics.isBlank()) {
      all.add(ofTopics(sources));
    }
    readers.all().forEach(reader -> all.add(ofReader(reader, sources)));
    all.sort(
        Comparator.comparing((OpenConnection c) -> !c.state().equals("failing"))
            .thenComparing(OpenConnection::lastAt, Comparator.nullsLast(Comparator.reverseOrder()))
            .thenComparing(OpenConnection::name));
    return all;
  }

  private OpenConnection ofKey(EmitterKeys.SendingKey key, ConnectionQueries.@Nullable Use use) {
    if (use == null) {
      return new OpenConnection(
          "http", key.name(), "waiting", null, null, 0, 0, List.of(), null, null, null);
    }
    var covers = new TreeSet<String>();
    for (ConnectionQueries.Sent sent : stored.sentBy(key.name())) {
      covers.add(namespace(sent.about()));
    }
    boolean failing = use.refusedAt() != null && !use.refusedAt().isBefore(use.lastAt());
    return new OpenConnection(
        "http",
        key.name(),
        failing ? "failing" : "working",
        use.firstAt(),
        use.lastAt(),
        use.accepted(),
        use.refused(),
        List.copyOf(covers),
        null,
        use.refusal(),
        use.refusedAt());
  }

  private static String namespace(String about) {
    try {
      return Card.namespaceOf(about);
    } catch (IllegalArgumentException e) {
      return about;
    }
  }

  private OpenConnection ofFiles(List<ConnectionQueries.Source> sources) {
    List<TakenFileQueries.Stored> newest = files.newest(50);
    TakenFileQueries.Stored last = newest.isEmpty() ? null : newest.get(0);
    long events =
        sources.stream()
            .filter(s -> !s.source().startsWith("reader:") && !s.source().startsWith("topic "))
            .mapToLong(ConnectionQueries.Source::events)
            .sum();
    String problem = last == null ? null : last.problem();
    return new OpenConnection(
        "files",
        String.valueOf(files.folder()),
        last == null ? "waiting" : problem != null ? "failing" : "working",
        null,
        last == null ? null : last.firstAt(),
        newest.stream().mapToLong(TakenFileQueries.Stored::accepted).sum(),
        newest.stream().mapToLong(TakenFileQueries.Stored::refused).sum(),
        List.of(),
        events,
        problem,
        problem == null ? null : last.firstAt());
  }

  private OpenConnection ofTopics(List<ConnectionQueries.Source> sources) {
    Instant last = null;
    long events = 0;
    for (ConnectionQueries.Source source : sources) {
      if (source.source().startsWith("topic ")) {
        events += source.events();
        last = last == null || source.newest().isAfter(last) ? source.newest() : last;
      }
    }
    return new OpenConnection(
        "kafka",
        environment.getProperty("longthread.kafka.topics", "lineage"),
        last == null ? "waiting" : "working",
        null,
        last,
        events,
        0,
        List.of(),
        events,
        null,
        null);
  }

  private static OpenConnection ofReader(
      Readers.ListedReader reader, List<ConnectionQueries.Source> sources) {
    boolean failing = reader.lastAt() != null && !reader.lastAt().equals(reader.lastOkAt());
    long events =
        sources.stream()
            .filter(s -> s.source().equals("reader:" + reader.name()))
            .mapToLong(ConnectionQueries.Source::events)
            .sum();
    String state =
        failing
            ? "failing"
            : !reader.enabled() ? "off" : reader.lastAt() == null ? "waiting" : "working";
    return new OpenConnection(
        "postgres",
        reader.name(),
        state,
        null,
        reader.lastAt(),
        events,
        0,
        List.of(reader.namespace()),
        events,
        reader.problem(),
        reader.problem() == null ? null : reader.lastAt());
  }

  /** What came by a key, the newest first. */
  KeyProgress progress(String name) {
    activity.write();
    ConnectionQueries.Use use =
        stored.uses().stream().filter(u -> u.name().equals(name)).findFirst().orElse(null);
    List<FirstEvent> events =
        stored.sentBy(name).stream()
            .map(
                sent ->
                    new FirstEvent(
                        sent.block() + "." + sent.position(),
                        sent.receivedAt(),
                        sent.type(),
                        sent.about(),
                        List.of(sent.changed())))
            .toList();
    return use == null
        ? new KeyProgress(name, 0, 0, null, null, events)
        : new KeyProgress(
            name, use.accepted(), use.refused(), use.refusal(), use.refusedAt(), events);
  }

  /**
   * Makes a connection ready: a key that can only send, where the kind needs one, and settings to
   * paste.
   *
   * @param base the address of the service
   */
  NewConnection make(String kind, @Nullable String name, String base) {
    if (!KINDS.contains(kind)) {
      throw ProblemException.badRequest(
          "unknown-word", "'" + kind + "' is no kind of source; use " + String.join(", ", KINDS));
    }
    boolean needsKey = !List.of("kafka", "files", "by-hand").contains(kind);
    if (!needsKey) {
      return new NewConnection(kind, null, null, ConnectionSettings.of(kind, "", base, ""));
    }
    String token = keys.make(name == null ? "" : name);
    return new NewConnection(
        kind, name, token, ConnectionSettings.of(kind, String.valueOf(name), base, token));
  }
}
