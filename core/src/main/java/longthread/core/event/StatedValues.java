package longthread.core.event;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import longthread.core.asset.Card;
import longthread.core.asset.Owner;
import longthread.core.asset.Reference;
import longthread.core.json.CanonicalJson;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;

/**
 * Descriptions, owners, tags and terms of one name by who gave them: people, then the system that
 * the asset lives in ({@code longthread_source}), then other emitters. Of descriptions and owners
 * the first of these leads and the others stay visible; tags add up.
 */
final class StatedValues {
  /** The facet in which a system says what it knows of its own assets. */
  static final String SOURCE = "longthread_source";

  private final Map<String, JsonNode> facets;
  private final JsonNode source;
  private final Map<String, JsonNode> sourceColumns = new HashMap<>();
  private final List<Card.Value> values = new ArrayList<>();

  StatedValues(Map<String, JsonNode> facets) {
    this.facets = facets;
    JsonNode stated = facets.get(SOURCE);
    this.source =
        stated == null || stated.path("_deleted").booleanValue(false)
            ? CanonicalJson.MAPPER.missingNode()
            : stated;
    for (JsonNode column : source.path("columns")) {
      sourceColumns.putIfAbsent(column.path("name").stringValue(""), column);
    }
  }

  /** Every value that was passed over this, the leading one of each first. */
  List<Card.Value> values() {
    return values;
  }

  /** The leading description; {@code reported} is what emitters say. */
  @Nullable String description(@Nullable String reported, @Nullable String producer) {
    return description("", reported, producer, source.path("description").stringValue(null));
  }

  private @Nullable String description(
      String column, @Nullable String reported, @Nullable String producer, @Nullable String own) {
    String key = HandFacet.ofColumn(HandFacet.DESCRIPTION, column);
    String hand = HandFacet.value(facets, key).stringValue(null);
    add("description", column, list(hand), Card.Source.HAND, by(key));
    add("description", column, list(own), Card.Source.SYSTEM, producer(source));
    if (column.isEmpty() || hand != null || own != null) {
      add("description", column, list(reported), Card.Source.EMITTER, producer);
    }
    return hand != null ? hand : own != null ? own : reported;
  }

  /** The leading owners; {@code reported} are those that emitters name. */
  List<Owner> owners(List<Owner> reported, @Nullable String producer) {
    List<String> hand = texts(HandFacet.value(facets, HandFacet.OWNERS));
    List<String> own = texts(source.path("owners"));
    add("owners", "", hand, Card.Source.HAND, by(HandFacet.OWNERS));
    add("owners", "", own, Card.Source.SYSTEM, producer(source));
    add("owners", "", reported.stream().map(Owner::name).toList(), Card.Source.EMITTER, producer);
    List<String> leading = hand.isEmpty() ? own : hand;
    return leading.isEmpty()
        ? reported
        : leading.stream().map(name -> Owner.of(name, "owner")).toList();
  }

  /** All tags of the asset. */
  List<Card.Tag> tags(List<Card.Tag> reported) {
    return tags(reported, HandFacet.TAGS, source.path("tags"));
  }

  private List<Card.Tag> tags(List<Card.Tag> reported, String key, JsonNode own) {
    var tags = new LinkedHashMap<String, Card.Tag>();
    texts(HandFacet.value(facets, key)).forEach(tag -> add(tags, tag, "by hand"));
    texts(own).forEach(tag -> add(tags, tag, "source"));
    reported.forEach(tag -> tags.putIfAbsent(tag.word(), tag));
    return List.copyOf(tags.values());
  }

  private static void add(Map<String, Card.Tag> tags, String text, String source) {
    int colon = text.indexOf(':');
    var tag =
        colon > 0 && colon < text.length() - 1
            ? new Card.Tag(text.substring(0, colon), text.substring(colon + 1), source)
            : new Card.Tag(text, "", source);
    tags.putIfAbsent(tag.word(), tag);
  }

  List<String> terms() {
    return texts(HandFacet.value(facets, HandFacet.TERMS));
  }

  List<Card.WebLink> links() {
    var links = new ArrayList<Card.WebLink>();
    for (JsonNode link : HandFacet.value(facets, HandFacet.LINKS)) {
      links.add(
          new Card.WebLink(link.path("title").stringValue(""), link.path("url").stringValue("")));
    }
    return links;
  }

  List<Card.Join> joins() {
    var joins = new ArrayList<Card.Join>();
    HandFacet.under(facets, HandFacet.JOIN)
        .forEach(
            (ref, facet) ->
                joins.add(new Card.Join(ref, facet.path("value").stringValue("").equals("apart"))));
    return joins;
  }

  boolean leads() {
    return HandFacet.value(facets, HandFacet.LEAD).booleanValue(false);
  }

  /** Columns as reported, with what people and the system say of them. */
  List<Card.Column> columns(List<Card.Column> reported, @Nullable String producer) {
    boolean anyByHand =
        facets.keySet().stream().anyMatch(key -> HandFacet.isHand(key) && key.indexOf('#') > 0);
    if (!anyByHand && sourceColumns.isEmpty()) {
      return reported;
    }
    return (reported.isEmpty() ? byHand() : reported)
        .stream().map(column -> column(column, producer)).toList();
  }

  /** The columns that people say something of, where nothing reports any. */
  private List<Card.Column> byHand() {
    var paths = new java.util.TreeSet<String>();
    facets.forEach(
        (key, facet) -> {
          if (HandFacet.isHand(key)
              && !key.startsWith(HandFacet.JOIN)
              && key.indexOf('#') > 0
              && facet.has("value")) {
            paths.add(key.substring(key.indexOf('#') + 1));
          }
        });
    return paths.stream()
        .map(path -> new Card.Column(path, null, null, List.of(), null, List.of()))
        .toList();
  }

  private Card.Column column(Card.Column column, @Nullable String producer) {
    String path = column.path();
    JsonNode own = sourceColumns.get(Reference.decode(path));
    JsonNode stated = own == null ? CanonicalJson.MAPPER.missingNode() : own;
    return new Card.Column(
        path,
        column.type(),
        description(
            path, column.description(), producer, stated.path("description").stringValue(null)),
        tags(column.tags(), HandFacet.ofColumn(HandFacet.TAGS, path), stated.path("tags")),
        column.calculation(),
        texts(HandFacet.value(facets, HandFacet.ofColumn(HandFacet.TERMS, path))));
  }

  private void add(
      String what, String column, List<String> texts, Card.Source by, @Nullable String who) {
    if (!texts.isEmpty()) {
      values.add(new Card.Value(what, column, texts, by, who));
    }
  }

  private static List<String> list(@Nullable String text) {
    return text == null ? List.of() : List.of(text);
  }

  private static List<String> texts(JsonNode list) {
    var texts = new ArrayList<String>();
    list.forEach(text -> texts.add(text.stringValue("")));
    texts.removeIf(String::isBlank);
    return texts;
  }

  private @Nullable String by(String key) {
    JsonNode facet = facets.get(key);
    return facet == null ? null : facet.path("by").stringValue(null);
  }

  /** The program that reported a facet, as the standard has it. */
  static @Nullable String producer(@Nullable JsonNode facet) {
    return facet == null ? null : facet.path("_producer").stringValue(null);
  }
}
