package longthread.core.event;

import java.nio.ByteBuffer;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import longthread.core.json.CanonicalJson;
import org.jspecify.annotations.Nullable;
import tools.jackson.core.JacksonException;
import tools.jackson.core.JsonParser;
import tools.jackson.core.JsonToken;
import tools.jackson.core.exc.StreamConstraintsException;
import tools.jackson.databind.json.JsonMapper;

/**
 * One streaming pass over the bytes of an event: its names and times as text, and of each facet
 * only where its bytes lie. It builds no tree, so it is cheap enough to be done before an event is
 * accepted, and the applier reads only those facets that it has not read before.
 */
final class EventScan {
  private static final Pattern REPEATED = // as the parser reports it
      Pattern.compile("^Duplicate Object property \"(.*)\"$", Pattern.DOTALL);

  private static final int MAX_KEY = 500;
  private static final int MAX_OBJECTS = 200_000;
  private static final Map<String, Integer> MAX_OBJECTS_OF =
      Map.of("schema", EventReader.MAX_COLUMNS + 1);

  /** A facet's key and where its value lies in the event's bytes. */
  record Slice(String key, int start, int end) {}

  /** What is said of a job. */
  static final class JobPart {
    @Nullable String namespace;
    @Nullable String name;
    final List<Slice> facets = new ArrayList<>();
  }

  /** What is said of one dataset in one role. */
  static final class DatasetPart {
    final String path;
    @Nullable String namespace;
    @Nullable String name;
    final List<Slice> facets = new ArrayList<>();

    /** Facets of this run's reading or writing of it. */
    final List<Slice> runFacets = new ArrayList<>();

    DatasetPart(String path) {
      this.path = path;
    }
  }

  @Nullable String eventTime;
  @Nullable String producer;
  @Nullable String schemaUrl;
  @Nullable String eventType;
  boolean hasRun;
  @Nullable String runId;
  final List<Slice> runFacets = new ArrayList<>();
  @Nullable JobPart job;
  @Nullable DatasetPart dataset;
  final List<DatasetPart> inputs = new ArrayList<>();
  final List<DatasetPart> outputs = new ArrayList<>();

  /** A member that some object has more than once; null if there is none. */
  @Nullable String repeated;

  private final byte[] bytes;
  private final JsonParser parser;

  private EventScan(byte[] bytes, JsonParser parser) {
    this.bytes = bytes;
    this.parser = parser;
  }

  /**
   * Scans an event, in time linear in its length. Of a member that an object has more than once the
   * last value counts (RFC 8259 section 4 leaves it open, and engines do send such events).
   */
  static EventScan of(byte[] bytes) throws UnreadableEventException {
    checkEncoding(bytes);
    try {
      return scanned(CanonicalJson.MAPPER, bytes);
    } catch (StreamConstraintsException e) {
      throw unreadable(e);
    } catch (JacksonException e) {
      Matcher repeated = REPEATED.matcher(String.valueOf(e.getOriginalMessage()));
      if (!repeated.find()) {
        throw unreadable(e);
      }
      return lastWins(bytes, repeated.group(1));
    }
  }

  private static EventScan lastWins(byte[] bytes, String repeated) throws UnreadableEventException {
    try {
      EventScan scan = scanned(CanonicalJson.LAST_WINS, bytes);
      scan.repeated = repeated;
      return scan;
    } catch (JacksonException e) {
      throw unreadable(e);
    }
  }

  private static EventScan scanned(JsonMapper mapper, byte[] bytes)
      throws UnreadableEventException {
    try (JsonParser parser = mapper.createParser(bytes)) {
      var scan = new EventScan(bytes, parser);
      scan.event();
      return scan;
    }
  }

  private static UnreadableEventException unreadable(JacksonException e) {
    if (e instanceof StreamConstraintsException) {
      return new UnreadableEventException(
          "too-deep",
          "the event nests deeper than "
              + CanonicalJson.DEEPEST
              + " levels or holds an overlong number; flatten the facet that does");
    }
    var at = e.getLocation();
    String place = at == null ? "" : " at line " + at.getLineNr() + ", column " + at.getColumnNr();
    return new UnreadableEventException(
        "not-json", "the event is not well-formed JSON" + place + ": " + e.getOriginalMessage());
  }

