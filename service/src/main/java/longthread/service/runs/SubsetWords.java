package longthread.service.runs;

import java.util.ArrayList;
import java.util.List;
import tools.jackson.databind.JsonNode;

/** The condition of an input or output subset in words: which part of a dataset a run touched. */
final class SubsetWords {
  private static final int MAX_NAMED = 12;
  private static final int DEEPEST = 20;

  private SubsetWords() {}

  static String of(JsonNode condition) {
    return words(condition, 0);
  }

  private static String words(JsonNode condition, int depth) {
    if (depth > DEEPEST) {
      return "…";
    }
    return switch (condition.path("type").stringValue("")) {
      case "location" -> "locations " + named(texts(condition.path("locations")));
      case "partition" -> "partitions " + named(partitions(condition.path("partitions")));
      case "compare" ->
          side(condition.path("left"))
              + " "
              + sign(condition.path("comparison").stringValue("?"))
              + " "
              + side(condition.path("right"));
      case "binary" ->
          "("
              + words(condition.path("left"), depth + 1)
              + " "
              + condition.path("operator").stringValue("?").toLowerCase(java.util.Locale.ROOT)
              + " "
              + words(condition.path("right"), depth + 1)
              + ")";
      default -> condition.isMissingNode() ? "a part" : condition.toString();
    };
  }

  private static String side(JsonNode side) {
    if (side.path("field").isString()) {
      return side.path("field").stringValue();
    }
    JsonNode value = side.path("value");
    return value.isString() ? "'" + value.stringValue() + "'" : value.toString();
  }

  private static String sign(String word) {
    return switch (word) {
      case "EQUAL" -> "=";
      case "NOT_EQUAL" -> "<>";
      case "GREATER_THAN" -> ">";
      case "GREATER_EQUAL_THAN" -> ">=";
      case "LESS_THAN" -> "<";
      case "LESS_EQUAL_THAN" -> "<=";
      default -> word;
    };
  }

  private static List<String> texts(JsonNode list) {
    var texts = new ArrayList<String>();
    list.forEach(item -> texts.add(item.stringValue(item.toString())));
    return texts;
  }

  private static List<String> partitions(JsonNode list) {
    var texts = new ArrayList<String>();
    for (JsonNode partition : list) {
      var dimensions = new ArrayList<String>();
      partition
          .path("dimensions")
          .properties()
          .forEach(
              d ->
                  dimensions.add(
                      d.getKey() + "=" + d.getValue().stringValue(d.getValue().toString())));
      texts.add(
          dimensions.isEmpty()
              ? partition.path("identifier").stringValue("?")
              : String.join("/", dimensions));
    }
    return texts;
  }

  private static String named(List<String> names) {
    return names.size() <= MAX_NAMED
        ? String.join(", ", names)
        : String.join(", ", names.subList(0, MAX_NAMED))
            + " and "
            + (names.size() - MAX_NAMED)
            + " more";
  }
}
