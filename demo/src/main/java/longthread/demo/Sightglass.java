package longthread.demo;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.time.Instant;
import java.time.LocalDate;
import java.time.LocalTime;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;
import tools.jackson.core.JsonPointer;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.SerializationFeature;
import tools.jackson.databind.json.JsonMapper;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/**
 * The BI stand-in: four workspaces in a store of its own, which it refreshes and changes, and
 * describes after each refresh and change, as an agent beside a BI tool would.
 */
final class Sightglass {
  static final List<String> WORKSPACES =
      List.of("farm-payments", "milk-quality", "cellar", "board-room");

  private static final String RELAY_FAULT =
      "the relay vale-relay did not answer within 60 seconds; the data of the last refresh stays";
  private static final int MAX_REFRESHES = 24; // named in a description
  private static final int REFRESH_SECONDS = 40;
  private static final JsonMapper JSON =
      JsonMapper.builder().enable(SerializationFeature.INDENT_OUTPUT).build();

  private final Path store;
  private final Emitter emitter;

  /** Opens the store in a home, and makes it as it was at the beginning if it is not there. */
  Sightglass(Path home, Emitter emitter) throws IOException {
    this.store = home.resolve("world").resolve("sightglass");
    this.emitter = emitter;
    Files.createDirectories(store);
    for (String workspace : WORKSPACES) {
      if (!Files.exists(file(workspace))) {
        Files.writeString(file(workspace), Task.resource("sightglass/" + workspace + ".json"));
      }
    }
  }

  private Path file(String workspace) {
    return store.resolve(workspace + ".json");
  }

  /**
   * A workspace as it stands, without the time of a description.
   *
   * @throws IllegalArgumentException if there is none with this id
   */
  synchronized ObjectNode workspace(String id) throws IOException {
    if (!WORKSPACES.contains(id)) {
      throw new IllegalArgumentException(
          "there is no workspace '" + id + "'; there are " + String.join(", ", WORKSPACES));
    }
    return (ObjectNode) JSON.readTree(Files.readString(file(id)));
  }

  private void keep(String id, ObjectNode workspace) throws IOException {
    Path young = store.resolve(id + ".new");
    Files.writeString(young, JSON.writeValueAsString(workspace));
    Files.move(
        young, file(id), StandardCopyOption.REPLACE_EXISTING, StandardCopyOption.ATOMIC_MOVE);
  }

  /** Refreshes all that is due in one night, each at its time of night, and describes it. */
  synchronized void night(Function<LocalTime, Instant> clock, boolean isRelayBroken)
      throws IOException {
    for (String id : WORKSPACES) {
      ObjectNode workspace = workspace(id);
      Instant last = Instant.EPOCH;
      boolean isFailed = id.equals("cellar") && isRelayBroken;
      for (String list : List.of("steps", "models")) {
        for (JsonNode item : workspace.path(list)) {
          String[] words = item.path("schedule").stringValue("").split(" ");
          if (words[0].equals("daily")) {
            Instant start = clock.apply(LocalTime.parse(words[1]));
            String of = list.substring(0, list.length() - 1) + "/" + item.path("id").stringValue();
            String fault = isFailed && list.equals("steps") ? RELAY_FAULT : null;
            if (!isFailed || list.equals("steps")) {
              refreshed(workspace, of, start, fault);
              last = start.isAfter(last) ? start : last;
            }
          }
        }
      }
      read(workspace, last);
      keep(id, workspace);
      describe(id, last.plusSeconds(REFRESH_SECONDS + 20L));
    }
  }

  /** Refreshes a model on request, and takes its time; the next description says so. */
  synchronized void request(String id, String of, Instant start, Instant end) throws IOException {
    ObjectNode workspace = workspace(id);
    workspace
        .withArray("refreshes")
        .addObject()
        .put("of", of)
        .put("start", start.toString())
        .put("end", end.toString())
        .put("state", "completed");
    keep(id, workspace);
  }