  byte[] bytes() {
    return bytes;
  }

  private static void checkEncoding(byte[] bytes) throws UnreadableEventException {
    boolean plain = true;
    for (byte b : bytes) {
      // UTF-16 and UTF-32 would be recognised by their zero bytes, which UTF-8 JSON never has.
      if (b <= 0) {
        plain = false;
        break;
      }
    }
    if (plain) {
      return;
    }
    try {
      String text = StandardCharsets.UTF_8.newDecoder().decode(ByteBuffer.wrap(bytes)).toString();
      if (text.indexOf('\0') < 0) {
        return;
      }
    } catch (CharacterCodingException e) {
      // reported below
    }
    throw new UnreadableEventException(
        "not-utf-8", "the body is not UTF-8 text; send JSON encoded as UTF-8");
  }

  private void event() throws UnreadableEventException {
    JsonToken first = parser.nextToken();
    if (first != JsonToken.START_OBJECT) {
      parser.skipChildren(); // what is wrong with the JSON itself is reported first
      throw new UnreadableEventException(
          "not-an-object",
          "an event is a JSON object; this is " + (first == null ? "empty" : kindOf(first)));
    }
    while (parser.nextToken() != JsonToken.END_OBJECT) {
      String member = parser.currentName();
      parser.nextToken();
      switch (member) {
        case "eventTime" -> eventTime = text("eventTime");
        case "producer" -> producer = text("producer");
        case "schemaURL" -> schemaUrl = text("schemaURL");
        case "eventType" -> eventType = text("eventType");
        case "run" -> run();
        case "job" -> job = job();
        case "dataset" -> dataset = dataset("dataset", "");
        case "inputs" -> list("inputs", "inputFacets", inputs);
        case "outputs" -> list("outputs", "outputFacets", outputs);
        default -> parser.skipChildren();
      }
    }
    if (parser.nextToken() != null) {
      throw new UnreadableEventException(
          "not-json", "the event is followed by further text; send one event at a time");
    }
  }

  private void run() throws UnreadableEventException {
    hasRun = true;
    runId = null;
    runFacets.clear();
    if (!object("run")) {
      return;
    }
    while (parser.nextToken() != JsonToken.END_OBJECT) {
      String member = parser.currentName();
      parser.nextToken();
      switch (member) {
        case "runId" -> runId = text("run.runId");
        case "facets" -> facets("run.facets", runFacets);
        default -> parser.skipChildren();
      }
    }
  }

  private @Nullable JobPart job() throws UnreadableEventException {
    if (!object("job")) {
      return null;
    }
    var part = new JobPart();
    while (parser.nextToken() != JsonToken.END_OBJECT) {
      String member = parser.currentName();
      parser.nextToken();
      switch (member) {
        case "namespace" -> part.namespace = text("job.namespace");
        case "name" -> part.name = text("job.name");
        case "facets" -> facets("job.facets", part.facets);
        default -> parser.skipChildren();
      }
    }
    return part;
  }

  private @Nullable DatasetPart dataset(String path, String runFacetsMember)
      throws UnreadableEventException {
    if (!object(path)) {
      return null;
    }
    var part = new DatasetPart(path);
    while (parser.nextToken() != JsonToken.END_OBJECT) {
      String member = parser.currentName();
      parser.nextToken();
      switch (member) {
        case "namespace" -> part.namespace = text(path + ".namespace");
        case "name" -> part.name = text(path + ".name");
        case "facets" -> facets(path + ".facets", part.facets);
        default -> {
          if (member.equals(runFacetsMember)) {
            facets(path + "." + member, part.runFacets);
          } else {
            parser.skipChildren();
          }
        }
      }
    }
    return part;
  }

