package longthread.core.workspace;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.TreeSet;
import longthread.core.json.CanonicalJson;
import longthread.core.workspace.WorkspaceDescription.Item;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;

/**
 * One thing in which two descriptions of a workspace differ.
 *
 * @param what {@code kind/id} of an item, {@code connection/id}, {@code relay/id} or {@code
 *     workspace}
 * @param title of the item, the newer one if it has two
 * @param change added, removed or changed
 * @param members what changed of it; empty unless it changed
 */
public record WorkspaceDifference(
    String what, String title, String change, List<ChangedMember> members) {
  /**
   * A member with other values, as texts; what is no text as its JSON. A field of an item is a
   * member of its own, as {@code fields/name}.
   *
   * @param before null if it was not there
   * @param after null if it is no longer there
   */
  public record ChangedMember(String name, @Nullable String before, @Nullable String after) {}

  /**
   * Returns how the newer content differs, in the order of the newer one and what is gone last; in
   * time linear in the length of both.
   */
  public static List<WorkspaceDifference> between(JsonNode before, JsonNode after) {
    Map<String, JsonNode> then = parts(before);
    Map<String, JsonNode> now = parts(after);
    var differences = new ArrayList<WorkspaceDifference>();
    now.forEach(
        (what, node) -> {
          JsonNode old = then.get(what);
          if (old == null) {
            differences.add(new WorkspaceDifference(what, title(node), "added", List.of()));
          } else {
            List<ChangedMember> members = members(old, node);
            if (!members.isEmpty()) {
              differences.add(new WorkspaceDifference(what, title(node), "changed", members));
            }
          }
        });
    then.forEach(
        (what, node) -> {
          if (!now.containsKey(what)) {
            differences.add(new WorkspaceDifference(what, title(node), "removed", List.of()));
          }
        });
    return differences;
  }

  private static Map<String, JsonNode> parts(JsonNode content) {
    var parts = new LinkedHashMap<String, JsonNode>();
    if (content.has("workspace")) {
      parts.put("workspace", content.path("workspace"));
    }
    for (String list : List.of("relays", "connections")) {
      for (JsonNode node : content.path(list)) {
        String kind = list.substring(0, list.length() - 1);
        parts.put(kind + "/" + node.path("id").stringValue(""), node);
      }
    }
    for (Item item : WorkspaceDescription.items(content)) {
      parts.put(item.word(), item.node());
    }
    return parts;
  }

  private static String title(JsonNode node) {
    return node.path("title").stringValue("");
  }

  private static List<ChangedMember> members(JsonNode before, JsonNode after) {
    Map<String, JsonNode> then = flat(before);
    Map<String, JsonNode> now = flat(after);
    var names = new TreeSet<>(then.keySet());
    names.addAll(now.keySet());
    var members = new ArrayList<ChangedMember>();
    for (String name : names) {
      String old = words(then.get(name));
      String young = words(now.get(name));
      if (!Objects.equals(old, young)) {
        members.add(new ChangedMember(name, old, young));
      }
    }
    return members;
  }

  private static @Nullable String words(@Nullable JsonNode node) {
    if (node == null) {
      return null;
    }
    return node.isString() ? node.stringValue() : CanonicalJson.text(node);
  }

  private static Map<String, JsonNode> flat(JsonNode node) {
    var members = new LinkedHashMap<String, JsonNode>();
    node.properties()
        .forEach(
            member -> {
              if (member.getKey().equals("fields")) {
                for (JsonNode field : member.getValue()) {
                  String name = field.path("name").stringValue(field.path("field").stringValue(""));
                  members.put("fields/" + name, field);
                }
              } else {
                members.put(member.getKey(), member.getValue());
              }
            });
    return members;
  }
}
