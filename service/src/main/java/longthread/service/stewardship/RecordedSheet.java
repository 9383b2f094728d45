package longthread.service.stewardship;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import longthread.core.json.CanonicalJson;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/** Recorded lineage as a sheet: a row for each column link, rows of one id are one record. */
final class RecordedSheet {
  private RecordedSheet() {}

  static ArrayNode changes(List<Map<String, String>> rows) {
    var byId = new LinkedHashMap<String, ObjectNode>();
    int unnamed = 0;
    for (Map<String, String> row : rows) {
      String id = row.getOrDefault("id", "").strip();
      ObjectNode change =
          byId.computeIfAbsent(id.isEmpty() ? "new " + unnamed++ : id, key -> change(id, row));
      String from = row.getOrDefault("from", "").strip();
      if (!from.isEmpty()) {
        ObjectNode value = (ObjectNode) change.path("value");
        ArrayNode columns =
            value.has("columns") ? (ArrayNode) value.path("columns") : value.putArray("columns");
        ObjectNode link = columns.addObject().put("from", from);
        link.put("to", row.getOrDefault("to", "").strip());
        String flow = row.getOrDefault("flow", "").strip();
        link.put("flow", flow.isEmpty() ? "identity" : flow);
      }
    }
    ArrayNode changes = CanonicalJson.MAPPER.createArrayNode();
    byId.values().forEach(changes::add);
    return changes;
  }

  private static ObjectNode change(String id, Map<String, String> row) {
    ObjectNode change = CanonicalJson.MAPPER.createObjectNode().put("set", "recorded");
    if (!id.isEmpty()) {
      change.put("id", id);
    }
    ObjectNode value = change.putObject("value");
    for (String member : List.of("title", "job", "until")) {
      String text = row.getOrDefault(member, "").strip();
      if (!text.isEmpty()) {
        value.put(member, text);
      }
    }
    for (String list : List.of("reads", "writes")) {
      for (String name : row.getOrDefault(list, "").split("[;\\n]|\\s+(?=\\S)")) {
        if (!name.isBlank()) {
          ArrayNode names = value.has(list) ? (ArrayNode) value.path(list) : value.putArray(list);
          names.add(name.strip());
        }
      }
    }
    return change;
  }
}
