package longthread.service.statements;

import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import java.util.UUID;
import longthread.core.asset.BadNameException;
import longthread.core.asset.ColumnName;
import longthread.core.asset.DatasetName;
import longthread.core.asset.Reference;
import longthread.core.event.HandFacet;
import longthread.core.json.CanonicalJson;
import longthread.service.live.Catalog;
import longthread.service.live.Glossary;
import longthread.service.live.References;
import longthread.service.live.Sight;
import longthread.service.storage.StoredText;
import longthread.service.storage.statements.StatementQueries;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Component;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

/**
 * Turns what a person asks for into the changes of a statement: short names into references, names
 * of terms into ids, and what is recorded of several targets into one change for each.
 */
@Component
class ChangeRequests {
  private static final int MAX_COMPARED = 20; // new names that are compared with known ones

  private final References references;
  private final Catalog catalog;
  private final Glossary glossary;
  private final StatementQueries stored;
  private final LabelRequests labels;

  ChangeRequests(
      References references,
      Catalog catalog,
      Glossary glossary,
      StatementQueries stored,
      LabelRequests labels) {
    this.labels = labels;
    this.references = references;
    this.catalog = catalog;
    this.glossary = glossary;
    this.stored = stored;
  }

  /** The changes that a request stands for, as a statement holds them. */
  List<ObjectNode> changes(JsonNode wanted, Instant now, Map<String, String> newTerms) {
    if (!wanted.isObject()) {
      throw ProblemException.badRequest("bad-change", "a change is an object with set and value");
    }
    String set = wanted.path("set").stringValue("");
    ObjectNode change = ((ObjectNode) wanted).deepCopy();
    List<ObjectNode> made = made(set, change, now, newTerms);
    if (!Sight.now().editsAll()) {
      made.forEach(one -> checkGranted(set, one));
    }
    return made;
  }

  /** Refuses what a steward of a part of the catalog may not change. */
  private void checkGranted(String set, ObjectNode change) {
    String about =
        switch (set) {
          case "notice" -> change.path("value").path("on").stringValue("");
          case "label-stop" -> change.path("value").path("at").stringValue("");
          case "recorded", "join", "term", "rule", "dismissed", "followed" -> "";
          case "label", "label-rule", "label-policy", "label-mask", "leak-accepted" -> "";
          default -> change.path("of").stringValue("");
        };
    int hash = about.indexOf('#');
    String asset = hash < 0 ? about : about.substring(0, hash);
    Sight sight = Sight.now();
    if (asset.isEmpty() || catalog.known(asset).filter(sight::edits).isEmpty()) {
      throw new ProblemException(
          HttpStatus.FORBIDDEN,
          "not-allowed",
          "Your grants do not cover this change",
          asset.isEmpty()
              ? "a change of '"
                  + set
                  + "' concerns the whole catalog and needs the role steward there"
              : "you are no steward of "
                  + about
                  + "; an administrator can grant its system,"
                  + " workspace or label");
    }
  }

  private List<ObjectNode> made(
      String set, ObjectNode change, Instant now, Map<String, String> newTerms) {
    return switch (set) {
      case "recorded" -> recorded(change, now);
      case "join" -> joined(change);
      case "terms" -> {
        change.put("of", asset(text(change, "of")));
        if (change.path("value").isArray()) {
          change.set("value", termIds(change.path("value"), newTerms));
        }
        yield List.of(change);
      }
      case "term" -> List.of(term(change, newTerms));
      case "rule", "dismissed" -> List.of(withId(change));
      case "notice", "followed" -> List.of(named(withId(change)));
      case "label", "label-rule", "label-stop", "label-policy", "label-mask", "leak-accepted" ->
          List.of(labels.change(set, change, this::asset));
      default -> {
        change.put("of", asset(text(change, "of")));
        if (change.path("value").isArray() && change.path("value").isEmpty()) {
          change.putNull("value");
        }
        yield List.of(change);
      }
    };
  }

  /** Turns the short names in a value into references. */
  private ObjectNode named(ObjectNode change) {
    if (change.path("value") instanceof ObjectNode value) {
      for (String member : List.of("on", "from", "to")) {
        boolean isTime = member.equals("from") && value.has("on");
        if (value.path(member).isString() && !isTime) {
          value.put(member, asset(value.path(member).stringValue()));
        }
      }
    }
    return change;
  }