  private void list(String path, String runFacetsMember, List<DatasetPart> parts)
      throws UnreadableEventException {
    parts.clear();
    if (parser.currentToken() == JsonToken.VALUE_NULL) {
      return;
    }
    if (parser.currentToken() != JsonToken.START_ARRAY) {
      throw wrongType(path, "a list");
    }
    while (parser.nextToken() != JsonToken.END_ARRAY) {
      String at = path + "[" + parts.size() + "]";
      if (parser.currentToken() != JsonToken.START_OBJECT) {
        throw wrongType(at, "an object with namespace and name");
      }
      parts.add(dataset(at, runFacetsMember));
    }
  }

  private void facets(String path, List<Slice> slices) throws UnreadableEventException {
    slices.clear();
    var byKey = new LinkedHashMap<String, Slice>();
    if (parser.currentToken() == JsonToken.VALUE_NULL) {
      return;
    }
    if (parser.currentToken() != JsonToken.START_OBJECT) {
      throw wrongType(path, "an object of facets by key");
    }
    while (parser.nextToken() != JsonToken.END_OBJECT) {
      String key = parser.currentName();
      if (key.length() > MAX_KEY) {
        throw new UnreadableEventException(
            "bad-name",
            path + " has a facet key of more than " + MAX_KEY + " characters; shorten it");
      }
      JsonToken value = parser.nextToken();
      int start = offset(parser.currentTokenLocation().getByteOffset());
      if (value == JsonToken.START_OBJECT || value == JsonToken.START_ARRAY) {
        inside(path, key);
      } else {
        parser.finishToken();
      }
      int end = offset(parser.currentLocation().getByteOffset());
      if (value == JsonToken.VALUE_NULL) {
        byKey.remove(key);
      } else {
        byKey.put(key, new Slice(key, start, end));
      }
    }
    slices.addAll(byKey.values());
  }

  /** Steps over an object or a list, and counts what is in it. */
  private void inside(String path, String key) throws UnreadableEventException {
    int most = MAX_OBJECTS_OF.getOrDefault(key, MAX_OBJECTS);
    int objects = 0;
    for (int depth = 1; depth > 0; ) {
      JsonToken token = parser.nextToken();
      if (token.isStructStart()) {
        depth++;
        if (token == JsonToken.START_OBJECT && ++objects >= most) {
          throw new UnreadableEventException(
              "too-many-columns",
              path
                  + "."
                  + key
                  + " holds more than "
                  + (most - 1)
                  + " entries; no more are kept of one facet: describe the dataset in parts");
        }
      } else if (token.isStructEnd()) {
        depth--;
      }
    }
  }

  private static int offset(long at) throws UnreadableEventException {
    if (at < 0) {
      throw new UnreadableEventException(
          "not-utf-8", "the body is not UTF-8 text; send JSON encoded as UTF-8");
    }
    return (int) at;
  }

  private @Nullable String text(String path) throws UnreadableEventException {
    JsonToken token = parser.currentToken();
    if (token == JsonToken.VALUE_NULL) {
      return null;
    }
    if (token != JsonToken.VALUE_STRING) {
      throw wrongType(path, "text");
    }
    return parser.getString();
  }

  /** Whether an object begins here; nothing does at a null. */
  private boolean object(String path) throws UnreadableEventException {
    if (parser.currentToken() == JsonToken.VALUE_NULL) {
      return false;
    }
    if (parser.currentToken() != JsonToken.START_OBJECT) {
      throw wrongType(path, "an object");
    }
    return true;
  }

  private UnreadableEventException wrongType(String path, String wanted) {
    return new UnreadableEventException(
        "wrong-type", path + " must be " + wanted + ", not " + kindOf(parser.currentToken()));
  }

  private static String kindOf(JsonToken token) {
    return switch (token) {
      case START_OBJECT -> "an object";
      case START_ARRAY -> "a list";
      case VALUE_STRING -> "text";
      case VALUE_NUMBER_INT, VALUE_NUMBER_FLOAT -> "a number";
      case VALUE_TRUE, VALUE_FALSE -> "true or false";
      default -> "nothing";
    };
  }
}
