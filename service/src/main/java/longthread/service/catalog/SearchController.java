package longthread.service.catalog;

import java.util.ArrayList;
import java.util.Collection;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.function.Function;
import longthread.core.asset.Card;
import longthread.service.lineage.GraphFollower;
import longthread.service.web.Pages;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.transaction.TransactionException;
import org.springframework.transaction.support.TransactionTemplate;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Finding by words and browsing by containers. */
@RestController
class SearchController {
  /** How alike a typed word and a stored one must be, from 0 to 1, to count as a typing slip. */
  private static final double ALIKE = 0.42;

  private static final int MOST_HITS = 5_000;

  /** What a word scores that was found by likeness only. */
  private static final double BY_LIKENESS = 0.2;

  private static final Logger LOG = LoggerFactory.getLogger(SearchController.class);

  /** A hit; {@code columns} are the columns whose name or description the words matched. */
  record Hit(
      String ref,
      String kind,
      String name,
      @Nullable String title,
      String system,
      List<String> container,
      @Nullable String description,
      List<String> owners,
      List<String> labels,
      boolean retired,
      boolean described,
      List<String> columns,
      double score) {}

  /** How many hits each value would leave. */
  record Facets(
      Map<String, Integer> kind,
      Map<String, Integer> system,
      Map<String, Integer> owner,
      Map<String, Integer> label) {}

  record Found(List<Hit> hits, int total, Facets facets, @Nullable String cursor) {}

  /** A level of browsing: containers below it, and the assets that are directly in it. */
  record Level(List<String> path, List<Container> containers, List<Hit> assets) {}

  record Container(String name, int assets) {}

  private final Catalog catalog;
  private final GraphFollower follower;
  private final Pages pages;
  private final JdbcTemplate jdbc;
  private final TransactionTemplate transactions;

  SearchController(
      Catalog catalog,
      GraphFollower follower,
      Pages pages,
      JdbcTemplate jdbc,
      TransactionTemplate transactions) {
    this.catalog = catalog;
    this.follower = follower;
    this.pages = pages;
    this.jdbc = jdbc;
    this.transactions = transactions;
  }

  @GetMapping("/api/v1/search")
  Found search(
      @RequestParam(defaultValue = "") String q,
      @RequestParam(required = false) @Nullable String kind,
      @RequestParam(required = false) @Nullable String system,
      @RequestParam(required = false) @Nullable String owner,
      @RequestParam(required = false) @Nullable String label,
      @RequestParam(required = false) @Nullable Integer limit,
      @RequestParam(required = false) @Nullable String cursor,
      @RequestParam(required = false) @Nullable String after) {
    follower.see(after);
    int most = Pages.limit(limit);
    List<Hit> matched = matched(q.strip());
    var filters = new LinkedHashMap<String, @Nullable String>();
    filters.put("kind", kind);
    filters.put("system", system);
    filters.put("owner", owner);
    filters.put("label", label);
    List<Hit> hits = matched.stream().filter(hit -> passes(hit, filters, "")).toList();
    Pages.Page<Hit> page = cursor == null ? pages.first(hits, most) : pages.next(cursor, most);
    var facets =
        new Facets(
            counts(matched, filters, "kind", hit -> List.of(hit.kind())),
            counts(matched, filters, "system", hit -> List.of(hit.system())),
            counts(matched, filters, "owner", Hit::owners),
            counts(matched, filters, "label", Hit::labels));
    return new Found(page.items(), page.total(), facets, page.cursor());
  }

  /**
   * Counts over the hits that pass all filters but the facet's own, so that a choice can change.
   */
  private static Map<String, Integer> counts(
      List<Hit> matched,
      Map<String, @Nullable String> filters,
      String facet,
      Function<Hit, Collection<String>> values) {
    var counts = new TreeMap<String, Integer>();
    matched.stream()
        .filter(hit -> passes(hit, filters, facet))
        .forEach(hit -> values.apply(hit).forEach(value -> counts.merge(value, 1, Integer::sum)));
    return counts;
  }