  private static void refreshed(
      ObjectNode workspace, String of, Instant start, @Nullable String fault) {
    ArrayNode refreshes = workspace.withArray("refreshes");
    ObjectNode run =
        refreshes
            .addObject()
            .put("of", of)
            .put("start", start.toString())
            .put("end", start.plusSeconds(REFRESH_SECONDS).toString())
            .put("state", fault == null ? "completed" : "failed");
    if (fault != null) {
      run.put("error", fault);
    }
    while (refreshes.size() > MAX_REFRESHES) {
      refreshes.remove(0);
    }
  }

  /** Who read the reports and dashboards in the week up to a day. */
  private static void read(ObjectNode workspace, Instant at) {
    LocalDate until = LocalDate.ofInstant(at, ZoneOffset.UTC);
    ArrayNode usage = workspace.putArray("usage");
    for (String list : List.of("reports", "dashboards")) {
      for (JsonNode page : workspace.path(list)) {
        String id = page.path("id").stringValue("");
        int reads = 4 + Math.floorMod(id.hashCode(), 60);
        ObjectNode period =
            usage
                .addObject()
                .put("of", list.substring(0, list.length() - 1) + "/" + id)
                .put("from", until.minusDays(6).toString())
                .put("until", until.toString())
                .put("reads", reads);
        ArrayNode readers = period.putArray("readers");
        for (JsonNode reader : page.path("readers")) {
          readers
              .addObject()
              .put("name", reader.stringValue(""))
              .put("reads", reads / page.path("readers").size());
        }
      }
    }
  }

  /** Refreshes one item now, well or with a fault, and describes its workspace. */
  synchronized void refresh(String id, String of, @Nullable String fault) throws IOException {
    ObjectNode workspace = workspace(id);
    Instant now = Instant.now().truncatedTo(ChronoUnit.SECONDS);
    refreshed(workspace, of, now.minusSeconds(REFRESH_SECONDS), fault);
    keep(id, workspace);
    describe(id, now);
  }

  /**
   * Changes what stands at a place of a workspace, or takes it away, and describes it.
   *
   * @param pointer where (RFC 6901)
   * @param value a text, or JSON; null to take it away
   * @throws IllegalArgumentException if there is no such place
   */
  synchronized void edit(String id, String pointer, @Nullable String value) throws IOException {
    ObjectNode workspace = workspace(id);
    JsonPointer place = JsonPointer.compile(pointer);
    JsonNode parent = place.head() == null ? null : workspace.at(place.head());
    String member = place.last() == null ? "" : place.last().getMatchingProperty();
    JsonNode node = value == null ? null : value(value);
    if (parent instanceof ObjectNode object) {
      if (node == null) {
        object.remove(member);
      } else {
        object.set(member, node);
      }
    } else if (parent instanceof ArrayNode array && member.matches("\\d+")) {
      int index = Integer.parseInt(member);
      if (index >= array.size()) {
        throw new IllegalArgumentException(pointer + " is beyond the end of its list");
      } else if (node == null) {
        array.remove(index);
      } else {
        array.set(index, node);
      }
    } else {
      throw new IllegalArgumentException("there is nothing at " + pointer);
    }
    ObjectNode before = workspace(id);
    keep(id, workspace);
    try {
      describe(id, Instant.now().truncatedTo(ChronoUnit.MILLIS));
    } catch (IllegalStateException e) {
      keep(id, before); // the description was refused, so the change is none
      throw new IllegalArgumentException(e.getMessage(), e);
    }
  }

  private static JsonNode value(String text) {
    boolean isJson = text.startsWith("{") || text.startsWith("[");
    return isJson ? JSON.readTree(text) : JSON.valueToTree(text);
  }

  /** The description of a workspace at a moment. */
  byte[] description(String id, Instant at) throws IOException {
    ObjectNode description = workspace(id).put("at", at.toString());
    return description.toString().getBytes(StandardCharsets.UTF_8);
  }

  private void describe(String id, Instant at) throws IOException {
    emitter.describe(description(id, at));
  }
}