  private static ObjectNode withId(ObjectNode change) {
    if (!change.has("id")) {
      change.put("id", UUID.randomUUID().toString());
    }
    return change;
  }

  private static String text(JsonNode node, String member) {
    String text = node.path(member).stringValue("");
    if (text.isBlank()) {
      throw ProblemException.badRequest(
          "bad-change", "the change has no '" + member + "'; say what it is about");
    }
    return text;
  }

  /** The part that a text names in full, else the leading part of the asset that it may mean. */
  private String asset(String text) {
    String whole = text.strip();
    int hash = whole.indexOf('#');
    String name = hash < 0 ? whole : whole.substring(0, hash);
    if (catalog.card(name).isPresent() && catalog.isSeen(name) && hash < 0) {
      return whole;
    }
    References.Named named = references.resolve(whole);
    String part = catalog.card(name).isPresent() ? name : named.asset().ref();
    return named.column() == null ? part : part + "#" + named.column();
  }

  /**
   * As {@link #asset}, but a whole reference that nothing knows yet is taken as it is. A column is
   * new only where no columns of its asset are known; else it is more likely misspelled.
   */
  private String assetOrNew(String text) {
    try {
      return asset(text);
    } catch (ProblemException e) {
      if (!e.detail().getType().toString().endsWith("unknown-reference")
          && !e.detail().getType().toString().endsWith("unknown-column")) {
        throw e;
      }
      try {
        Reference whole = Reference.parse(text.strip());
        boolean usable = whole instanceof Reference.OfDataset || whole instanceof Reference.OfJob;
        if (usable && !hasOtherColumns(whole)) {
          return whole.text();
        }
      } catch (BadNameException bad) {
        // reported below: the names that are near say more than the grammar of references
      }
      throw e;
    }
  }

  private boolean hasOtherColumns(Reference whole) {
    return whole instanceof Reference.OfDataset column
        && column.column() != null
        && catalog
            .asset(column.dataset().reference())
            .filter(asset -> !references.columns(asset).isEmpty())
            .isPresent();
  }

  /** What recorded changes name and the catalog does not have, in the order it is named. */
  List<Statements.NewName> newNames(List<ObjectNode> changes) {
    var names = new LinkedHashSet<String>();
    for (ObjectNode change : changes) {
      JsonNode value = change.path("value");
      if (change.path("set").stringValue("").equals("recorded") && !value.has("withdrawn")) {
        names.add(change.path("of").stringValue(""));
        value.path("reads").forEach(name -> names.add(name.stringValue("")));
        value.path("writes").forEach(name -> names.add(name.stringValue("")));
        value
            .path("columns")
            .forEach(link -> names.add(dataset(link.path("from").stringValue(""))));
        value.path("columns").forEach(link -> names.add(dataset(link.path("to").stringValue(""))));
      }
    }
    names.removeIf(name -> name.isEmpty() || catalog.asset(name).isPresent());
    var found = new ArrayList<Statements.NewName>();
    for (String name : names) {
      List<String> near = found.size() < MAX_COMPARED ? references.nearest(name) : List.of();
      found.add(newName(name, near.isEmpty() ? null : near.get(0)));
    }
    return found;
  }

  private static Statements.NewName newName(String ref, @Nullable String closest) {
    Reference whole = Reference.parse(ref);
    if (whole instanceof Reference.OfJob job) {
      return new Statements.NewName(ref, job.job().namespace(), job.job().name(), closest);
    }
    DatasetName dataset = ((Reference.OfDataset) whole).dataset();
    return new Statements.NewName(ref, dataset.namespace(), dataset.name(), closest);
  }

  /** The ids of the terms that a list of changes defines, by their ids and names. */
  Map<String, String> termsIn(JsonNode wanted) {
    var terms = new HashMap<String, String>();
    for (JsonNode change : wanted) {
      if (change.path("set").stringValue("").equals("term") && change.path("value").isObject()) {
        String name = change.path("value").path("name").stringValue("");
        String id = change.path("id").stringValue(slug(name));
        terms.put(id.toLowerCase(Locale.ROOT), id);
        terms.put(name.strip().toLowerCase(Locale.ROOT), id);
      }
    }
    return terms;
  }

  private static String slug(String name) {
    String slug = name.strip().toLowerCase(Locale.ROOT).replaceAll("[^\\p{L}\\p{N}]+", "-");
    return slug.replaceAll("^-|-$", "");
  }

