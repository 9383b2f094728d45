package longthread.service.statements;

import java.time.DateTimeException;
import java.time.LocalDate;
import java.time.OffsetDateTime;
import java.time.ZoneOffset;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.UUID;
import java.util.function.UnaryOperator;
import longthread.core.asset.Kind;
import longthread.core.json.CanonicalJson;
import longthread.service.live.Glossary;
import longthread.service.live.LabelScheme;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Component;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/** Turns what a person asks for of labels into changes of a statement. */
@Component
class LabelRequests {
  private static final List<String> KINDS =
      Arrays.stream(Kind.values()).filter(Kind::isReported).map(Kind::word).toList();
  private static final int ID_LENGTH = 16;

  private final LabelScheme scheme;
  private final Glossary glossary;

  LabelRequests(LabelScheme scheme, Glossary glossary) {
    this.scheme = scheme;
    this.glossary = glossary;
  }

  /**
   * The change that a request stands for.
   *
   * @param reference turns a short name into a whole one
   */
  ObjectNode change(String set, ObjectNode change, UnaryOperator<String> reference) {
    if (set.equals("label")) {
      return label(change);
    }
    if (!(change.path("value") instanceof ObjectNode value)) {
      return withId(change, null);
    }
    if (value.has("label")) {
      value.put("label", scheme.named(value.path("label").stringValue("")).id());
    }
    if (value.path("at").isString()) {
      value.put("at", reference.apply(value.path("at").stringValue("")));
    }
    lower(value, "kinds");
    for (JsonNode kind : value.path("kinds")) {
      if (!KINDS.contains(kind.stringValue(""))) {
        throw ProblemException.badRequest(
            "unknown-word",
            "'" + kind.stringValue("") + "' is no kind; use " + String.join(", ", KINDS));
      }
    }
    day(value, "review");
    day(value, "until");
    terms(value);
    return withId(
        change,
        switch (set) {
          case "label-stop", "leak-accepted" -> text(value, "label") + " " + text(value, "at");
          case "label-mask" -> text(value, "label") + " " + text(value, "role");
          default -> null;
        });
  }

  private static String text(JsonNode value, String member) {
    return value.path(member).stringValue("");
  }

  /** What is said once of one thing has an id that follows from it; all else gets a new one. */
  private static ObjectNode withId(ObjectNode change, @Nullable String about) {
    if (!change.path("id").isString()) {
      String id =
          about == null
              ? UUID.randomUUID().toString()
              : about.substring(0, about.indexOf(' '))
                  + "-"
                  + CanonicalJson.digest(about).substring(0, ID_LENGTH);
      change.put("id", id);
    }
    return change;
  }

  private ObjectNode label(ObjectNode change) {
    String title = change.path("value").path("title").stringValue("");
    String given = change.path("id").stringValue(title).strip().toLowerCase(Locale.ROOT);
    String id = given.replaceAll("[^\\p{L}\\p{N}]+", "-").replaceAll("^-|-$", "");
    change.put("id", id);
    if (change.path("value") instanceof ObjectNode value
        && !value.path("retired").asBoolean(false)) {
      lower(value, "words");
      checkWords(id, value);
    }
    return change;
  }

  private void checkWords(String id, JsonNode value) {
    for (LabelScheme.Label other : scheme.all()) {
      for (JsonNode word : value.path("words")) {
        if (!other.id().equals(id) && other.isMeantBy(word.stringValue(""))) {
          throw ProblemException.badRequest(
              "word-in-use",
              "the tag '"
                  + word.stringValue("")
                  + "' sets the label '"
                  + other.id()
                  + "' already; a tag sets one label");
        }
      }
    }
  }

  private static void lower(ObjectNode value, String member) {
    if (value.path(member) instanceof ArrayNode words) {
      ArrayNode small = CanonicalJson.MAPPER.createArrayNode();
      words.forEach(word -> small.add(word.stringValue("").strip().toLowerCase(Locale.ROOT)));
      value.set(member, small);
    }
  }

  private static void day(ObjectNode value, String member) {
    String given = text(value, member);
    if (!given.isEmpty()) {
      value.put(member, endOf(given));
    }
  }

  /** A day, which counts to its end in UTC, or a time as it is. */
  static String endOf(String until) {
    try {
      return until.length() == 10
          ? "" + LocalDate.parse(until).plusDays(1).atStartOfDay().toInstant(ZoneOffset.UTC)
          : "" + OffsetDateTime.parse(until).toInstant();
    } catch (DateTimeException e) {
      throw ProblemException.badRequest(
          "bad-change", "'" + until + "' is no day (2027-03-31) and no time with an offset");
    }
  }

  private void terms(ObjectNode value) {
    if (value.path("terms") instanceof ArrayNode words) {
      ArrayNode ids = CanonicalJson.MAPPER.createArrayNode();
      for (JsonNode word : words) {
        ids.add(
            glossary
                .find(word.stringValue(""))
                .orElseThrow(
                    () ->
                        ProblemException.badRequest(
                            "unknown-term",
                            "the glossary has no term '"
                                + word.stringValue("")
                                + "'; GET /api/v1/terms lists them"))
                .id());
      }
      value.set("terms", ids);
    }
  }
}
