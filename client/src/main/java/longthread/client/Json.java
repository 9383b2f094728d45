package longthread.client;

import java.time.Instant;
import java.util.ArrayList;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;

/** Values of answers as people read them. */
final class Json {
  private Json() {}

  static String time(JsonNode at) {
    return at.isString() ? Printer.time(Instant.parse(at.stringValue())) : "-";
  }

  static String text(JsonNode value) {
    return value.isString() ? value.stringValue() : "-";
  }

  static String number(JsonNode value) {
    return value.isNumber() ? value.toString() : "not known";
  }

  static String owners(JsonNode owners) {
    var names = new ArrayList<String>();
    for (JsonNode owner : owners) {
      String address = owner.path("address").stringValue("");
      String name = owner.path("name").stringValue("");
      names.add(address.isEmpty() ? name : name + " <" + address + ">");
    }
    return names.isEmpty() ? "-" : String.join(", ", names);
  }

  static String words(JsonNode list) {
    var words = new ArrayList<String>();
    list.forEach(word -> words.add(word.stringValue("")));
    return String.join(", ", words);
  }

  /** A day as its end in UTC, or a time as it is. */
  static @Nullable String until(@Nullable String day) {
    return day != null && day.length() == 10 ? day + "T23:59:59Z" : day;
  }
}
