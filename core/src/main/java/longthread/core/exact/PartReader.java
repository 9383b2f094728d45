package longthread.core.exact;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.TreeMap;
import longthread.core.exact.Part.Box;
import longthread.core.exact.Part.Range;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;

/**
 * Reads the condition of an input or output subset.
 *
 * <p>A condition of a form that is not understood gives a part that is not exact, never the whole.
 *
 * @see "OpenLineage spec, BaseSubsetDatasetFacet: location, partition, compare, binary"
 */
public final class PartReader {
  private static final int DEEPEST = 30;
  private static final int MAX_BOXES = 2_000;

  /** The field that stands for the address of a file or folder. */
  static final String LOCATION = "(location)";

  /** The field that stands for the name of a partition without fields. */
  static final String PARTITION = "(partition)";

  private PartReader() {}

  /** The part that a condition describes; all of it if there is no condition. */
  public static Part read(@Nullable JsonNode condition) {
    if (condition == null || condition.isMissingNode() || condition.isNull()) {
      return Part.WHOLE;
    }
    Part part = part(condition, 0);
    return part.boxes().size() > MAX_BOXES ? Part.SOMETHING : part;
  }

  private static Part part(JsonNode condition, int depth) {
    if (depth > DEEPEST) {
      return Part.SOMETHING;
    }
    return switch (condition.path("type").stringValue("")) {
      case "location" -> locations(condition.path("locations"));
      case "partition" -> partitions(condition.path("partitions"));
      case "compare" -> comparison(condition);
      case "binary" -> binary(condition, depth);
      default -> Part.SOMETHING;
    };
  }

  private static Part locations(JsonNode locations) {
    var boxes = new ArrayList<Box>();
    for (JsonNode location : locations) {
      boxes.add(Box.of(LOCATION, Range.only(location.stringValue(location.toString()))));
    }
    return boxes.isEmpty() ? Part.SOMETHING : new Part(boxes, true);
  }

  private static Part partitions(JsonNode partitions) {
    var boxes = new ArrayList<Box>();
    for (JsonNode partition : partitions) {
      var fields = new TreeMap<String, Range>();
      partition
          .path("dimensions")
          .properties()
          .forEach(d -> fields.put(field(d.getKey()), Range.only(value(d.getValue()))));
      if (fields.isEmpty()) {
        String name = partition.path("identifier").stringValue("");
        if (name.isEmpty()) {
          return Part.SOMETHING;
        }
        fields.put(PARTITION, Range.only(name));
      }
      boxes.add(new Box(fields));
    }
    return boxes.isEmpty() ? Part.SOMETHING : new Part(boxes, true);
  }

  private static Part comparison(JsonNode condition) {
    JsonNode left = condition.path("left");
    JsonNode right = condition.path("right");
    String sign = condition.path("comparison").stringValue("").toUpperCase(Locale.ROOT);
    if (left.path("value").isValueNode() && right.path("field").isString()) {
      return compare(right.path("field").stringValue(), turned(sign), value(left.path("value")));
    }
    if (left.path("field").isString() && right.path("value").isValueNode()) {
      return compare(left.path("field").stringValue(), sign, value(right.path("value")));
    }
    return Part.SOMETHING;
  }

  private static Part compare(String named, String sign, String value) {
    String field = field(named);
    Range below = new Range(null, false, value, false);
    Range above = new Range(value, false, null, false);
    return switch (sign) {
      case "EQUAL" -> Part.where(field, value);
      case "NOT_EQUAL" -> new Part(List.of(Box.of(field, below), Box.of(field, above)), true);
      case "LESS_THAN" -> Part.where(field, below);
      case "LESS_EQUAL_THAN" -> Part.where(field, new Range(null, false, value, true));
      case "GREATER_THAN" -> Part.where(field, above);
      case "GREATER_EQUAL_THAN" -> Part.where(field, new Range(value, true, null, false));
      default -> Part.SOMETHING;
    };
  }

  private static String turned(String sign) {
    return switch (sign) {
      case "LESS_THAN" -> "GREATER_THAN";
      case "LESS_EQUAL_THAN" -> "GREATER_EQUAL_THAN";
      case "GREATER_THAN" -> "LESS_THAN";
      case "GREATER_EQUAL_THAN" -> "LESS_EQUAL_THAN";
      default -> sign;
    };
  }

  private static Part binary(JsonNode condition, int depth) {
    Part left = part(condition.path("left"), depth + 1);
    Part right = part(condition.path("right"), depth + 1);
    return switch (condition.path("operator").stringValue("").toUpperCase(Locale.ROOT)) {
      case "AND" -> {
        Part both = left.and(right);
        // A condition that nothing fulfils: what the run touched then is not known.
        yield both == null ? Part.SOMETHING : both;
      }
      case "OR" -> left.or(right);
      default -> Part.SOMETHING;
    };
  }

  private static String field(String name) {
    return name.toLowerCase(Locale.ROOT); // stores differ in how they spell the same field
  }

  private static String value(JsonNode value) {
    return value.stringValue(value.toString());
  }
}
