package longthread.core.export;

import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.HashMap;
import java.util.Map;
import longthread.core.json.CanonicalJson;
import tools.jackson.databind.node.ObjectNode;

/**
 * A PROV-JSON document while it is written: things by identifiers made of references, and relations
 * without names of their own.
 *
 * @see "W3C, The PROV-JSON Serialization, member submission 24 April 2013"
 */
public final class ProvDocument {
  /** The prefix of all identifiers and of attributes that are not of the standard. */
  public static final String PREFIX = "lt";

  private final ObjectNode root = CanonicalJson.MAPPER.createObjectNode();
  private final Map<String, Integer> numbers = new HashMap<>();

  /**
   * An empty document.
   *
   * @param base what references are resolved against: an address that ends in a slash
   */
  public ProvDocument(String base) {
    root.putObject("prefix").put(PREFIX, base);
  }

  /** The document as it stands. */
  public ObjectNode root() {
    return root;
  }

  /** All of one kind, such as {@code entity}. */
  public ObjectNode section(String kind) {
    return root.withObjectProperty(kind);
  }

  /** A new relation of a kind. */
  public ObjectNode relation(String kind) {
    int number = numbers.merge(kind, 1, Integer::sum);
    return section(kind).putObject("_:" + kind + number);
  }

  /** The identifier that stands for a reference. */
  public static String id(String reference) {
    return PREFIX + ":" + URLEncoder.encode(reference, StandardCharsets.UTF_8).replace("+", "%20");
  }
}
