package longthread.service.apply;

import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeSet;
import longthread.core.event.EventFacts;
import longthread.core.event.FacetFact;
import longthread.core.event.FacetMemory;
import longthread.core.event.UnreadableEventException;
import longthread.core.json.CanonicalJson;
import longthread.core.workspace.LogEntry;
import longthread.service.log.EventLog;
import longthread.service.log.LoggedEvent;
import longthread.service.log.RecentDigests;
import longthread.service.storage.Columns;
import longthread.service.storage.StoredText;
import longthread.service.storage.StoredTime;
import longthread.service.storage.graph.HeadQueries;
import longthread.service.storage.log.RecentEventQueries;
import longthread.service.storage.log.RefusalQueries;
import tools.jackson.databind.JsonNode;

/** Applies events to the catalog, within the transaction of whoever calls. For one thread. */
final class EventApplier {
  private static final long FACET_MEMORY_BYTES = 8 << 20;
  private static final int MAX_WORDS = 60; // of what was new in one event

  private final Clock clock;
  private final EventLog log;
  private final RecentDigests recent;
  private final FacetMemory memory = new FacetMemory(FACET_MEMORY_BYTES);

  EventApplier(Clock clock, EventLog log, RecentDigests recent) {
    this.clock = clock;
    this.log = log;
    this.recent = recent;
  }

  /** What a batch changed, how many of its events were new, and how many came before. */
  record Applied(Set<String> refs, int events, int repeated) {}

  /**
   * Applies events, within a transaction. What cannot be read is refused; what came before is left
   * out.
   */
  Applied apply(ApplierSession locked, List<LoggedEvent> events) {
    var read = new ArrayList<EventAtBlock>();
    var sources = new ArrayList<Source>();
    List<LoggedEvent> unseen = unseen(locked, events);
    locked.stages().done("duplicates");
    for (LoggedEvent event : unseen) {
      try {
        List<EventFacts> facts = LogEntry.read(event.bytes(), event.receivedAt(), memory);
        sources.add(new Source(event, facts.get(0), read.size(), read.size() + facts.size()));
        facts.forEach(one -> read.add(new EventAtBlock(one, event.block())));
      } catch (UnreadableEventException e) {
        refuse(locked, event, e.problem(), e.reason());
      }
    }
    locked.stages().done("read");
    if (read.isEmpty()) {
      return new Applied(Set.of(), 0, events.size() - unseen.size());
    }
    CatalogWriter.Changes changes = locked.catalog().write(read);
    locked
        .stores()
        .recent()
        .add(sources.stream().map(source -> recentRow(source, changes.words())).toList());
    List<Source> reported = sources.stream().filter(s -> s.facts().by() == null).toList();
    locked
        .emitters()
        .write(
            reported.stream().map(Source::facts).toList(),
            reported.stream().map(source -> source.event().receivedAt()).toList());
    for (Source source : sources) {
      if (source.facts().by() != null) {
        addStatement(locked, source);
      }
    }
    locked.stages().done("records");
    return new Applied(changes.refs(), sources.size(), events.size() - unseen.size());
  }

  /** The events whose bytes were never applied before; of equal ones the first. */
  private static List<LoggedEvent> unseen(ApplierSession locked, List<LoggedEvent> events) {
    var byDigest = new LinkedHashMap<String, LoggedEvent>();
    events.forEach(event -> byDigest.putIfAbsent(CanonicalJson.digest(event.bytes()), event));
    if (byDigest.isEmpty()) {
      return List.of();
    }
    Set<String> fresh =
        new HashSet<>(
            locked
                .stores()
                .blocks()
                .addSeen(
                    Columns.digests(byDigest.keySet()),
                    Columns.longs(byDigest.values(), LoggedEvent::block),
                    Columns.of(byDigest.values(), LoggedEvent::position, Integer[]::new)));
    return byDigest.entrySet().stream()
        .filter(entry -> fresh.contains(entry.getKey()))
        .map(Map.Entry::getValue)
        .toList();
  }

  /** An event and where in the batch its facts lie; a description has many sets of facts. */
  private record Source(LoggedEvent event, EventFacts facts, int from, int to) {}

  /** What a statement sets something of, the first of it. */
  private static String aboutStatement(EventFacts facts) {
    List<String> about = about(facts);
    return about.isEmpty() ? "" : about.get(0);
  }

  private static List<String> about(EventFacts facts) {
    var about = new TreeSet<String>();
    for (FacetFact fact : facts.facets()) {
      if (fact.subject() instanceof FacetFact.OfJob of) {
        about.add(of.job().reference());
      } else if (fact.subject() instanceof FacetFact.OfDataset of) {
        about.add(of.dataset().reference());
      }
    }
    return List.copyOf(about);
  }

  /** Lists a statement, so that it can be found and undone. */
  private static void addStatement(ApplierSession locked, Source source) {
    JsonNode statement = CanonicalJson.MAPPER.readTree(source.event().bytes());
    locked
        .stores()
        .statements()
        .add(
            statement.path("id").stringValue(""),
            StoredTime.clamped(source.facts().at().at()),
            StoredText.clean(Objects.requireNonNull(source.facts().by())),
            StoredText.clean(statement.path("reason").stringValue("")),
            about(source.facts()).toArray(String[]::new),
            StoredText.packed(CanonicalJson.text(statement)),
            statement.path("undoes").stringValue(""));
  }

  private static RecentEventQueries.Applied recentRow(Source source, List<Set<String>> words) {
    LoggedEvent event = source.event();
    EventFacts facts = source.facts();
    String about =
        facts.job() != null
            ? facts.job().reference()
            : facts.dataset() != null
                ? facts.dataset().reference()
                : facts.by() != null
                    ? aboutStatement(facts)
                    : Objects.requireNonNull(facts.workspace()).reference();
    String type = StoredText.clean(facts.type());
    var notes = new LinkedHashSet<String>();
    facts.warnings().forEach(warning -> notes.add("warning: " + warning.detail()));
    words.subList(source.from(), source.to()).stream()
        .flatMap(Set::stream)
        .limit(MAX_WORDS)
        .forEach(notes::add);
    return new RecentEventQueries.Applied(
        event.block(),
        event.position(),
        event.receivedAt(),
        StoredTime.clamped(facts.at().at()),
        facts.at().farFuture() ? type + " (far future)" : type,
        about,
        StoredText.clean(facts.emitter().producer()),
        notes.stream().map(StoredText::clean).toList());
  }

  /** Keeps an event as refused. Its bytes may come again, when they can be read. */
  void refuse(ApplierSession locked, LoggedEvent event, String problem, String reason) {
    String digest = CanonicalJson.digest(event.bytes());
    recent.forget(digest);
    log.countRefused(problem);
    locked.stores().blocks().forgetSeen(Columns.bytes(digest));
    locked
        .stores()
        .refusals()
        .add(
            event.block(),
            event.receivedAt(),
            List.of(new RefusalQueries.Refusal(event.position(), problem, reason)));
  }

  /** Numbers the change without gaps and marks the blocks, both in the batch's transaction. */
  void number(ApplierSession locked, List<Long> blocks, Set<String> changed) {
    Instant now = clock.instant();
    HeadQueries head = locked.stores().head();
    if (!changed.isEmpty()) {
      head.next(now);
    }
    long number = head.number();
    if (!changed.isEmpty()) {
      head.addChange(number, now, changed.toArray(String[]::new));
    }
    if (!blocks.isEmpty()) {
      locked.stores().blocks().markApplied(now, number, blocks.toArray(Long[]::new));
    }
    locked.stages().done("number");
  }
}
