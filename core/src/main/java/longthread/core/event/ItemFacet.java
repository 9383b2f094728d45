package longthread.core.event;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import longthread.core.asset.Card;
import longthread.core.asset.Owner;
import longthread.core.json.CanonicalJson;
import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ObjectNode;

/**
 * The facet by which a workspace description says what an item is. It stands in the place of the
 * standard's facets for titles, owners, tags and documentation, so that all of them are replaced
 * together.
 */
final class ItemFacet {
  static final String KEY = "longthread_item";

  private final JsonNode facet;

  ItemFacet(JsonNode facet) {
    this.facet = facet;
  }

  boolean isThere() {
    return facet.isObject();
  }

  /** Title, container and address, as a page facet has them. */
  JsonNode page() {
    ObjectNode page = CanonicalJson.MAPPER.createObjectNode();
    copy(page, "title");
    copy(page, "url");
    page.put("container", facet.path("workspace").path("title").stringValue(""));
    return page;
  }

  private void copy(ObjectNode page, String member) {
    if (facet.has(member)) {
      page.set(member, facet.path(member));
    }
  }

  /** The word for what it is; the result of a step is any dataset. */
  String datasetType() {
    String kind = facet.path("kind").stringValue("");
    return kind.equals("step") ? "DATASET" : kind.toUpperCase(Locale.ROOT);
  }

  @Nullable String description() {
    return facet.path("description").stringValue(null);
  }

  List<Owner> owners() {
    var owners = new ArrayList<Owner>();
    facet.path("owners").forEach(owner -> owners.add(Owner.of(owner.stringValue(""), "OWNER")));
    return owners;
  }

  /** Who may read it. */
  List<String> readers() {
    var readers = new ArrayList<String>();
    facet.path("readers").forEach(reader -> readers.add(reader.stringValue("")));
    return readers;
  }

  List<Card.Tag> tags() {
    return tags(facet);
  }

  private static List<Card.Tag> tags(JsonNode of) {
    var tags = new ArrayList<Card.Tag>();
    of.path("tags").forEach(tag -> tags.add(new Card.Tag(tag.stringValue(""), "", null)));
    return tags;
  }

  /** The columns of the schema with what the description adds to them. */
  List<Card.Column> columns(List<Card.Column> columns) {
    Map<String, JsonNode> byName = new HashMap<>();
    for (JsonNode field : facet.path("fields")) {
      byName.putIfAbsent(field.path("name").stringValue(""), field);
    }
    return columns.stream()
        .map(
            column -> {
              JsonNode field = byName.get(longthread.core.asset.Reference.decode(column.path()));
              return field == null
                  ? column
                  : new Card.Column(
                      column.path(),
                      column.type(),
                      column.description(),
                      tags(field),
                      calculation(field),
                      column.terms());
            })
        .toList();
  }

  private static @Nullable String calculation(JsonNode field) {
    return field.path("text").stringValue(field.path("sql").stringValue(null));
  }

  List<Card.Detail> details() {
    var details = new ArrayList<Card.Detail>();
    JsonNode approval = facet.path("approval");
    if (approval.isObject()) {
      String note = approval.path("note").stringValue("");
      details.add(
          new Card.Detail(
              "approved",
              approval.path("by").stringValue("")
                  + " on "
                  + approval.path("on").stringValue("")
                  + (note.isEmpty() ? "" : ": " + note)));
    }
    if (facet.has("reuses")) {
      details.add(new Card.Detail("reuses", facet.path("reuses").stringValue("")));
    } else if (facet.path("kind").stringValue("").equals("step")) {
      details.add(new Card.Detail("type", "preparation step"));
    }
    if (facet.has("schedule")) {
      details.add(new Card.Detail("refreshed", facet.path("schedule").stringValue("")));
    }
    if (facet.path("keeps").stringValue("").equals("nothing")) {
      details.add(new Card.Detail("data", "read at every look, no copy is kept"));
    }
    return details;
  }
}
