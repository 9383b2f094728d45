package longthread.service.statements;

import java.nio.charset.StandardCharsets;
import java.time.Clock;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeSet;
import java.util.UUID;
import java.util.stream.Collectors;
import longthread.core.event.HandFacet;
import longthread.core.json.CanonicalJson;
import longthread.core.statement.BadStatementException;
import longthread.core.statement.Statement;
import longthread.core.statement.StatementReader;
import longthread.service.audit.AuditNote;
import longthread.service.log.EventLog;
import longthread.service.storage.StoredText;
import longthread.service.storage.facts.FacetQueries;
import longthread.service.storage.statements.StatementQueries;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/** Takes in what people state, lists it, and takes it back. */
@Service
public class Statements {
  private static final int REFS_AT_ONCE = 5_000;
  private static final int MAX_AUDITED = 4; // changes of one statement in the audit log

  /**
   * What a change makes of one value.
   *
   * @param of the reference, or what else it is set of
   * @param what in words, such as {@code owners}
   * @param before absent where nothing was set by hand
   * @param after absent where it is taken away
   */
  public record SetValue(String of, String what, @Nullable Object before, @Nullable Object after) {}

  /**
   * A change that was not made, since the value is not what the caller expected.
   *
   * @param expected what it was when the caller last saw it; absent where nothing was set
   * @param found what it is; absent where nothing is set
   * @param by who set it
   */
  public record Conflict(
      String of,
      String what,
      @Nullable Object expected,
      @Nullable Object found,
      @Nullable String by,
      @Nullable Instant at) {}

  /**
   * What became of a statement.
   *
   * @param id by which it can be undone; absent if nothing changed
   * @param receipt may be passed to any query as {@code after}; absent if nothing changed
   * @param newNames what recorded lineage names and the catalog did not have before
   */
  public record Stated(
      @Nullable String id,
      @Nullable String receipt,
      boolean dryRun,
      List<SetValue> changes,
      List<Conflict> conflicts,
      List<NewName> newNames) {}

  /**
   * A name that the catalog does not have: either new or misspelled.
   *
   * @param namespace as it was understood
   * @param name as it was understood
   * @param closest the reference most like it; absent if none is
   */
  public record NewName(String ref, String namespace, String name, @Nullable String closest) {}

  /** A statement as it is listed. */
  public record ListedStatement(
      String id,
      Instant at,
      String by,
      String reason,
      List<SetValue> changes,
      int changeCount,
      @Nullable String undoes,
      @Nullable String undoneBy) {}

  private final Clock clock;
  private final EventLog log;
  private final ChangeRequests requests;
  private final FacetQueries facets;
  private final StatementQueries stored;

  Statements(
      Clock clock,
      EventLog log,
      ChangeRequests requests,
      FacetQueries facets,
      StatementQueries stored) {
    this.clock = clock;
    this.log = log;
    this.requests = requests;
    this.facets = facets;
    this.stored = stored;
  }

  /**
   * States changes in somebody's name. A change with the member {@code was} is made only if the
   * value is that; a change that changes nothing is left out.
   *
   * @throws ProblemException if any of them cannot be read; then none is made
   */
  @Transactional(readOnly = true)
  public Stated state(String by, String reason, JsonNode wanted, boolean dryRun) {
    // Of two statements within a microsecond the tables could not tell which came first.
    Instant now = clock.instant().truncatedTo(ChronoUnit.MICROS);
    var changes = new ArrayList<ObjectNode>();
    Map<String, String> newTerms = requests.termsIn(wanted);
    for (JsonNode change : wanted) {
      changes.addAll(requests.changes(change, now, newTerms));
    }
    return make(by, reason, changes, null, now, dryRun);
  }