  /** The id of a term by any of its words; null if there is none. */
  private @Nullable String termId(String word, Map<String, String> newTerms) {
    String added = newTerms.get(word.strip().toLowerCase(Locale.ROOT));
    return added != null ? added : glossary.find(word).map(Glossary.Term::id).orElse(null);
  }

  private ArrayNode termIds(JsonNode words, Map<String, String> newTerms) {
    ArrayNode ids = CanonicalJson.MAPPER.createArrayNode();
    for (JsonNode word : words) {
      String id = termId(word.stringValue(""), newTerms);
      if (id == null) {
        throw new ProblemException(
            HttpStatus.NOT_FOUND,
            "unknown-term",
            "The glossary has no such term",
            "the glossary has no term '"
                + word.stringValue("")
                + "'; add it first, see GET /api/v1/terms for those there are");
      }
      ids.add(id);
    }
    return ids;
  }

  private ObjectNode term(ObjectNode change, Map<String, String> newTerms) {
    JsonNode value = change.path("value");
    String named = change.path("id").stringValue(slug(value.path("name").stringValue("")));
    String known = glossary.find(named).map(Glossary.Term::id).orElse(named);
    change.put("id", known);
    String parent = value.path("parent").stringValue("");
    if (!parent.isBlank()) {
      String above = termId(parent, newTerms);
      if (above == null) {
        throw ProblemException.badRequest(
            "unknown-term", "there is no term '" + parent + "' to put it under; add that first");
      }
      ((ObjectNode) value).put("parent", above);
      checkNotUnderItself(known, above);
    }
    return change;
  }

  private void checkNotUnderItself(String id, String parent) {
    String at = parent;
    for (int depth = 0; at != null && depth < 1_000; depth++) {
      if (at.equals(id)) {
        throw ProblemException.badRequest(
            "term-cycle", "a term cannot be under itself; choose another parent");
      }
      at = glossary.byId(at).map(Glossary.Term::parent).orElse(null);
    }
  }

  private List<ObjectNode> joined(ObjectNode change) {
    String of = asset(text(change, "of"));
    String with = asset(text(change, "with"));
    change.put("of", of);
    change.put("with", with);
    if (Reference.isJob(of) || Reference.isJob(with)) {
      throw ProblemException.badRequest(
          "bad-change", "jobs keep the names they have; only names of data can be one asset");
    }
    if (of.equals(with)) {
      throw ProblemException.badRequest(
          "bad-change", "'" + of + "' is given twice; name two different things");
    }
    var changes = new ArrayList<ObjectNode>(List.of(change));
    // What the other name says of this one must not contradict it.
    if (stored.standing(HandFacet.JOIN + "%").stream()
        .anyMatch(row -> row.ref().equals(with) && row.key().equals(HandFacet.JOIN + of))) {
      ObjectNode other = change.deepCopy();
      other.put("of", with);
      other.put("with", of);
      other.putNull("value");
      other.remove("was");
      changes.add(other);
    }
    return changes;
  }

  // ------------------------------------------------------------------ recorded lineage

  private List<ObjectNode> recorded(ObjectNode change, Instant now) {
    String id = change.has("id") ? change.path("id").stringValue("") : UUID.randomUUID().toString();
    Map<String, JsonNode> before = owners(id);
    JsonNode value = change.path("value");
    if (!value.isObject()) {
      if (before.isEmpty()) {
        throw new ProblemException(
            HttpStatus.NOT_FOUND,
            "unknown-record",
            "Nothing is recorded under this id",
            "nothing is recorded under '" + id + "'; GET /api/v1/recorded lists what is");
      }
      return before.entrySet().stream()
          .map(entry -> withdrawn(id, entry.getKey(), entry.getValue(), now))
          .toList();
    }
    String since =
        before.values().stream()
            .map(old -> old.path("since").stringValue(""))
            .findFirst()
            .orElse(value.path("since").isString() ? value.path("since").stringValue() : "" + now);
    Map<String, ObjectNode> values = byOwner(value, since);
    var changes = new ArrayList<ObjectNode>();
    values.forEach((of, one) -> changes.add(record(id, of, one)));
    before.forEach(
        (of, old) -> {
          if (!values.containsKey(of) && !old.has("withdrawn")) {
            changes.add(withdrawn(id, of, old, now));
          }
        });
    return changes;
  }

