package longthread.service.catalog;

import java.util.Collection;
import java.util.Comparator;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.TreeMap;
import java.util.function.Function;
import longthread.core.asset.Card;
import longthread.service.health.AssetHealth;
import longthread.service.health.HealthBoard;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.Glossary;
import longthread.service.storage.catalog.CardQueries;
import longthread.service.storage.catalog.CardSearch;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Service;
import org.springframework.transaction.TransactionException;

/** Finds assets by words, and counts what each filter would leave. */
@Service
class Search {
  private static final int MAX_HITS = 5_000;
  private static final int MAX_NAMES = 50; // of an asset whose systems all count

  /** What a word scores that was found by likeness only. */
  private static final double BY_LIKENESS = 0.2;

  /** What an asset scores at least that has a term of these words. */
  private static final double BY_TERM = 0.7;

  private static final Logger LOG = LoggerFactory.getLogger(Search.class);

  /**
   * A hit.
   *
   * @param systems those of all its names, where it has several
   * @param columns those whose name or description the words matched
   * @param health on each page of hits that is answered
   */
  record Hit(
      String ref,
      String kind,
      String name,
      @Nullable String title,
      String system,
      List<String> systems,
      List<String> container,
      @Nullable String description,
      List<String> owners,
      List<String> labels,
      List<String> terms,
      boolean retired,
      boolean described,
      List<String> columns,
      double score,
      @Nullable AssetHealth health) {
    Hit with(AssetHealth how) {
      return new Hit(
          ref,
          kind,
          name,
          title,
          system,
          systems,
          container,
          description,
          owners,
          labels,
          terms,
          retired,
          described,
          columns,
          score,
          how);
    }
  }

  /** How many hits each value would leave. */
  record Facets(
      Map<String, Integer> kind,
      Map<String, Integer> system,
      Map<String, Integer> owner,
      Map<String, Integer> label) {}

  /** All hits, the best first. */
  record Found(List<Hit> hits, Facets facets) {}

  /** What hits must have; null or empty for anything. */
  record Filters(
      @Nullable String kind,
      @Nullable String system,
      @Nullable String owner,
      @Nullable String label) {
    private boolean pass(Hit hit) {
      return passes(kind, List.of(hit.kind()))
          && passes(system, hit.systems())
          && passes(owner, hit.owners())
          && passes(label, hit.labels());
    }

    private static boolean passes(@Nullable String wanted, List<String> values) {
      return wanted == null || wanted.isEmpty() || values.contains(wanted);
    }
  }

  private final Catalog catalog;
  private final CardQueries cards;
  private final CardSearch cardSearch;

  private final Glossary glossary;
  private final HealthBoard health;

  Search(
      Catalog catalog,
      CardQueries cards,
      CardSearch cardSearch,
      Glossary glossary,
      HealthBoard health) {
    this.health = health;
    this.glossary = glossary;
    this.catalog = catalog;
    this.cards = cards;
    this.cardSearch = cardSearch;
  }

  /** The same hits with how their assets do. */
  List<Hit> withHealth(List<Hit> hits) {
    return hits.stream()
        .map(hit -> catalog.asset(hit.ref()).map(a -> hit.with(health.of(a))).orElse(hit))
        .toList();
  }

  /** The assets that match words, an address or a reference; all for an empty query. */
  Found find(String query, Filters filters) {
    List<Hit> matched = matched(query.strip());
    String kind = filters.kind();
    String system = filters.system();
    String owner = filters.owner();
    String label = filters.label();
    // Each count is over the hits that pass all other filters, so that a choice can change.
    var facets =
        new Facets(
            counts(matched, new Filters(null, system, owner, label), hit -> List.of(hit.kind())),
            counts(matched, new Filters(kind, null, owner, label), Hit::systems),
            counts(matched, new Filters(kind, system, null, label), Hit::owners),
            counts(matched, new Filters(kind, system, owner, null), Hit::labels));
    return new Found(matched.stream().filter(filters::pass).toList(), facets);
  }

  private static Map<String, Integer> counts(
      List<Hit> matched, Filters others, Function<Hit, Collection<String>> values) {
    var counts = new TreeMap<String, Integer>();
    matched.stream()
        .filter(others::pass)
        .forEach(hit -> values.apply(hit).forEach(value -> counts.merge(value, 1, Integer::sum)));
    return counts;
  }

  private List<Hit> matched(String q) {
    if (q.isEmpty()) {
      return catalog.all().stream()
          .map(asset -> hit(asset, List.of(), asset.card().described() ? 1 : 0))
          .sorted(
              Comparator.comparing(Hit::score)
                  .reversed()
                  .thenComparing(Hit::system)
                  .thenComparing(Hit::ref))
          .toList();
    }
    try {
      return stored(q);
    } catch (DataAccessException | TransactionException e) {
      LOG.warn("searching in memory, without the database: {}", e.getMessage());
      return inMemory(q);
    }
  }

  /** What memory has with all of the words as they are written. */
  private List<Hit> inMemory(String q) {
    List<String> words = words(q);
    return catalog.all().stream()
        .filter(asset -> words.stream().allMatch(word -> wordScore(asset, word) > BY_LIKENESS))
        .map(asset -> hit(asset, words, score(asset, words)))
        .sorted(Comparator.comparing(Hit::score).reversed().thenComparing(Hit::ref))
        .limit(MAX_HITS)
        .toList();
  }

  private static List<String> words(String q) {
    return List.of(q.replace("\0", "").toLowerCase(Locale.ROOT).split("[\\s,]+")).stream()
        .filter(word -> !word.isEmpty())
        .limit(8)
        .toList();
  }

