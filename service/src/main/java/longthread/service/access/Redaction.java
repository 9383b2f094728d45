package longthread.service.access;

import java.net.URLDecoder;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import longthread.service.live.Catalog;
import longthread.service.live.Sight;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Component;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.BooleanNode;
import tools.jackson.databind.node.IntNode;
import tools.jackson.databind.node.ObjectNode;
import tools.jackson.databind.node.StringNode;

/**
 * Takes out of an answer what its caller may not see, last of all: every reference to something
 * hidden becomes its alias, and an object that is about it keeps nothing but what a node of a graph
 * needs. It holds for every answer in the same way, whatever capability made it.
 */
@Component
class Redaction {
  /** Members whose words are of a closed list, and say nothing of the asset itself. */
  private static final Set<String> CLOSED =
      Set.of(
          "verdict",
          "certainty",
          "side",
          "flow",
          "how",
          "flows",
          "basis",
          "change",
          "what",
          "state",
          "level",
          "at",
          "since",
          "layer",
          "type",
          "status");

  private static final String NOT_SHOWN = "(not shown: it may name what you may not see)";

  /** Members of numbers and flags that the shape of an answer needs. */
  private static final Set<String> SHAPE =
      Set.of("hops", "masking", "score", "holds", "described", "total");

  /** Members with lists that stay, each with its own objects looked at. */
  private static final Set<String> LISTS = Set.of("verdicts", "thread", "flows");

  /** Members with sentences, which may say anything. */
  private static final Set<String> SENTENCES =
      Set.of(
          "reason",
          "evidence",
          "error",
          "message",
          "detail",
          "text",
          "missing",
          "toConfirm",
          "toRuleOut",
          "proposedNotice",
          "gap",
          "note",
          "explanation");

  /**
   * Members with texts that a program wrote as it liked: an error may hold a key's value, a check
   * the SQL of a hidden table. No list of names finds all that such a text can say, so whoever sees
   * a part only gets a sentence that says what sort of text there is.
   */
  private static final Map<String, String> PROGRAM_TEXTS =
      Map.of(
          "error", "The program reported an error; its text may name what you may not see.",
          "stackTrace", "The program reported where it failed.",
          "expected", NOT_SHOWN,
          "actual", NOT_SHOWN,
          "content", NOT_SHOWN,
          "calculation", NOT_SHOWN,
          "expression", NOT_SHOWN);

  /**
   * Members with texts that people write about what they may change. They stay as they were written
   * on what is seen: whoever writes there could else try which hidden names there are.
   */
  private static final Set<String> WRITTEN = Set.of("description", "definition", "title", "text");

  private static final Pattern WORD = Pattern.compile("[a-z]+(-[a-z]+)*");
  private static final Pattern TOKEN = Pattern.compile("[^\\s\"'`,;()\\[\\]{}<>|]+");
  private static final Pattern LINKED = Pattern.compile("([?&](?:ref|from|to)=)([^&]+)");
  private static final int MIN_NAME = 4; // shorter names are words of any sentence

  private final Catalog catalog;

  Redaction(Catalog catalog) {
    this.catalog = catalog;
  }

  /** An answer as its caller may see it; it is changed in place. */
  JsonNode redact(JsonNode answer) {
    return new Answer(Sight.now()).node(answer, "", false);
  }

  /** A cell or line of a file as its caller may see it; files have names, but no sentences. */
  String redact(String text) {
    return new Answer(Sight.now()).text(text, false);
  }

  private final class Answer {
    private final Sight sight;
    private @Nullable Pattern names;

    Answer(Sight sight) {
      this.sight = sight;
    }

    /** Finds the names of all that was looked up for the answer and is hidden. */
    private Pattern names() {
      Pattern known = names;
      if (known == null) {
        known = hiddenNames();
        names = known;
      }
      return known;
    }

    private Pattern hiddenNames() {
      List<String> hidden =
          sight.hiddenNames().stream()
              .filter(name -> name.length() >= MIN_NAME && !name.equals(Sight.RESTRICTED))
              .sorted(Comparator.comparing(String::length).reversed())
              .toList();
      return hidden.isEmpty()
          ? Pattern.compile("(?!)")
          : Pattern.compile(
              hidden.stream()
                  .map(Pattern::quote)
                  .collect(Collectors.joining("|", "(?<![\\w])(?:", ")(?![\\w])")));
    }

    /**
     * @param about whether it belongs to an object that is about something hidden
     */
    JsonNode node(JsonNode node, String member, boolean about) {
      if (node instanceof ObjectNode object) {
        return object(object, about);
      }
      if (node instanceof ArrayNode array) {
        return array(array, member, about);
      }
      boolean stays =
          !node.isString()
              || (about && CLOSED.contains(member))
              || (!about && WRITTEN.contains(member));
      return stays ? node : string(node, node.stringValue(), member, about);
    }

    private JsonNode string(JsonNode node, String text, String member, boolean about) {
      String seen = about && !isReference(text) ? withheld(member) : text(text, isSentence(member));
      return seen.equals(text) ? node : StringNode.valueOf(seen);
    }

    private String withheld(String member) {
      boolean isNamed =
          member.equals("name")
              || member.equals("kind")
              || member.equals("system")
              || member.endsWith("Name");
      return isNamed ? Sight.RESTRICTED : "";
    }

    private boolean isSentence(String member) {
      return SENTENCES.contains(member);
    }

    private JsonNode array(ArrayNode array, String member, boolean about) {
      if (about && !LISTS.contains(member)) {
        array.removeAll();
        return array;
      }
      for (int i = 0; i < array.size(); i++) {
        JsonNode item = array.get(i);
        // The hops of a thread to something hidden are judged each by itself.
        boolean isRow = item.isArray() && member.equals("rows"); // values of a preview
        array.set(i, isRow ? item : node(item, member, about && !item.isObject()));
      }
      return array;
    }

