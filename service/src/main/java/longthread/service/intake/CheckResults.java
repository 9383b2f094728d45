package longthread.service.intake;

import java.nio.charset.StandardCharsets;
import java.util.UUID;
import longthread.core.event.UnreadableEventException;
import longthread.core.json.CanonicalJson;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ObjectNode;

/**
 * Results of checks as programs that are no emitters leave them in a file: one JSON object for each
 * dataset that was checked.
 *
 * <pre>{@code
 * {"checked": {"namespace": "postgres://barn:5432", "name": "barn.core.pickup"},
 *  "at": "2031-05-01T04:00:00Z",
 *  "job": {"namespace": "night-checks", "name": "pickup"},
 *  "checks": [{"name": "litres are given", "success": true, "column": "litres"}]}
 * }</pre>
 *
 * <p>They become a run event of the standard whose input carries the checks as its assertions. The
 * run's id follows from the content, so the same results always are the same run.
 */
final class CheckResults {
  private static final String PRODUCER = "urn:longthread:files";
  private static final String SPEC =
      "https://openlineage.io/spec/2-0-2/OpenLineage.json#/$defs/RunEvent";
  private static final byte[] MARK = "\"checked\"".getBytes(StandardCharsets.US_ASCII);

  private CheckResults() {}

  /** The event that the bytes stand for: themselves, unless they are results of checks. */
  static byte[] asEvent(byte[] bytes, String file) throws UnreadableEventException {
    if (!contains(bytes, MARK)) {
      return bytes;
    }
    JsonNode results;
    try {
      results = CanonicalJson.MAPPER.readTree(bytes);
    } catch (JacksonException e) {
      return bytes; // what is wrong with it is reported where events are read
    }
    if (!results.path("checked").isObject() || results.has("eventTime")) {
      return bytes;
    }
    if (!results.path("at").isString() || !results.path("checks").isArray()) {
      throw new UnreadableEventException(
          "missing-member",
          "results of checks need the members checked (namespace and name of the dataset), at and"
              + " checks; see docs/intake.md");
    }
    return event(results, bytes, file);
  }

  private static byte[] event(JsonNode results, byte[] bytes, String file) {
    ObjectNode event = CanonicalJson.MAPPER.createObjectNode();
    event.put("eventType", "COMPLETE");
    event.set("eventTime", results.path("at"));
    event.put("producer", PRODUCER).put("schemaURL", SPEC);
    event.putObject("run").put("runId", UUID.nameUUIDFromBytes(bytes).toString());
    if (results.path("job").isObject()) {
      event.set("job", results.path("job"));
    } else {
      String name = file.substring(file.lastIndexOf('/') + 1);
      event
          .putObject("job")
          .put("namespace", "files")
          .put("name", name.replaceAll("[._-]?\\d[\\d_.-]*|\\.(gz|jsonl|ndjson|json)", ""));
    }
    ObjectNode input = event.putArray("inputs").addObject();
    input.setAll((ObjectNode) results.path("checked"));
    ObjectNode facet = input.putObject("inputFacets").putObject("dataQualityAssertions");
    facet.put("_producer", PRODUCER).put("_schemaURL", SPEC);
    var assertions = facet.putArray("assertions");
    for (JsonNode check : results.path("checks")) {
      if (check.isObject()) {
        ObjectNode assertion = (ObjectNode) check.deepCopy();
        if (!assertion.has("assertion")) {
          assertion.put("assertion", check.path("name").stringValue("check"));
        }
        assertions.add(assertion);
      }
    }
    return CanonicalJson.MAPPER.writeValueAsBytes(event);
  }

  private static boolean contains(byte[] bytes, byte[] part) {
    for (int at = 0; at + part.length <= bytes.length; at++) {
      if (java.util.Arrays.equals(bytes, at, at + part.length, part, 0, part.length)) {
        return true;
      }
    }
    return false;
  }
}