  private Stated make(
      String by,
      String reason,
      List<ObjectNode> wanted,
      @Nullable String undoes,
      Instant now,
      boolean dryRun) {
    String id = UUID.randomUUID().toString();
    Statement statement = read(document(id, by, reason, undoes, now, wanted));
    Map<String, JsonNode> standing = standing(statement);
    var made = new ArrayList<ObjectNode>();
    var values = new ArrayList<SetValue>();
    var conflicts = new ArrayList<Conflict>();
    for (int i = 0; i < wanted.size(); i++) {
      Statement.Change change = statement.changes().get(i);
      ObjectNode node = wanted.get(i);
      JsonNode facet = standing.get(change.of() + "\n" + change.key());
      JsonNode before = facet == null ? CanonicalJson.MAPPER.nullNode() : value(facet);
      String of = shownOf(change.of());
      String what = shownKey(change.key());
      if (node.has("was") && !node.path("was").equals(before)) {
        conflicts.add(
            new Conflict(
                of,
                what,
                ChangeRequests.orNull(node.path("was")),
                ChangeRequests.orNull(before),
                facet == null ? null : facet.path("by").stringValue(null),
                null));
      } else if (!before.equals(change.value())) {
        made.add(node.without("was"));
        values.add(
            new SetValue(
                of, what, ChangeRequests.orNull(before), ChangeRequests.orNull(change.value())));
      }
    }
    List<NewName> newNames = requests.newNames(made);
    if (dryRun || made.isEmpty()) {
      return new Stated(null, null, dryRun, values, conflicts, newNames);
    }
    byte[] bytes =
        CanonicalJson.text(document(id, by, reason, undoes, now, made))
            .getBytes(StandardCharsets.UTF_8);
    AuditNote.about(
        values.stream()
            .limit(MAX_AUDITED)
            .map(value -> value.what() + " of " + value.of())
            .collect(Collectors.joining(", ")));
    AuditNote.detail(values.size() + " changes, statement " + id);
    EventLog.Kept kept = log.append(List.of(log.statement(bytes)), null);
    return new Stated(id, "" + kept.block(), false, values, conflicts, newNames);
  }

  private static ObjectNode document(
      String id,
      String by,
      String reason,
      @Nullable String undoes,
      Instant now,
      List<ObjectNode> changes) {
    ObjectNode document = CanonicalJson.MAPPER.createObjectNode();
    document
        .put("format", StatementReader.FORMAT)
        .put("id", id)
        .put("at", now.toString())
        .put("by", by);
    if (!reason.isBlank()) {
      document.put("reason", reason.strip());
    }
    if (undoes != null) {
      document.put("undoes", undoes);
    }
    ArrayNode list = document.putArray("changes");
    changes.forEach(list::add);
    return document;
  }

  private static Statement read(ObjectNode document) {
    try {
      return StatementReader.read(document);
    } catch (BadStatementException e) {
      throw ProblemException.badRequest("bad-statement", "nothing was changed: " + e.getMessage())
          .with("faults", e.faults());
    }
  }

  private static JsonNode value(JsonNode facet) {
    return facet.has("value") ? facet.path("value") : CanonicalJson.MAPPER.nullNode();
  }

  /** The facets that the changes of a statement meet, by reference and key. */
  private Map<String, JsonNode> standing(Statement statement) {
    var refs = new TreeSet<String>();
    var keys = new TreeSet<String>();
    statement.changes().forEach(change -> refs.add(change.of()));
    statement.changes().forEach(change -> keys.add(change.key()));
    var standing = new HashMap<String, JsonNode>();
    List<String> all = List.copyOf(refs);
    for (int from = 0; from < all.size(); from += REFS_AT_ONCE) {
      List<String> some = all.subList(from, Math.min(all.size(), from + REFS_AT_ONCE));
      for (FacetQueries.Value row : facets.currentOf(some.toArray(String[]::new))) {
        if (keys.contains(row.key())) {
          standing.put(row.ref() + "\n" + row.key(), StoredText.json(row.body()));
        }
      }
    }
    return standing;
  }

  static String shownOf(String ref) {
    if (!HandFacet.isRegister(ref)) {
      return ref;
    }
    String name = ref.substring(HandFacet.REGISTER.length() + 1);
    return name.startsWith("dismissed/") ? name.substring("dismissed/".length()) : name;
  }

