package longthread.reader;

import java.time.Instant;
import java.util.Map;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;
import tools.jackson.databind.node.ObjectNode;

/**
 * What was reported last, so that the next reading reports only what changed.
 *
 * @param digests of what was reported, by the reference it is about
 * @param calls how often the server had counted each statement, by user and fingerprint
 * @param countedAt when they were counted
 * @param logUpTo the time of the newest entry of the query log
 */
public record ReadingState(
    Map<String, String> digests,
    Map<String, Long> calls,
    @Nullable Instant countedAt,
    @Nullable Instant logUpTo) {
  public static final ReadingState NOTHING = new ReadingState(Map.of(), Map.of(), null, null);

  private static final JsonMapper JSON = new JsonMapper();

  public ReadingState {
    digests = Map.copyOf(digests);
    calls = Map.copyOf(calls);
  }

  /** The state as text; {@link #parse} gives an equal one. */
  public String text() {
    ObjectNode node = JSON.createObjectNode();
    ObjectNode all = node.putObject("digests");
    new TreeMap<>(digests).forEach(all::put);
    ObjectNode counted = node.putObject("calls");
    new TreeMap<>(calls).forEach(counted::put);
    if (countedAt != null) {
      node.put("countedAt", countedAt.toString());
    }
    if (logUpTo != null) {
      node.put("logUpTo", logUpTo.toString());
    }
    return JSON.writeValueAsString(node);
  }

  public static ReadingState parse(String text) {
    JsonNode node = JSON.readTree(text);
    var digests = new TreeMap<String, String>();
    node.path("digests")
        .properties()
        .forEach(one -> digests.put(one.getKey(), one.getValue().stringValue("")));
    var calls = new TreeMap<String, Long>();
    node.path("calls")
        .properties()
        .forEach(one -> calls.put(one.getKey(), one.getValue().longValue(0)));
    return new ReadingState(digests, calls, time(node, "countedAt"), time(node, "logUpTo"));
  }

  private static @Nullable Instant time(JsonNode node, String member) {
    return node.has(member) ? Instant.parse(node.path(member).stringValue("")) : null;
  }
}