  private List<Hit> stored(String q) {
    if (q.contains("://")) {
      List<Hit> byAddress = byAddress(q);
      if (!byAddress.isEmpty()) {
        return byAddress;
      }
    }
    List<String> words = words(q);
    var hits = new LinkedHashMap<String, Hit>();
    List<String> refs = cardSearch.withAll(words, MAX_HITS);
    if (refs.isEmpty() && words.size() > 1) {
      refs = cardSearch.withAny(words, MAX_HITS);
    }
    for (Asset asset : withTerm(words)) {
      hits.put(asset.ref(), hit(asset, words, Math.max(BY_TERM, score(asset, words))));
    }
    for (String ref : refs) {
      catalog
          .asset(ref)
          .ifPresent(
              asset -> hits.putIfAbsent(asset.ref(), hit(asset, words, score(asset, words))));
    }
    return hits.values().stream()
        .sorted(Comparator.comparing(Hit::score).reversed().thenComparing(Hit::ref))
        .toList();
  }

  /** The assets with a term, or a column with one, whose name or synonym has all of the words. */
  private List<Asset> withTerm(List<String> words) {
    var ids = new HashSet<String>();
    for (Glossary.Term term : glossary.all()) {
      String text =
          (term.name() + "\n" + String.join("\n", term.synonyms())).toLowerCase(Locale.ROOT);
      if (words.stream().allMatch(text::contains)) {
        ids.add(term.id());
      }
    }
    return ids.isEmpty()
        ? List.of()
        : catalog.all().stream()
            .filter(
                asset ->
                    asset.card().terms().stream().anyMatch(ids::contains)
                        || asset.card().columns().stream()
                            .anyMatch(c -> c.terms().stream().anyMatch(ids::contains)))
            .sorted(Comparator.comparing(Asset::ref))
            .limit(MAX_HITS)
            .toList();
  }

  private List<Hit> byAddress(String address) {
    return cards.byAddress(address).stream()
        .flatMap(ref -> catalog.asset(ref).stream())
        .map(asset -> hit(asset, List.of(), 1))
        .toList();
  }

  /** Where a word stands decides how much it counts: name before title, column, owner and text. */
  private static double score(Asset asset, List<String> words) {
    double total = 0;
    for (String word : words) {
      total += wordScore(asset, word);
    }
    double score = total / words.size();
    Card card = asset.card();
    score *= card.retired() ? 0.5 : 1;
    return card.described() ? score : score * 0.7;
  }

  private static double wordScore(Asset asset, String word) {
    Card card = asset.card();
    String name = card.name().toLowerCase(Locale.ROOT);
    String title = asset.shown().toLowerCase(Locale.ROOT);
    if (name.equals(word) || title.equals(word)) {
      return 1;
    }
    double inName = contained(name, word, 0.9);
    double inTitle = contained(title, word, 0.85);
    double inColumn = 0;
    for (Card.Column column : card.columns()) {
      String path = column.path().toLowerCase(Locale.ROOT);
      inColumn = Math.max(inColumn, path.equals(word) ? 0.8 : contained(path, word, 0.7));
      if (column.description() != null) {
        inColumn =
            Math.max(inColumn, contained(column.description().toLowerCase(Locale.ROOT), word, 0.6));
      }
    }
    double best = Math.max(Math.max(inName, inTitle), inColumn);
    for (String owner : asset.ownerNames()) {
      best = Math.max(best, contained(owner.toLowerCase(Locale.ROOT), word, 0.6));
    }
    best = Math.max(best, contained(asset.ref().toLowerCase(Locale.ROOT), word, 0.55));
    if (card.description() != null) {
      best = Math.max(best, contained(card.description().toLowerCase(Locale.ROOT), word, 0.5));
    }
    // Matched by likeness only, or not at all where only some of the words are found.
    return Math.max(best, BY_LIKENESS);
  }

  /** A whole word counts fully, the start of one a little less, anything else less again. */
  private static double contained(String text, String word, double weight) {
    int at = text.indexOf(word);
    if (at < 0) {
      return 0;
    }
    boolean starts = at == 0 || !Character.isLetterOrDigit(text.charAt(at - 1));
    int end = at + word.length();
    boolean ends = end == text.length() || !Character.isLetterOrDigit(text.charAt(end));
    return weight * (starts && ends ? 1 : starts ? 0.9 : 0.75);
  }

  Hit hit(Asset asset, List<String> words, double score) {
    Card card = asset.card();
    List<String> columns =
        words.isEmpty()
            ? List.of()
            : card.columns().stream()
                .filter(column -> words.stream().anyMatch(word -> matches(column, word)))
                .map(Card.Column::path)
                .limit(6)
                .toList();
    return new Hit(
        asset.ref(),
        card.kind().word(),
        card.name(),
        card.title(),
        asset.system(),
        systems(asset),
        card.container(),
        card.description(),
        asset.ownerNames(),
        asset.labels(),
        glossary.wordsOf(asset),
        card.retired(),
        card.described(),
        columns,
        Math.round(score * 1000) / 1000.0,
        null);
  }

  /** The systems of all names of an asset, that of the leading one first. */
  private List<String> systems(Asset asset) {
    if (asset.isJob() || asset.parts().size() < 2) {
      return List.of(asset.system());
    }
    var systems = new LinkedHashSet<String>(List.of(asset.system()));
    asset.parts().stream().limit(MAX_NAMES).map(catalog::systemOfName).forEach(systems::add);
    return List.copyOf(systems);
  }

  private static boolean matches(Card.Column column, String word) {
    return column.path().toLowerCase(Locale.ROOT).contains(word)
        || (column.description() != null
            && column.description().toLowerCase(Locale.ROOT).contains(word));
  }
}