  static String shownKey(String key) {
    return HandFacet.isHand(key) ? HandFacet.words(key).replace(" by hand", "") : key;
  }

  // ------------------------------------------------------------------ listing and undoing

  /** Statements, the newest first. */
  @Transactional(readOnly = true)
  List<ListedStatement> list(@Nullable String about, @Nullable String by, int most, long skip) {
    return stored
        .newest(about == null ? "" : about, by == null ? "" : by.strip(), most, skip)
        .stream()
        .map(this::listed)
        .toList();
  }

  private static final int MAX_SHOWN = 20; // changes of one statement in a list

  private ListedStatement listed(StatementQueries.Row row) {
    JsonNode document = StoredText.json(row.body());
    Statement statement = read((ObjectNode) document);
    List<SetValue> values =
        statement.changes().stream()
            .limit(MAX_SHOWN)
            .map(
                change ->
                    new SetValue(
                        shownOf(change.of()),
                        shownKey(change.key()),
                        null,
                        ChangeRequests.orNull(change.value())))
            .toList();
    return new ListedStatement(
        row.id(),
        row.at(),
        row.by(),
        row.reason(),
        values,
        statement.changes().size(),
        row.undoes(),
        row.undoneBy());
  }

  /**
   * Takes a statement back: each value becomes what it was before. What others set since stays and
   * is listed as a conflict.
   */
  @Transactional(readOnly = true)
  Stated undo(String by, String id, boolean dryRun) {
    StatementQueries.Row row =
        stored
            .byId(id)
            .orElseThrow(
                () ->
                    new ProblemException(
                        HttpStatus.NOT_FOUND,
                        "unknown-statement",
                        "No statement has this id",
                        "there is no statement '" + id + "'; GET /api/v1/statements lists them"));
    if (row.undoneBy() != null) {
      throw new ProblemException(
          HttpStatus.CONFLICT,
          "already-undone",
          "This statement was taken back already",
          "the statement was taken back by " + row.undoneBy() + "; undo that one to make it again");
    }
    JsonNode document = StoredText.json(row.body());
    Statement statement = read((ObjectNode) document);
    var inverse = new ArrayList<ObjectNode>();
    for (int i = 0; i < statement.changes().size(); i++) {
      Statement.Change change = statement.changes().get(i);
      ObjectNode node = ((ObjectNode) document.path("changes").get(i)).deepCopy();
      node.set("was", change.value());
      node.set("value", before(change, statement.at()));
      inverse.add(node);
    }
    String reason = "undo: " + (row.reason().isEmpty() ? "statement of " + row.by() : row.reason());
    Instant now = clock.instant().truncatedTo(ChronoUnit.MICROS);
    return make(by, reason, inverse, id, now, dryRun);
  }

  private JsonNode before(Statement.Change change, Instant at) {
    JsonNode before =
        stored
            .before(change.of(), change.key(), at.getEpochSecond(), at.getNano())
            .map(set -> value(StoredText.json(set.body())))
            .orElse(CanonicalJson.MAPPER.nullNode());
    if (before.isNull() && change.key().startsWith(HandFacet.RECORDED)) {
      ObjectNode withdrawn = ((ObjectNode) change.value()).deepCopy();
      return withdrawn.put("withdrawn", "" + clock.instant().truncatedTo(ChronoUnit.MICROS));
    }
    return before;
  }

  /** What stands of the facets that people set and whose keys begin like this, by reference. */
  @Transactional(readOnly = true)
  public Map<String, Map<String, JsonNode>> standing(String keyPrefix) {
    var byRef = new LinkedHashMap<String, Map<String, JsonNode>>();
    for (StatementQueries.Set row : stored.standing(keyPrefix + "%")) {
      byRef
          .computeIfAbsent(row.ref(), k -> new LinkedHashMap<>())
          .put(row.key(), StoredText.json(row.body()));
    }
    return byRef;
  }
}
