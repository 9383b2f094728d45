package longthread.service.catalog;

import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.TreeMap;
import longthread.core.asset.Card;
import longthread.core.search.WordIndex;
import longthread.service.health.AssetHealth;
import longthread.service.health.HealthBoard;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.Dependents;
import longthread.service.live.Glossary;
import longthread.service.live.LabelBoard;
import longthread.service.live.Sight;
import longthread.service.storage.catalog.CardQueries;
import longthread.service.web.Pages;
import org.jspecify.annotations.Nullable;
import org.springframework.dao.DataAccessException;
import org.springframework.stereotype.Service;
import org.springframework.transaction.TransactionException;

/** Finds assets by words, and counts what each filter would leave. */
@Service
class Search {
  private static final int MAX_NAMES = 50; // of an asset whose systems all count

  /** What an asset scores at least that has a term of these words. */
  private static final double BY_TERM = 0.7;

  /**
   * A hit.
   *
   * @param systems those of all its names, where it has several
   * @param columns those whose name or description the words matched
   * @param dependents how many assets rest on it, near or far
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
      int dependents,
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
          dependents,
          how);
    }
  }

  /** How many hits each value would leave. */
  record Facets(
      Map<String, Integer> kind,
      Map<String, Integer> system,
      Map<String, Integer> owner,
      Map<String, Integer> label) {}

  /**
   * All hits, the best first.
   *
   * @param restricted how many assets were not searched, since the caller may not see them
   */
  record Found(List<Hit> hits, Facets facets, int restricted) {}

  /** What hits must have; null or empty for anything. */
  record Filters(
      @Nullable String kind,
      @Nullable String system,
      @Nullable String owner,
      @Nullable String label) {
    private boolean isEmpty() {
      return !isSet(kind) && !isSet(system) && !isSet(owner) && !isSet(label);
    }

    private static boolean isSet(@Nullable String wanted) {
      return wanted != null && !wanted.isEmpty();
    }

    private static boolean passes(@Nullable String wanted, Collection<String> values) {
      return !isSet(wanted) || values.contains(wanted);
    }
  }

  private final Catalog catalog;
  private final CardQueries cards;
  private final Glossary glossary;
  private final HealthBoard health;
  private final Dependents dependents;
  private final LabelBoard labels;
  private volatile Everything everything = new Everything(null, -1, List.of());

  Search(
      Catalog catalog,
      CardQueries cards,
      Glossary glossary,
      HealthBoard health,
      Dependents dependents,
      LabelBoard labels) {
    this.catalog = catalog;
    this.cards = cards;
    this.glossary = glossary;
    this.health = health;
    this.dependents = dependents;
    this.labels = labels;
  }

  /** The same hits with how their assets do. */
  List<Hit> withHealth(List<Hit> hits) {
    return hits.stream()
        .map(hit -> catalog.asset(hit.ref()).map(a -> hit.with(health.of(a))).orElse(hit))
        .toList();
  }

  /** A match before it is dressed: its page alone is. */
  private record Match(Asset asset, double score) {}

  /** All assets in the order in which they are listed, as of a version of the catalog. */
  private record Everything(@Nullable WordIndex<Asset> index, int version, List<Match> matches) {}

  /** The assets that match words, an address or a reference; all for an empty query. */
  Found find(String query, Filters filters) {
    String q = query.strip();
    List<String> words = q.isEmpty() || q.contains("://") ? List.of() : words(q);
    List<Match> matched = matched(q, words);
    Sight sight = Sight.now();
    if (!sight.isWhole()) {
      matched = matched.stream().filter(match -> sight.sees(match.asset())).toList();
    }
    var counts = new Counts(filters);
    List<Match> passing = matched;
    if (filters.isEmpty()) {
      matched.forEach(counts::add);
    } else {
      passing = matched.stream().filter(counts::add).toList();
    }
    List<Match> hits = passing;
    return new Found(
        Pages.made(hits, match -> hit(match.asset(), words, match.score())),
        counts.facets(),
        catalog.hidden());
  }

  /** What each filter would leave: over the hits that pass all other filters. */
  private final class Counts {
    private final Filters filters;
    private final Map<String, Integer> kinds = new HashMap<>();
    private final Map<String, Integer> systems = new HashMap<>();
    private final Map<String, Integer> owners = new HashMap<>();
    private final Map<String, Integer> byLabel = new HashMap<>();

    Counts(Filters filters) {
      this.filters = filters;
    }

