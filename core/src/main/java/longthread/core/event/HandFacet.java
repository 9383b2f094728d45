package longthread.core.event;

import java.util.Map;
import java.util.TreeMap;
import longthread.core.asset.DatasetName;
import longthread.core.json.CanonicalJson;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ObjectNode;

/**
 * The facets that hold what people set. They are facts like all others: of several values of one
 * key the one with the greatest time stands. Each is an object with {@code by}, perhaps {@code
 * reason}, and the {@code value}; without a value it was taken away again.
 */
public final class HandFacet {
  private static final String PREFIX = "hand:";

  public static final String DESCRIPTION = PREFIX + "description";
  public static final String OWNERS = PREFIX + "owners";
  public static final String TAGS = PREFIX + "tags";
  public static final String TERMS = PREFIX + "terms";
  public static final String LINKS = PREFIX + "links";

  /** With another name behind it: what was decided of this name and that one. */
  public static final String JOIN = PREFIX + "join/";

  public static final String LEAD = PREFIX + "lead";

  /** With the id of the record behind it: lineage that a person recorded. */
  public static final String RECORDED = PREFIX + "recorded/";

  /** A glossary term, on the name under which it is registered. */
  public static final String TERM = PREFIX + "term";

  /** A rule by which names are one, on the name under which it is registered. */
  public static final String RULE = PREFIX + "rule";

  /** A notice on an asset, on the name under which it is registered. */
  public static final String NOTICE = PREFIX + "notice";

  /**
   * That a person followed a thread and found it right, on the name that it is registered under.
   */
  public static final String FOLLOWED = PREFIX + "followed";

  /** What a label is and how it travels, on the name under which it is registered. */
  public static final String LABEL = PREFIX + "label";

  /** Which columns get a label by their names, types or terms. */
  public static final String LABEL_RULE = PREFIX + "label-rule";

  /** A place at which a label ends, by a steward. */
  public static final String LABEL_STOP = PREFIX + "label-stop";

  /** Where a label may be, or may not. */
  public static final String LABEL_POLICY = PREFIX + "label-policy";

  /** How much of labelled values a role sees. */
  public static final String LABEL_MASK = PREFIX + "label-mask";

  /** A leak that somebody accepts until a day. */
  public static final String LEAK = PREFIX + "leak-accepted";

  /** Something that the catalog proposed, and that a person declined or set aside. */
  public static final String DISMISSED = PREFIX + "dismissed";

  /**
   * The namespace under which what is no asset is registered; events cannot use it. The first part
   * of a name says what it is: {@code term/…}, {@code rule/…}, {@code dismissed/…}.
   */
  public static final String REGISTER = "longthread.catalog";

  private HandFacet() {}

  /** Whether a facet holds what a person set. */
  public static boolean isHand(String key) {
    return key.startsWith(PREFIX);
  }

  /** Whether a name is no dataset, but what something else is registered under. */
  public static boolean isRegister(DatasetName name) {
    return name.namespace().equals(REGISTER);
  }

  /** Whether a reference is that of a registered name. */
  public static boolean isRegister(String reference) {
    return reference.startsWith(REGISTER + "/");
  }

  /** What a facet holds, in words. */
  public static String words(String key) {
    if (key.startsWith(JOIN)) {
      return "the name " + key.substring(JOIN.length());
    }
    if (key.startsWith(RECORDED)) {
      return "recorded lineage";
    }
    if (key.equals(DISMISSED)) {
      return "set aside";
    }
    if (key.equals(NOTICE)) {
      return "notice";
    }
    if (key.equals(FOLLOWED)) {
      return "followed and found right";
    }
    if (key.equals(TERM) || key.equals(RULE) || key.equals(LABEL)) {
      return "definition";
    }
    if (key.equals(LEAK)) {
      return "accepted leak";
    }
    if (key.startsWith(LABEL + "-")) {
      return key.substring(PREFIX.length()).replace('-', ' ');
    }
    String what = key.substring(PREFIX.length());
    int column = what.indexOf('#');
    return column < 0
        ? what + " by hand"
        : what.substring(0, column) + " by hand of column " + what.substring(column + 1);
  }

  /** A key for one column; the path is as in references. */
  public static String ofColumn(String key, String path) {
    return path.isEmpty() ? key : key + "#" + path;
  }

  /** The value of a facet; missing if it was taken away or never set. */
  public static JsonNode value(Map<String, JsonNode> facets, String key) {
    JsonNode facet = facets.get(key);
    return facet == null ? CanonicalJson.MAPPER.missingNode() : facet.path("value");
  }

  /** The facets whose keys begin like this, by the rest of the key, in order. */
  public static Map<String, JsonNode> under(Map<String, JsonNode> facets, String prefix) {
    var found = new TreeMap<String, JsonNode>();
    facets.forEach(
        (key, facet) -> {
          if (key.startsWith(prefix) && facet.has("value")) {
            found.put(key.substring(prefix.length()), facet);
          }
        });
    return found;
  }

  /** The object that is stored. */
  public static ObjectNode facet(JsonNode value, String by, String reason, String statement) {
    ObjectNode facet = CanonicalJson.MAPPER.createObjectNode();
    if (!value.isNull() && !value.isMissingNode()) {
      facet.set("value", value);
    }
    facet.put("by", by);
    if (!reason.isEmpty()) {
      facet.put("reason", reason);
    }
    return facet.put("statement", statement);
  }
}
