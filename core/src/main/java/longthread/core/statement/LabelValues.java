package longthread.core.statement;

import java.util.List;
import longthread.core.label.ColumnRule;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;

/** Checks what people state of labels: what each is, where it may be, where it ends. */
final class LabelValues {
  /** How careful one has to be with a label at most. */
  private static final int MAX_LEVEL = 4;

  private static final List<String> TRAVELS =
      List.of("overAggregation", "overConditional", "overMasks");
  private static final List<String> CONDITIONS =
      List.of("kinds", "systems", "workspaces", "audience", "locations");

  private final StatementReader reader;

  LabelValues(StatementReader reader) {
    this.reader = reader;
  }

  void label(String at, JsonNode value) {
    reader.only(
        at,
        value,
        List.of(
            "title",
            "category",
            "level",
            "definition",
            "words",
            "overAggregation",
            "overConditional",
            "overMasks",
            "retired"));
    reader.text(at + "/title", value.path("title"), StatementReader.MAX_ID);
    optional(at, value, "category", StatementReader.MAX_ID);
    optional(at, value, "definition", StatementReader.MAX_TEXT);
    if (value.has("words")) {
      reader.texts(at + "/words", value.path("words"));
    }
    int level = value.path("level").intValue(1);
    if (value.has("level") && (!value.path("level").isInt() || level < 1 || level > MAX_LEVEL)) {
      reader.fault(at + "/level", "give a whole number from 1 to " + MAX_LEVEL);
    }
    TRAVELS.forEach(member -> yesOrNo(at, value, member));
    yesOrNo(at, value, "retired");
  }

  void rule(String at, JsonNode value) {
    reader.only(
        at, value, List.of("label", "names", "except", "types", "terms", "systems", "note"));
    labelled(at, value);
    for (String list : List.of("names", "except", "types", "terms", "systems")) {
      if (value.has(list)) {
        reader.texts(at + "/" + list, value.path(list));
      }
    }
    optional(at, value, "note", StatementReader.MAX_NOTICE);
    try {
      ColumnRule.of(
          texts(value, "names"),
          texts(value, "except"),
          texts(value, "types"),
          texts(value, "terms"),
          texts(value, "systems"));
    } catch (IllegalArgumentException e) {
      reader.fault(at, String.valueOf(e.getMessage()));
    }
  }

  void stop(String at, JsonNode value) {
    reader.only(at, value, List.of("label", "at", "reason", "review"));
    labelled(at, value);
    reader.reference(at + "/at", value.path("at"));
    reader.text(at + "/reason", value.path("reason"), StatementReader.MAX_NOTICE);
    reader.time(at + "/review", value.path("review"));
  }

  void policy(String at, JsonNode value) {
    reader.only(
        at,
        value,
        List.of(
            "label", "allowed", "kinds", "systems", "workspaces", "audience", "locations", "note"));
    labelled(at, value);
    if (!value.path("allowed").isBoolean()) {
      reader.fault(at + "/allowed", "give true if the label may be there, else false");
    }
    for (String list : CONDITIONS) {
      if (value.has(list)) {
        reader.texts(at + "/" + list, value.path(list));
      }
    }
    if (CONDITIONS.stream().allMatch(list -> value.path(list).isEmpty())) {
      reader.fault(at, "the policy has no condition; give " + String.join(", ", CONDITIONS));
    }
    optional(at, value, "note", StatementReader.MAX_NOTICE);
  }

  void mask(String at, JsonNode value) {
    reader.only(at, value, List.of("label", "role", "shown"));
    labelled(at, value);
    oneOf(at + "/role", value.path("role"), StatementReader.MASKED_ROLES);
    oneOf(at + "/shown", value.path("shown"), StatementReader.MASKS);
  }

  void accepted(String at, JsonNode value) {
    reader.only(at, value, List.of("label", "at", "reason", "until"));
    labelled(at, value);
    reader.reference(at + "/at", value.path("at"));
    reader.text(at + "/reason", value.path("reason"), StatementReader.MAX_NOTICE);
    reader.time(at + "/until", value.path("until"));
  }

  private void labelled(String at, JsonNode value) {
    reader.text(at + "/label", value.path("label"), StatementReader.MAX_ID);
  }

  private void optional(String at, JsonNode value, String member, int longest) {
    if (value.has(member)) {
      reader.text(at + "/" + member, value.path(member), longest);
    }
  }

  private void yesOrNo(String at, JsonNode value, String member) {
    if (value.has(member) && !value.path(member).isBoolean()) {
      reader.fault(at + "/" + member, "give true or false");
    }
  }

  private void oneOf(String at, JsonNode word, List<String> words) {
    if (!words.contains(word.stringValue(""))) {
      reader.fault(at, "'" + word.stringValue("") + "' is not one of " + String.join(", ", words));
    }
  }

  private static List<String> texts(@Nullable JsonNode value, String member) {
    return value == null
        ? List.of()
        : value.path(member).valueStream().map(text -> text.stringValue("")).toList();
  }
}