    /** Counts a match; returns whether it passes all filters. */
    boolean add(Match match) {
      Asset asset = match.asset();
      List<String> kind = List.of(asset.kind().word());
      List<String> inSystems = systems(asset);
      List<String> owned = asset.ownerNames();
      List<String> labelled = labels.wordsOf(asset);
      boolean byKind = Filters.passes(filters.kind(), kind);
      boolean bySystem = Filters.passes(filters.system(), inSystems);
      boolean byOwner = Filters.passes(filters.owner(), owned);
      boolean isLabelled = Filters.passes(filters.label(), labelled);
      count(kind, kinds, bySystem && byOwner && isLabelled);
      count(inSystems, systems, byKind && byOwner && isLabelled);
      count(owned, owners, byKind && bySystem && isLabelled);
      count(labelled, byLabel, byKind && bySystem && byOwner);
      return byKind && bySystem && byOwner && isLabelled;
    }

    private static void count(
        Collection<String> values, Map<String, Integer> counts, boolean others) {
      if (others) {
        values.forEach(value -> counts.merge(value, 1, Integer::sum));
      }
    }

    Facets facets() {
      return new Facets(
          new TreeMap<>(kinds),
          new TreeMap<>(systems),
          new TreeMap<>(owners),
          new TreeMap<>(byLabel));
    }
  }

  private List<Match> matched(String q, List<String> words) {
    if (q.isEmpty()) {
      return everything();
    }
    if (q.contains("://")) {
      List<Match> byAddress = byAddress(q);
      List<String> asWords = words(q);
      return byAddress.isEmpty() && !asWords.isEmpty() ? found(asWords) : byAddress;
    }
    return words.isEmpty() ? everything() : found(words);
  }

  /** All assets, described ones first; sorted once for each change of the catalog. */
  private List<Match> everything() {
    WordIndex<Asset> index = catalog.words();
    int version = index.version();
    Everything known = everything;
    if (known.index() != index || known.version() != version) {
      var all = new ArrayList<Match>();
      for (Asset asset : index.all()) {
        all.add(new Match(asset, asset.card().described() ? 1 : 0));
      }
      all.sort(
          Comparator.comparing(Match::score)
              .reversed()
              .thenComparing(match -> match.asset().system())
              .thenComparing(match -> match.asset().ref()));
      known = new Everything(index, version, List.copyOf(all));
      everything = known;
    }
    return known.matches();
  }

  private static List<String> words(String q) {
    return List.of(q.replace("\0", "").toLowerCase(Locale.ROOT).split("[\\s,]+")).stream()
        .filter(word -> !word.isEmpty())
        .limit(8)
        .toList();
  }

  private List<Match> found(List<String> words) {
    List<WordIndex.Hit<Asset>> hits =
        catalog
            .words()
            .find(words, Search::wordScore, Search::standing, asset -> dependents.of(asset.ref()));
    List<Asset> byTerm = withTerm(words);
    if (byTerm.isEmpty()) {
      return Pages.made(hits, hit -> new Match(hit.thing(), hit.score()));
    }
    var matches = new LinkedHashMap<String, Match>();
    for (Asset asset : byTerm) {
      double score =
          words.stream().mapToDouble(word -> wordScore(asset, word)).sum() / words.size();
      matches.put(asset.ref(), new Match(asset, Math.max(BY_TERM, score * standing(asset))));
    }
    for (WordIndex.Hit<Asset> hit : hits) {
      matches.putIfAbsent(hit.thing().ref(), new Match(hit.thing(), hit.score()));
    }
    var all = new ArrayList<>(matches.values());
    all.sort(Comparator.comparing(Match::score).reversed()); // stable: equal ones stay as they are
    return all;
  }

  /** What is retired counts half, and what is only mentioned somewhere less. */
  private static double standing(Asset asset) {
    Card card = asset.card();
    return (card.retired() ? 0.5 : 1) * (card.described() ? 1 : 0.7);
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
            .toList();
  }

  /** The assets with a web address; none while the database is away, which alone knows them. */
  private List<Match> byAddress(String address) {
    try {
      return cards.byAddress(address).stream()
          .flatMap(ref -> catalog.asset(ref).stream())
          .map(asset -> new Match(asset, 1))
          .toList();
    } catch (DataAccessException | TransactionException e) {
      return List.of();
    }
  }

  /** How well a word stands in an asset, as it is written; 0 if it does not. */
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
    for (String text : asset.labels()) {
      best = Math.max(best, contained(text.toLowerCase(Locale.ROOT), word, 0.6));
    }
    for (String part : asset.parts()) {
      best = Math.max(best, contained(part.toLowerCase(Locale.ROOT), word, 0.55));
    }
    String rest = asset.system() + "\n" + String.join("\n", card.container()) + "\n" + card.url();
    return Math.max(best, contained(rest.toLowerCase(Locale.ROOT), word, 0.5));
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
        labels.wordsOf(asset),
        glossary.wordsOf(asset),
        card.retired(),
        card.described(),
        columns,
        Math.round(score * 1000) / 1000.0,
        dependents.of(asset.ref()),
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
