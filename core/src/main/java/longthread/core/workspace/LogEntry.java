package longthread.core.workspace;

import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import longthread.core.event.EventFacts;
import longthread.core.event.EventReader;
import longthread.core.event.EventWarning;
import longthread.core.event.FacetMemory;
import longthread.core.event.UnreadableEventException;
import longthread.core.json.CanonicalJson;
import longthread.core.statement.BadStatementException;
import longthread.core.statement.Statement;
import longthread.core.statement.StatementReader;
import org.jspecify.annotations.Nullable;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ObjectNode;

/**
 * One entry of the log, read into facts: an event of the standard, a workspace description, or what
 * a person stated.
 */
public final class LogEntry {
  private static final long SMALL_MEMORY = 1 << 20;

  private LogEntry() {}

  /**
   * Checks that {@link #read} will be able to read these bytes, which a program sent. For an event
   * it is one streaming pass; only what is none is looked at as a description. Statements of people
   * are refused here: they come another way, where it is known who makes them.
   *
   * @return what the sender should know
   * @throws UnreadableEventException if they are neither a sound event nor a sound description
   */
  public static List<EventWarning> check(byte[] bytes, Instant receivedAt)
      throws UnreadableEventException {
    try {
      return EventReader.check(bytes, receivedAt);
    } catch (UnreadableEventException e) {
      if (statement(bytes, e) != null) {
        throw new UnreadableEventException(
            "statement",
            "this is what a person stated; send it to POST /api/v1/statements, as a steward");
      }
      return facts(description(bytes, e), receivedAt, new FacetMemory(SMALL_MEMORY)).stream()
          .flatMap(facts -> facts.warnings().stream())
          .distinct()
          .toList();
    }
  }

  /** As {@link #read(byte[], Instant, FacetMemory)}, without a memory. */
  public static List<EventFacts> read(byte[] bytes, Instant receivedAt)
      throws UnreadableEventException {
    return read(bytes, receivedAt, new FacetMemory(SMALL_MEMORY));
  }

  /**
   * Returns all that an entry says: one set of facts for an event, several for a description.
   *
   * @throws UnreadableEventException as {@link #check}
   */
  public static List<EventFacts> read(byte[] bytes, Instant receivedAt, FacetMemory memory)
      throws UnreadableEventException {
    try {
      return List.of(EventReader.read(bytes, receivedAt, memory));
    } catch (UnreadableEventException e) {
      Statement statement = statement(bytes, e);
      return statement != null
          ? List.of(statement.facts(receivedAt))
          : facts(description(bytes, e), receivedAt, memory);
    }
  }

  /** The statement in these bytes; null if they are none. */
  private static @Nullable Statement statement(byte[] bytes, UnreadableEventException asEvent)
      throws UnreadableEventException {
    if (!asEvent.problem().equals("missing-member")) {
      return null;
    }
    try {
      JsonNode root = CanonicalJson.MAPPER.readTree(bytes);
      return StatementReader.isStatement(root) ? StatementReader.read(root) : null;
    } catch (JacksonException e) {
      return null;
    } catch (BadStatementException e) {
      throw new UnreadableEventException("bad-statement", e.getMessage());
    }
  }

  private static WorkspaceDescription description(byte[] bytes, UnreadableEventException asEvent)
      throws UnreadableEventException {
    if (!asEvent.problem().equals("missing-member")) {
      throw asEvent; // a description has none of an event's required members
    }
    try {
      JsonNode root = CanonicalJson.MAPPER.readTree(bytes);
      if (WorkspaceReader.isDescription(root)) {
        return WorkspaceReader.read(root);
      }
    } catch (JacksonException e) {
      throw asEvent;
    } catch (BadWorkspaceException e) {
      throw new UnreadableEventException("bad-workspace", e.getMessage());
    }
    throw asEvent;
  }

  private static List<EventFacts> facts(
      WorkspaceDescription description, Instant receivedAt, FacetMemory memory)
      throws UnreadableEventException {
    var all = new ArrayList<EventFacts>();
    for (ObjectNode event : WorkspaceEvents.of(description)) {
      all.add(EventReader.read(bytes(event), receivedAt, memory));
    }
    all.add(0, whole(description, receivedAt));
    return all;
  }

  private static byte[] bytes(ObjectNode event) {
    return CanonicalJson.MAPPER.writeValueAsString(event).getBytes(StandardCharsets.UTF_8);
  }

  /** The fact of what the workspace holds: its subject is no asset, so no dataset is mentioned. */
  private static EventFacts whole(WorkspaceDescription description, Instant receivedAt)
      throws UnreadableEventException {
    ObjectNode event = CanonicalJson.MAPPER.createObjectNode();
    event
        .put("eventTime", description.at().toString())
        .put("producer", description.root().path("producer").stringValue(description.namespace()))
        .put("schemaURL", "");
    ObjectNode dataset = event.putObject("dataset");
    dataset.put("namespace", description.namespace()).put("name", description.id());
    dataset.putObject("facets").set(WorkspaceDescription.FACET, description.content());
    EventFacts facts = EventReader.read(bytes(event), receivedAt);
    return facts.ofWorkspace(description.name());
  }
}