  /** What stands under an id, by the job or dataset that it is recorded of. */
  private Map<String, JsonNode> owners(String id) {
    var owners = new LinkedHashMap<String, JsonNode>();
    String key = HandFacet.RECORDED + id;
    for (StatementQueries.Set row : stored.standing(HandFacet.RECORDED + "%")) {
      if (row.key().equals(key)) {
        owners.put(row.ref(), StoredText.json(row.body()).path("value"));
      }
    }
    return owners;
  }

  private static ObjectNode record(String id, String of, JsonNode value) {
    ObjectNode change = CanonicalJson.MAPPER.createObjectNode();
    change.put("set", "recorded").put("id", id).put("of", of).set("value", value);
    return change;
  }

  private static ObjectNode withdrawn(String id, String of, JsonNode value, Instant now) {
    ObjectNode over = ((ObjectNode) value).deepCopy();
    return record(id, of, over.put("withdrawn", "" + now));
  }

  private Map<String, ObjectNode> byOwner(JsonNode value, String since) {
    List<String> reads = names(value.path("reads"));
    List<String> writes = names(value.path("writes"));
    List<ObjectNode> columns = columns(value.path("columns"));
    String job = value.path("job").stringValue("");
    var values = new LinkedHashMap<String, ObjectNode>();
    if (!job.isBlank()) {
      String name = assetOrNew(job.startsWith("@") ? job : "@" + job);
      ObjectNode one = values(value, since, reads, columns);
      writes.forEach(one.putArray("writes")::add);
      values.put(name, one);
      return values;
    }
    Set<String> targets = new LinkedHashSet<>(writes);
    columns.forEach(link -> targets.add(dataset(link.path("to").stringValue(""))));
    if (targets.isEmpty()) {
      throw ProblemException.badRequest(
          "bad-change",
          "this records nothing that is written; give writes, columns, or the job that only reads");
    }
    for (String target : targets) {
      List<ObjectNode> own =
          columns.stream()
              .filter(link -> dataset(link.path("to").stringValue("")).equals(target))
              .toList();
      values.put(target, values(value, since, reads, own));
    }
    return values;
  }

  private static String dataset(String column) {
    return column.substring(0, column.indexOf('#'));
  }

  private static ObjectNode values(
      JsonNode value, String since, List<String> reads, List<ObjectNode> columns) {
    ObjectNode one = CanonicalJson.MAPPER.createObjectNode();
    one.put("since", since);
    if (value.path("title").isString() && !value.path("title").stringValue().isBlank()) {
      one.put("title", value.path("title").stringValue().strip());
    }
    String until = value.path("until").stringValue("");
    if (!until.isBlank()) {
      one.put("until", LabelRequests.endOf(until));
    }
    reads.forEach(one.putArray("reads")::add);
    columns.forEach(one.putArray("columns")::add);
    return one;
  }

  private List<String> names(JsonNode list) {
    var names = new TreeSet<String>();
    for (JsonNode name : list) {
      names.add(assetOrNew(name.stringValue("")));
    }
    return List.copyOf(names);
  }

  private List<ObjectNode> columns(JsonNode list) {
    var columns = new ArrayList<ObjectNode>();
    for (JsonNode link : list) {
      String flow = link.path("flow").stringValue("identity").toLowerCase(Locale.ROOT);
      boolean rows = Set.of("join", "filter", "group-by", "sort").contains(flow);
      String from = column(link.path("from").stringValue(""), false);
      String to = column(link.path("to").stringValue(""), rows);
      ObjectNode one = CanonicalJson.MAPPER.createObjectNode();
      one.put("from", from).put("to", to).put("flow", flow);
      if (link.path("masking").booleanValue(false)) {
        one.put("masking", true);
      }
      columns.add(one);
    }
    return columns;
  }

  private String column(String text, boolean rowsWithoutColumn) {
    String name = assetOrNew(text);
    if (name.indexOf('#') < 0 && rowsWithoutColumn) {
      return name + "#" + ColumnName.ROWS;
    }
    if (name.indexOf('#') < 0) {
      throw ProblemException.badRequest(
          "bad-change", "'" + text + "' names no column; write dataset#column");
    }
    return name;
  }

  /** What is shown of a value that a change sets. */
  static @Nullable JsonNode orNull(JsonNode value) {
    return value.isNull() || value.isMissingNode() ? null : value;
  }
}
