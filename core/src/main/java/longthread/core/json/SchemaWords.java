package longthread.core.json;

import com.networknt.schema.Error;
import com.networknt.schema.path.NodePath;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Collectors;
import tools.jackson.databind.JsonNode;

/**
 * What is wrong with a place of a document, in words for those who write it.
 *
 * @see "JSON Schema Validation draft 2020-12, 6"
 */
public final class SchemaWords {
  private static final int SHOWN = 60; // characters of a value

  private SchemaWords() {}

  /**
   * Says what is wrong, without the place.
   *
   * @param schema the whole schema, of which known names are taken
   */
  public static String of(Error error, JsonNode schema) {
    JsonNode value = error.getInstanceNode();
    JsonNode wanted = error.getSchemaNode();
    return switch (String.valueOf(error.getKeyword())) {
      case "enum" -> quoted(value) + " is not known here; it is one of " + listed(wanted);
      case "const" -> quoted(value) + " is not known here; it is " + quoted(wanted);
      case "additionalProperties", "unevaluatedProperties" ->
          "'" + error.getProperty() + "' is not known here" + known(error, schema);
      case "required" -> "'" + error.getProperty() + "' is missing";
      case "type" ->
          value == null || value.isNull()
              ? "it is empty; " + wantedType(wanted) + " is expected"
              : quoted(value) + " is " + type(value) + "; " + wantedType(wanted) + " is expected";
      case "minLength", "minItems", "minProperties" ->
          wanted.intValue(0) == 1
              ? "it is empty"
              : "it is too short; " + wanted.intValue(0) + " at least are needed";
      case "maxLength", "maxItems", "maxProperties" ->
          "it is too long; " + wanted.intValue(0) + " at most are taken";
      case "format" -> quoted(value) + " is no " + format(wanted.stringValue(""));
      default -> String.valueOf(error.getMessage());
    };
  }

  private static String format(String format) {
    return switch (format) {
      case "date" -> "day as 2031-05-31";
      case "date-time" -> "time with an offset, as 2031-05-31T06:00:00+02:00";
      case "uri" -> "address";
      default -> format;
    };
  }

  private static String known(Error error, JsonNode schema) {
    NodePath keyword = error.getSchemaLocation().getFragment();
    JsonNode at = schema;
    for (int i = 0; i < keyword.getNameCount() - 1; i++) {
      Object step = keyword.getElement(i);
      at = step instanceof Integer place ? at.path(place) : at.path(String.valueOf(step));
    }
    var names = new ArrayList<>(at.path("properties").propertyNames());
    return names.isEmpty() ? "" : "; there are " + String.join(", ", names);
  }

  private static String quoted(JsonNode value) {
    if (value == null || value.isNull()) {
      return "nothing";
    }
    String text = value.isString() ? value.stringValue() : value.toString();
    return "'" + (text.length() > SHOWN ? text.substring(0, SHOWN) + "…" : text) + "'";
  }

  private static String listed(JsonNode values) {
    return values
        .valueStream()
        .map(value -> value.isString() ? value.stringValue() : value.toString())
        .collect(Collectors.joining(", "));
  }

  private static String type(JsonNode value) {
    if (value.isObject()) {
      return "a set of names and values";
    }
    if (value.isArray()) {
      return "a list";
    }
    if (value.isBoolean()) {
      return "true or false";
    }
    return value.isNumber() ? "a number" : "text";
  }

  private static String wantedType(JsonNode wanted) {
    List<String> names =
        wanted.isArray()
            ? wanted.valueStream().map(one -> one.stringValue("")).toList()
            : List.of(wanted.stringValue(""));
    return names.stream()
        .map(
            name ->
                switch (name) {
                  case "object" -> "a set of names and values";
                  case "array" -> "a list";
                  case "string" -> "text";
                  case "boolean" -> "true or false";
                  case "integer" -> "a whole number";
                  case "number" -> "a number";
                  default -> "nothing";
                })
        .collect(Collectors.joining(" or "));
  }
}
