package longthread.core.compare;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;

/** How the columns of a dataset differ between two schemas. */
public final class SchemaDifference {
  /** What happened to a column. */
  public enum What {
    ADDED,
    REMOVED,
    RENAMED,
    RETYPED;

    public String word() {
      return name().toLowerCase(java.util.Locale.ROOT);
    }
  }

  /**
   * A column that is different.
   *
   * @param name its name now; of one that was removed, its name then
   * @param before its name then of one that was renamed, else its type then; null if it had none
   * @param after its type now; null if it has none
   */
  public record Column(String name, What what, @Nullable String before, @Nullable String after) {}

  private SchemaDifference() {}

  /** The types of a schema facet's columns by their paths, nested ones behind their struct. */
  public static Map<String, String> columns(JsonNode schema) {
    var columns = new LinkedHashMap<String, String>();
    add(schema.path("fields"), "", columns);
    return columns;
  }

  private static void add(JsonNode fields, String before, Map<String, String> columns) {
    for (JsonNode field : fields) {
      String path = before + field.path("name").stringValue("");
      columns.put(path, field.path("type").stringValue(""));
      add(field.path("fields"), path + ".", columns);
    }
  }

  /**
   * Returns what is different, in the order of the later schema, removed columns last.
   *
   * <p>A column that is gone and a new one that stands at the same place, between the same
   * neighbours or ends, with the same type, are one column that was renamed.
   *
   * @param before types by column in the order of the schema; an empty type is one not reported
   */
  public static List<Column> of(Map<String, String> before, Map<String, String> after) {
    List<String> then = List.copyOf(before.keySet());
    List<String> now = List.copyOf(after.keySet());
    var different = new ArrayList<Column>();
    var renamed = new ArrayList<String>();
    for (int at = 0; at < now.size(); at++) {
      String name = now.get(at);
      String type = Objects.requireNonNull(after.get(name));
      if (before.containsKey(name)) {
        String old = Objects.requireNonNull(before.get(name));
        if (!old.equalsIgnoreCase(type)) {
          different.add(new Column(name, What.RETYPED, text(old), text(type)));
        }
        continue;
      }
      String old = at < then.size() ? then.get(at) : null;
      boolean samePlace =
          old != null
              && !after.containsKey(old)
              && !renamed.contains(old)
              && type.equalsIgnoreCase(before.get(old))
              && then.size() == now.size();
      if (samePlace) {
        renamed.add(old);
        different.add(new Column(name, What.RENAMED, old, text(type)));
      } else {
        different.add(new Column(name, What.ADDED, null, text(type)));
      }
    }
    for (String name : then) {
      if (!after.containsKey(name) && !renamed.contains(name)) {
        different.add(new Column(name, What.REMOVED, text(before.get(name)), null));
      }
    }
    return different;
  }

  private static @Nullable String text(@Nullable String type) {
    return type == null || type.isEmpty() ? null : type;
  }
}