    private JsonNode object(ObjectNode object, boolean inherited) {
      boolean isNode = object.has("kind") || object.has("name");
      boolean about = inherited || (isNode && isHidden(object.path("ref")));
      boolean touches = about;
      for (Map.Entry<String, JsonNode> member : object.properties()) {
        // A constant is of its column, whichever job sets it.
        boolean isMaker = member.getKey().equals("by") && object.has("text");
        touches |= !isMaker && isHidden(member.getValue());
      }
      var hiddenKeys = new ArrayList<String>();
      for (String name : List.copyOf(object.propertyNames())) {
        JsonNode value = object.get(name);
        if (isHiddenReference(name)) {
          hiddenKeys.add(name);
        }
        object.set(name, member(object, name, value, about, touches));
      }
      hiddenKeys.forEach(name -> object.set(sight.alias(name), object.remove(name)));
      return object;
    }

    private JsonNode member(
        ObjectNode object, String name, JsonNode value, boolean about, boolean touches) {
      if (value.isString() && !value.stringValue().isEmpty() && PROGRAM_TEXTS.containsKey(name)) {
        return StringNode.valueOf(about ? "" : PROGRAM_TEXTS.get(name));
      }
      if (name.equals("facets") && value.isArray()) {
        value.forEach(Answer::withoutValue);
      }
      if (value.isNumber() || value.isBoolean()) {
        return !about || SHAPE.contains(name) ? value : nothing(value);
      }
      if (name.endsWith("Name") && isAlias(object.path(name.substring(0, name.length() - 4)))) {
        return StringNode.valueOf(Sight.RESTRICTED);
      }
      if (name.equals("column")
          && (isAlias(object.path("ref")) || isAlias(object.path("dataset")))) {
        return StringNode.valueOf(about ? "" : Sight.RESTRICTED);
      }
      if (!about && touches && value.isString() && isSentence(name)) {
        boolean isWord = name.equals("evidence") && WORD.matcher(value.stringValue()).matches();
        return isWord ? value : StringNode.valueOf(Sight.RESTRICTED);
      }
      return node(value, name, about);
    }

    /** A facet as it was sent may hold anything: names of other datasets, texts, values. */
    private static void withoutValue(JsonNode facet) {
      if (facet instanceof ObjectNode raw && raw.has("value")) {
        raw.set("value", StringNode.valueOf(NOT_SHOWN));
      }
    }

    private boolean isAlias(JsonNode value) {
      return value.isString()
          && (Sight.isAlias(value.stringValue()) || isHiddenReference(value.stringValue()));
    }

    private JsonNode nothing(JsonNode value) {
      return value.isNumber() ? IntNode.valueOf(0) : BooleanNode.FALSE;
    }

    private boolean isHidden(JsonNode value) {
      return value.isString() && isHiddenReference(value.stringValue());
    }

    /** Whether a text is a reference to something hidden, or to a column of it. */
    private boolean isHiddenReference(String text) {
      if (text.indexOf('/') < 0) {
        return false;
      }
      int hash = text.indexOf('#');
      return !catalog.isSeen(hash < 0 ? text : text.substring(0, hash));
    }

    private boolean isReference(String text) {
      return Sight.isAlias(text)
          || (text.indexOf('/') > 0 && catalog.known(assetOf(text)).isPresent());
    }

    private String assetOf(String text) {
      int hash = text.indexOf('#');
      return hash < 0 ? text : text.substring(0, hash);
    }

    /** A text with every reference to something hidden replaced, and in sentences its names too. */
    String text(String text, boolean isSentence) {
      if (isHiddenReference(text)) {
        return sight.alias(text);
      }
      String seen = text;
      if (seen.indexOf('/') >= 0 || seen.indexOf('%') >= 0) {
        seen = TOKEN.matcher(seen).replaceAll(m -> Matcher.quoteReplacement(token(m.group())));
      }
      return isSentence ? sentence(seen) : seen;
    }

    /** What a program reports, such as an error, may name a table in its own short way. */
    private String sentence(String text) {
      String named = names().matcher(text).replaceAll(Sight.RESTRICTED);
      return TOKEN
          .matcher(named)
          .replaceAll(
              m -> Matcher.quoteReplacement(isShortName(m.group()) ? Sight.RESTRICTED : m.group()));
    }

    private boolean isShortName(String token) {
      String bare = token.substring(0, endOfName(token));
      return bare.length() >= MIN_NAME
          && !Sight.isAlias(bare)
          && catalog.meansOnlyHidden(assetOf(bare));
    }

    /** Where a name ends that stands at the end of a sentence. */
    private int endOfName(String token) {
      int end = token.length();
      while (end > 0 && ".:!?".indexOf(token.charAt(end - 1)) >= 0) {
        end--;
      }
      return end;
    }

    private String token(String token) {
      int end = endOfName(token);
      String bare = token.substring(0, end);
      if (isHiddenReference(bare)) {
        return sight.alias(bare) + token.substring(end);
      }
      return LINKED
          .matcher(token)
          .replaceAll(
              m -> {
                String linked = decoded(m.group(2));
                return Matcher.quoteReplacement(
                    isHiddenReference(linked) ? m.group(1) + sight.alias(linked) : m.group());
              });
    }

    private String decoded(String text) {
      try {
        return URLDecoder.decode(text, StandardCharsets.UTF_8);
      } catch (IllegalArgumentException e) {
        return text;
      }
    }
  }
}
