package longthread.core.event;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import longthread.core.json.CanonicalJson;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/**
 * The schema of a dataset that no writer reported, put together from those that readers did: each
 * may have asked for some of the columns only, so none takes a column away.
 */
public final class ReadSchemas {
  private ReadSchemas() {}

  /**
   * Returns the columns of all schemas, those of the first one first; of a column that several
   * have, the first one's type and description count. Takes time linear in the columns.
   *
   * @param newestFirst values of the schema facet
   */
  public static JsonNode union(List<JsonNode> newestFirst) {
    ObjectNode schema = CanonicalJson.MAPPER.createObjectNode();
    schema.set("fields", fields(newestFirst.stream().map(s -> s.path("fields")).toList()));
    return schema;
  }

  private static ArrayNode fields(List<JsonNode> lists) {
    var byName = new LinkedHashMap<String, List<JsonNode>>();
    for (JsonNode list : lists) {
      for (JsonNode field : list) {
        if (field.path("name").isString()) {
          byName
              .computeIfAbsent(field.path("name").stringValue(), k -> new java.util.ArrayList<>())
              .add(field);
        }
      }
    }
    ArrayNode all = CanonicalJson.MAPPER.createArrayNode();
    for (Map.Entry<String, List<JsonNode>> column : byName.entrySet()) {
      ObjectNode field = all.addObject();
      field.put("name", column.getKey());
      for (String member : List.of("type", "description")) {
        column.getValue().stream()
            .map(node -> node.path(member))
            .filter(JsonNode::isString)
            .findFirst()
            .ifPresent(value -> field.set(member, value));
      }
      ArrayNode nested =
          fields(column.getValue().stream().map(node -> node.path("fields")).toList());
      if (!nested.isEmpty()) {
        field.set("fields", nested);
      }
    }
    return all;
  }
}