  private static boolean passes(Hit hit, Map<String, @Nullable String> filters, String but) {
    return passes(filters, but, "kind", List.of(hit.kind()))
        && passes(filters, but, "system", List.of(hit.system()))
        && passes(filters, but, "owner", hit.owners())
        && passes(filters, but, "label", hit.labels());
  }

  private static boolean passes(
      Map<String, @Nullable String> filters, String but, String facet, List<String> values) {
    String wanted = filters.get(facet);
    return wanted == null || wanted.isEmpty() || facet.equals(but) || values.contains(wanted);
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
        .limit(MOST_HITS)
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
    List<String> refs = refsWith(words, " and ");
    if (refs.isEmpty() && words.size() > 1) {
      refs = refsWith(words, " or ");
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

  private List<Hit> byAddress(String address) {
    return jdbc
        .queryForList(
            "select ref from card where url is not null and (? = url or starts_with(?, url || '?')"
                + " or starts_with(?, url || '#') or starts_with(?, url || '/'))"
                + " order by length(url) desc, ref limit 50",
            String.class,
            address,
            address,
            address,
            address)
        .stream()
        .flatMap(ref -> catalog.asset(ref).stream())
        .map(asset -> hit(asset, List.of(), 1))
        .toList();
  }

  /** Every word must stand in the card's text, or something like it; some word, if joined by or. */
  private List<String> refsWith(List<String> words, String join) {
    var sql = new StringBuilder("select ref from card where ");
    sql.append(join.equals(" and "));
    var parameters = new ArrayList<Object>();
    for (String word : words) {
      sql.append(join).append("(haystack like ? escape '!' or ? <% haystack)");
      parameters.add("%" + word.replace("!", "!!").replace("%", "!%").replace("_", "!_") + "%");
      parameters.add(word);
    }
    sql.append(" limit ").append(MOST_HITS);
    List<String> refs =
        transactions.execute(
            status -> {
              jdbc.execute("set local pg_trgm.word_similarity_threshold = " + ALIKE);
              return jdbc.queryForList(sql.toString(), String.class, parameters.toArray());
            });
    return refs == null ? List.of() : refs;
  }

  /** Where a word stands tells how much it counts: name before title, column, owner and text. */
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

  private static Hit hit(Asset asset, List<String> words, double score) {
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
        card.container(),
        card.description(),
        asset.ownerNames(),
        asset.labels(),
        card.retired(),
        card.described(),
        columns,
        Math.round(score * 1000) / 1000.0);
  }

  private static boolean matches(Card.Column column, String word) {
    return column.path().toLowerCase(Locale.ROOT).contains(word)
        || (column.description() != null
            && column.description().toLowerCase(Locale.ROOT).contains(word));
  }

  @GetMapping("/api/v1/browse")
  Level browse(@RequestParam(required = false) @Nullable List<String> path) {
    List<String> at = path == null ? List.of() : path;
    var containers = new TreeMap<String, Integer>();
    var assets = new ArrayList<Hit>();
    for (Asset asset : catalog.all()) {
      var place = new ArrayList<String>(List.of(asset.system()));
      place.addAll(asset.card().container());
      if (place.size() < at.size() || !place.subList(0, at.size()).equals(at)) {
        continue;
      }
      if (place.size() > at.size()) {
        containers.merge(place.get(at.size()), 1, Integer::sum);
      } else {
        assets.add(hit(asset, List.of(), 1));
      }
    }
    // A pipeline is the container of its tasks; it is opened as such and not listed beside itself.
    Set<String> names = new LinkedHashSet<>(containers.keySet());
    assets.sort(
        Comparator.comparing((Hit h) -> names.contains(h.name()) ? 0 : 1)
            .thenComparing(Hit::kind)
            .thenComparing(Hit::name));
    return new Level(
        at,
        containers.entrySet().stream().map(e -> new Container(e.getKey(), e.getValue())).toList(),
        assets);
  }
}
