package longthread.client;

import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Option;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/** What every command that sets something by hand shares. */
abstract class Stating extends Output {
  @Option(
      names = "--reason",
      paramLabel = "TEXT",
      description = "Why, in your own words; kept with the statement.")
  String reason = "";

  @Option(names = "--dry-run", description = "Print what would change; change nothing.")
  boolean dryRun;

  /** Makes changes in one statement and prints what became of them. */
  int state(ArrayNode changes) {
    ObjectNode body = ServiceClient.MAPPER.createObjectNode();
    body.put("reason", reason).set("changes", changes);
    JsonNode answer =
        service()
            .state(
                "/api/v1/statements",
                parameters(),
                "application/json",
                body.toString().getBytes(StandardCharsets.UTF_8));
    return printStated(answer);
  }

  Map<String, @Nullable Object> parameters() {
    var parameters = new TreeMap<String, @Nullable Object>();
    parameters.put("dryRun", dryRun ? "true" : null);
    return parameters;
  }

  /** Prints what a statement changed; conflicts make it a finding, exit code 1. */
  int printStated(JsonNode answer) {
    if (json) {
      printJson(answer);
    } else {
      print(this, answer);
    }
    return answer.path("conflicts").isEmpty() ? 0 : ServiceException.FINDING;
  }

  static void print(Output out, JsonNode answer) {
    boolean dry = answer.path("dryRun").booleanValue(false);
    if (!answer.path("changes").isEmpty()) {
      var table = new Table("OF", "WHAT", "BEFORE", "AFTER");
      for (JsonNode change : answer.path("changes")) {
        table.row(
            change.path("of").stringValue(""),
            change.path("what").stringValue(""),
            value(change.path("before")),
            value(change.path("after")));
      }
      out.print(table);
    }
    for (JsonNode conflict : answer.path("conflicts")) {
      out.note(
          "conflict: "
              + conflict.path("what").stringValue("")
              + " of "
              + conflict.path("of").stringValue("")
              + " is "
              + value(conflict.path("found"))
              + " now; it was left as it is");
    }
    for (JsonNode added : answer.path("newNames")) {
      String closest = added.path("closest").stringValue("");
      out.note(
          "'"
              + added.path("ref").stringValue("")
              + "' is new to the catalog: '"
              + added.path("name").stringValue("")
              + "' of '"
              + added.path("namespace").stringValue("")
              + "'"
              + (closest.isEmpty() ? "" : "; the closest known name is " + closest));
    }
    int count = answer.path("changes").size();
    String changes = count + (count == 1 ? " change" : " changes");
    String id = answer.path("id").stringValue("");
    if (count == 0) {
      out.out().println("Nothing changed.");
    } else if (dry) {
      out.out().println(changes + " would be made; nothing was changed.");
    } else {
      out.out()
          .println(
              changes
                  + " made. To take "
                  + (count == 1 ? "it" : "them")
                  + " back: longthread edit undo "
                  + id);
    }
  }

  /** A value in few words: a list, a text, or an object's members. */
  static String value(JsonNode value) {
    if (value.isMissingNode() || value.isNull()) {
      return "-";
    }
    if (value.isArray()) {
      var words = new java.util.ArrayList<String>();
      value.forEach(word -> words.add(value(word)));
      return String.join(", ", words);
    }
    if (value.isObject()) {
      var words = new java.util.ArrayList<String>();
      value.properties().stream()
          .filter(member -> !member.getValue().isArray() || !member.getValue().isEmpty())
          .forEach(member -> words.add(member.getKey() + ": " + value(member.getValue())));
      return String.join("; ", words);
    }
    return value.asString("");
  }

  static ObjectNode change(ArrayNode changes, String set) {
    return changes.addObject().put("set", set);
  }

  static ArrayNode changes() {
    return ServiceClient.MAPPER.createArrayNode();
  }

  static void texts(ObjectNode node, String member, List<String> values) {
    ArrayNode list = node.putArray(member);
    values.forEach(list::add);
  }

  /** Wrong usage, with what to do. */
  RuntimeException wrong(String message) {
    return new picocli.CommandLine.ParameterException(spec.commandLine(), message);
  }
}
