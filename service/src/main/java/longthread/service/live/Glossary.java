package longthread.service.live;

import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.TreeSet;
import longthread.core.event.HandFacet;
import longthread.service.storage.StoredText;
import longthread.service.storage.statements.StatementQueries;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Component;
import tools.jackson.databind.JsonNode;

/** The glossary in memory: terms with their definitions, in a tree. */
@Component
public class Glossary {
  /**
   * A term.
   *
   * @param parent the id of the term above it; null at the top, or where that term is gone
   * @param by who set it as it stands
   */
  public record Term(
      String id,
      String name,
      @Nullable String definition,
      @Nullable String parent,
      List<String> owners,
      List<String> synonyms,
      String by,
      Instant at) {}

  private static final String UNDER = HandFacet.REGISTER + "/term/";

  private final StatementQueries statements;
  private volatile Map<String, Term> terms = Map.of();

  Glossary(StatementQueries statements, GraphFollower follower) {
    this.statements = statements;
    follower.onRegister(this::load);
    load();
  }

  private void load() {
    var read = new TreeMap<String, Term>();
    for (StatementQueries.Set row : statements.standing(HandFacet.TERM)) {
      JsonNode facet = StoredText.json(row.body());
      JsonNode value = facet.path("value");
      if (value.isObject() && row.ref().startsWith(UNDER)) {
        String id = row.ref().substring(UNDER.length());
        read.put(
            id,
            new Term(
                id,
                value.path("name").stringValue(id),
                value.path("definition").stringValue(null),
                value.path("parent").stringValue(null),
                texts(value.path("owners")),
                texts(value.path("synonyms")),
                facet.path("by").stringValue(""),
                Instant.ofEpochSecond(row.atS(), row.atN())));
      }
    }
    read.replaceAll(
        (id, term) ->
            term.parent() == null || read.containsKey(term.parent()) ? term : atTheTop(term));
    terms = read;
  }

  private static Term atTheTop(Term term) {
    return new Term(
        term.id(),
        term.name(),
        term.definition(),
        null,
        term.owners(),
        term.synonyms(),
        term.by(),
        term.at());
  }

  private static List<String> texts(JsonNode list) {
    var texts = new ArrayList<String>();
    list.forEach(text -> texts.add(text.stringValue("")));
    return List.copyOf(texts);
  }

  /** All terms, by their ids in order. */
  public List<Term> all() {
    return List.copyOf(terms.values());
  }

  public Optional<Term> byId(String id) {
    return Optional.ofNullable(terms.get(id));
  }

  /** Those of some ids that are terms, with their names; the others are left out. */
  public List<Term> named(List<String> ids) {
    return ids.stream().map(terms::get).filter(term -> term != null).toList();
  }

  /** The names of all terms that an asset and its columns have. */
  public List<String> wordsOf(Asset asset) {
    if (terms.isEmpty()) {
      return List.of();
    }
    var ids = new TreeSet<>(asset.card().terms());
    asset.card().columns().forEach(column -> ids.addAll(column.terms()));
    return named(List.copyOf(ids)).stream().map(Term::name).sorted().toList();
  }

  /** The term with this id, name or synonym, whatever its case. */
  public Optional<Term> find(String text) {
    String wanted = text.strip().toLowerCase(Locale.ROOT);
    Term exact = terms.get(text.strip());
    if (exact != null) {
      return Optional.of(exact);
    }
    var byWord = new HashMap<String, Term>();
    for (Term term : terms.values()) {
      term.synonyms().forEach(word -> byWord.putIfAbsent(word.toLowerCase(Locale.ROOT), term));
    }
    for (Term term : terms.values()) {
      byWord.put(term.name().toLowerCase(Locale.ROOT), term);
    }
    return Optional.ofNullable(byWord.get(wanted));
  }

  /** The names of a term and of those above it, the topmost first. */
  public List<String> path(Term term) {
    var path = new ArrayList<String>();
    Term at = term;
    while (at != null && path.size() < terms.size()) {
      path.add(0, at.name());
      at = at.parent() == null ? null : terms.get(at.parent());
    }
    return path;
  }
}
