package longthread.service.labels;

import java.time.Clock;
import java.time.Instant;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.stream.Collectors;
import longthread.core.asset.Card;
import longthread.core.asset.Owner;
import longthread.core.asset.Reference;
import longthread.core.graph.LineageGraph;
import longthread.core.json.CanonicalJson;
import longthread.core.label.ColumnRule;
import longthread.core.label.LabelSpread;
import longthread.core.label.ValueKind;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.LabelBoard;
import longthread.service.live.LabelScheme;
import longthread.service.live.LabelSettings;
import longthread.service.live.ValueSamples;
import longthread.service.statements.Dismissals;
import longthread.service.web.Pages;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Service;

/** What is left to do for whoever keeps the labels: what has none, and what sources disagree on. */
@Service
class LabelWork {
  private static final int MAX_TRIED = 2_000;
  private static final int ID_LENGTH = 16;

  /** How much of a system's columns has a label. */
  record LabelledSystem(String system, int columns, int labelled, int perhaps, int suggested) {}

  /**
   * A column that a rule fits.
   *
   * @param has whether it has the label already
   */
  record TriedColumn(String ref, String name, String system, @Nullable String type, boolean has) {}

  /** What a rule would label, of at most 2,000 columns; {@code added} have no such label now. */
  record RuleTry(int fits, int added, List<TriedColumn> columns) {}

  /**
   * A column that looks as if it should have a label.
   *
   * @param id by which it is declined
   * @param evidence why, in words
   */
  record LabelSuggestion(
      String id,
      String ref,
      String name,
      String system,
      List<Owner> owners,
      String label,
      String title,
      List<String> evidence) {}

  /** What one source says of a column. */
  record SourceLabels(String part, String system, List<String> labels) {}

  /** A column of which several sources set labels, not the same. */
  record Disagreement(String ref, String name, List<Owner> owners, List<SourceLabels> sources) {}

  /** A place at which somebody is to look at a label again. */
  record Review(
      String id,
      String what,
      String label,
      String ref,
      String name,
      String reason,
      String by,
      Instant due,
      boolean isDue) {}

  /** Names that mostly hold such data, in English; a house adds its own by rules. */
  private static final Map<String, ColumnRule> SENSITIVE = sensitive();

  private static Map<String, ColumnRule> sensitive() {
    var rules = new TreeMap<String, ColumnRule>();
    List<String> derived =
        List.of("*hash*", "*masked*", "*_count", "*_flag", "has_*", "is_*", "n_*", "num_*");
    rules.put(
        "personal",
        names(
            derived,
            List.of(
                "*iban*",
                "*account_number*",
                "*phone*",
                "mobile*",
                "*email*",
                "*e_mail*",
                "contact_name",
                "first_name",
                "firstname",
                "last_name",
                "lastname",
                "surname",
                "full_name",
                "person_name",
                "*birth*",
                "*passport*",
                "*national_id*",
                "*street*",
                "*postal_address*",
                "*home_address*",
                "*ip_address*")));
    rules.put(
        "health",
        names(
            derived,
            List.of(
                "*diagnos*",
                "*blood_type*",
                "*illness*",
                "*disab*",
                "*medication*",
                "*sick_leave*",
                "*pregnan*")));
    rules.put(
        "financial", names(derived, List.of("*salary*", "*wage*", "*credit_limit*", "*margin*")));
    rules.put(
        "confidential",
        names(
            derived,
            List.of(
                "*password*",
                "*passwd*",
                "*secret*",
                "*api_key*",
                "*access_token*",
                "*private_key*")));
    return rules;
  }

  private static ColumnRule names(List<String> except, List<String> names) {
    return ColumnRule.of(names, except, List.of(), List.of(), List.of());
  }

  private final LabelScheme scheme;
  private final LabelBoard board;
  private final Catalog catalog;
  private final Dismissals dismissals;
  private final ValueSamples samples;
  private final Clock clock;

  LabelWork(
      LabelScheme scheme,
      LabelBoard board,
      Catalog catalog,
      Dismissals dismissals,
      ValueSamples samples,
      Clock clock) {
    this.samples = samples;
    this.scheme = scheme;
    this.board = board;
    this.catalog = catalog;
    this.dismissals = dismissals;
    this.clock = clock;
  }

  // ------------------------------------------------------------------ rules

  /** What a rule would label, before it is set. */
  RuleTry tryRule(String label, ColumnRule rule) {
    LabelBoard.State now = board.now();
    LabelSpread spread = now.spreads().get(scheme.named(label).id());
    var columns = new ArrayList<TriedColumn>();
    board.forEachFit(
        rule,
        (asset, column) -> {
          int node = node(now.graph(), asset, column);
          columns.add(
              new TriedColumn(
                  asset.ref() + "#" + column.path(),
                  asset.shown() + "#" + column.path(),
                  asset.system(),
                  column.type(),
                  node >= 0 && spread != null && spread.at(node) != null));
        });
    columns.sort(Comparator.comparing(TriedColumn::has).thenComparing(TriedColumn::ref));
    int added = (int) columns.stream().filter(column -> !column.has()).count();
    return new RuleTry(
        columns.size(),
        added,
        List.copyOf(columns.subList(0, Math.min(MAX_TRIED, columns.size()))));
  }

  private static int node(LineageGraph graph, Asset asset, Card.Column column) {
    int ordinal = graph.asset(asset.ref()).orElse(-1);
    return ordinal < 0 ? -1 : graph.node(ordinal, column.path()).orElse(-1);
  }

  // ------------------------------------------------------------------ coverage, suggestions

  /** How many columns have labels, by system in order; also those that only lineage knows. */
  List<LabelledSystem> coverage() {
    LabelBoard.State now = board.now();
    LineageGraph graph = now.graph();
    var sure = new java.util.BitSet();
    var perhaps = new java.util.BitSet();
    now.spreads()
        .values()
        .forEach(
            spread -> {
              for (int node : spread.nodes()) {
                (spread.at(node) == LabelSpread.How.PERHAPS ? perhaps : sure).set(node);
              }
            });
    perhaps.andNot(sure);
    var suggested = new HashMap<String, Integer>();
    proposed().forEach(one -> suggested.merge(one.asset().system(), 1, Integer::sum));
    var counts = new TreeMap<String, int[]>();
    for (Asset asset : catalog.all()) {
      if (Reference.isJob(asset.ref()) || asset.card().retired()) {
        continue;
      }
      int[] of = counts.computeIfAbsent(asset.system(), s -> new int[3]);
      int ordinal = graph.asset(asset.ref()).orElse(-1);
      if (ordinal < 0) {
        of[0] += asset.card().columns().size();
      } else {
        graph.forEachColumn(
            ordinal,
            node -> {
              of[0]++;
              of[1] += sure.get(node) ? 1 : 0;
              of[2] += perhaps.get(node) ? 1 : 0;
            });
      }
    }
    var systems = new ArrayList<LabelledSystem>();
    counts.forEach(
        (system, of) ->
            systems.add(
                new LabelledSystem(
                    system, of[0], of[1], of[2], suggested.getOrDefault(system, 0))));
    systems.removeIf(system -> system.columns() == 0);
    return systems;
  }

  /** A column that a label is proposed for; dressed when somebody looks at it. */
  private record Proposed(
      LabelScheme.Label label,
      Asset asset,
      String path,
      boolean byName,
      int sameName,
      @Nullable String looks) {
    String ref() {
      return asset.ref() + "#" + path;
    }

    String id() {
      return "label-" + CanonicalJson.digest(label.id() + "\n" + ref()).substring(0, ID_LENGTH);
    }
  }

  /** Columns without a label whose names or sampled values look sensitive. */
  List<LabelSuggestion> suggestions() {
    return Pages.made(proposed(), LabelWork::suggestion);
  }

  private List<Proposed> proposed() {
    LabelBoard.State now = board.now();
    Set<String> dismissed =
        dismissals.ids().stream().filter(id -> id.startsWith("label-")).collect(Collectors.toSet());
    var found = new ArrayList<Proposed>();
    for (LabelScheme.Label label : scheme.all()) {
      LabelSpread spread = now.spreads().get(label.id());
      if (spread != null) {
        new Proposing(label, now, spread, dismissed, found).propose();
      }
    }
    found.sort(
        Comparator.comparing((Proposed one) -> one.looks() == null && one.sameName() == 0)
            .thenComparing(one -> one.asset().ref())
            .thenComparing(Proposed::path));
    return found;
  }

  /** Gathers the columns that one label is proposed for, by their names and by their values. */
  private final class Proposing {
    private final LabelScheme.Label label;
    private final LabelBoard.State now;
    private final LabelSpread spread;
    private final Set<String> dismissed;
    private final Set<String> stops;
    private final Map<String, Integer> names;
    private final Map<String, String> looks; // those of columns that no name rule fits, in the end
    private final List<Proposed> found;

    Proposing(
        LabelScheme.Label label,
        LabelBoard.State now,
        LabelSpread spread,
        Set<String> dismissed,
        List<Proposed> found) {
      this.label = label;
      this.now = now;
      this.spread = spread;
      this.dismissed = dismissed;
      this.found = found;
      stops = stops(now, label.id());
      names = namesOf(now.graph(), spread);
      looks = looks(label.id());
    }

    void propose() {
      ColumnRule rule = SENSITIVE.get(label.id());
      if (rule != null) {
        board.forEachFit(rule, (asset, column) -> add(asset, column, true));
      }
      for (String ref : List.copyOf(looks.keySet())) {
        int hash = ref.indexOf('#');
        String path = ref.substring(hash + 1);
        catalog.known(ref.substring(0, hash)).stream()
            .flatMap(asset -> asset.card().columns().stream().map(c -> Map.entry(asset, c)))
            .filter(one -> one.getValue().path().equals(path))
            .forEach(one -> add(one.getKey(), one.getValue(), false));
      }
    }

    private void add(Asset asset, Card.Column column, boolean byName) {
      String ref = asset.ref() + "#" + column.path();
      int sameName = names.getOrDefault(column.path(), 0);
      var one = new Proposed(label, asset, column.path(), byName, sameName, looks.remove(ref));
      boolean isStopped = stops.contains(asset.ref()) || stops.contains(ref);
      boolean isDismissed = !dismissed.isEmpty() && dismissed.contains(one.id());
      if (!isStopped && !isDismissed && isWithout(now.graph(), spread, asset, column)) {
        found.add(one);
      }
    }
  }

  /** What sampled values look like that mostly have a label, in words, by column. */
  private Map<String, String> looks(String label) {
    var looks = new TreeMap<String, String>();
    for (ValueSamples.Sampled sampled : samples.all().values()) {
      for (ValueSamples.ColumnLooks one : sampled.looks()) {
        ValueKind kind = one.valueKind();
        if (kind != null && kind.label().equals(label)) {
          looks.put(
              sampled.asset() + "#" + one.path(),
              one.matched()
                  + " of "
                  + one.looked()
                  + " values look like "
                  + kind.words()
                  + ", sampled "
                  + DateTimeFormatter.ISO_LOCAL_DATE.format(sampled.at().atOffset(ZoneOffset.UTC)));
        }
      }
    }
    return looks;
  }

  /** Whether a column has no such label, and is no masked copy of one that has. */
  private static boolean isWithout(
      LineageGraph graph, LabelSpread spread, Asset asset, Card.Column column) {
    int node = node(graph, asset, column);
    return node < 0 || (spread.at(node) == null && !spread.isMaskedAt(node));
  }

  /** Where a label is stopped, by the names that assets go by now. */
  private Set<String> stops(LabelBoard.State now, String label) {
    return now.settings().stops().stream()
        .filter(stop -> stop.label().equals(label))
        .map(LabelSettings.Stop::at)
        .map(
            at -> {
              int hash = at.indexOf('#');
              return hash < 0
                  ? catalog.leadOf(at)
                  : catalog.leadOf(at.substring(0, hash)) + at.substring(hash);
            })
        .collect(Collectors.toSet());
  }

  /** How often a column of each name has a label for certain. */
  private static Map<String, Integer> namesOf(LineageGraph graph, LabelSpread spread) {
    var names = new HashMap<String, Integer>();
    for (int node : spread.nodes()) {
      if (!graph.isRows(node) && spread.at(node) != LabelSpread.How.PERHAPS) {
        names.merge(graph.columnOf(node), 1, Integer::sum);
      }
    }
    return names;
  }

  private static LabelSuggestion suggestion(Proposed one) {
    LabelScheme.Label label = one.label();
    var evidence = new ArrayList<String>();
    if (one.looks() != null) {
      evidence.add(one.looks());
    }
    if (one.byName()) {
      evidence.add("its name mostly stands for " + label.id() + " data");
    }
    if (one.sameName() > 0) {
      evidence.add(
          one.sameName() == 1
              ? "a column of the same name has the label"
              : one.sameName() + " columns of the same name have the label");
    }
    return new LabelSuggestion(
        one.id(),
        one.ref(),
        one.asset().shown() + "#" + one.path(),
        one.asset().system(),
        one.asset().card().owners(),
        label.id(),
        label.title(),
        evidence);
  }

  // ------------------------------------------------------------------ disagreements

  /** Columns of which two sources that both set labels say different things. */
  List<Disagreement> disagreements() {
    var found = new ArrayList<Disagreement>();
    for (Asset asset : catalog.labelled()) {
      if (asset.parts().size() < 2) {
        continue;
      }
      List<Card> managing =
          asset.parts().stream()
              .map(part -> catalog.card(part).orElse(null))
              .filter(card -> card != null && managesLabels(card))
              .toList();
      if (managing.size() > 1) {
        for (Card.Column column : asset.card().columns()) {
          compare(asset, column.path(), managing, found);
        }
      }
    }
    found.sort(Comparator.comparing(Disagreement::ref));
    return found;
  }

  /** Whether a source says of any column, or of the whole, which labels it has. */
  private boolean managesLabels(Card card) {
    return !labels(card.tags()).isEmpty()
        || card.columns().stream().anyMatch(column -> !labels(column.tags()).isEmpty());
  }

  private TreeSet<String> labels(List<Card.Tag> tags) {
    var labels = new TreeSet<String>();
    for (Card.Tag tag : tags) {
      if (!"by hand".equals(tag.source())) {
        scheme.meantBy(tag.word()).ifPresent(label -> labels.add(label.id()));
      }
    }
    return labels;
  }

  private void compare(Asset asset, String path, List<Card> managing, List<Disagreement> found) {
    var said = new ArrayList<SourceLabels>();
    for (Card card : managing) {
      card.columns().stream()
          .filter(column -> column.path().equals(path))
          .findFirst()
          .ifPresent(
              column -> {
                TreeSet<String> labels = labels(card.tags());
                labels.addAll(labels(column.tags()));
                said.add(
                    new SourceLabels(
                        card.ref(), catalog.systemOfName(card.ref()), List.copyOf(labels)));
              });
    }
    if (said.stream().map(SourceLabels::labels).distinct().count() > 1) {
      found.add(
          new Disagreement(
              asset.ref() + "#" + path, asset.shown() + "#" + path, asset.card().owners(), said));
    }
  }

  // ------------------------------------------------------------------ reviews

  /** When stops, and leaks that are accepted, are to be looked at again; the first due first. */
  List<Review> reviews() {
    Instant moment = clock.instant();
    var reviews = new ArrayList<Review>();
    LabelBoard.State now = board.now();
    now.settings()
        .stops()
        .forEach(
            stop ->
                reviews.add(
                    new Review(
                        stop.id(),
                        "label-stop",
                        stop.label(),
                        stop.at(),
                        name(stop.at()),
                        stop.reason(),
                        stop.origin().by(),
                        stop.review(),
                        !stop.review().isAfter(moment))));
    now.settings()
        .accepted()
        .forEach(
            one ->
                reviews.add(
                    new Review(
                        one.id(),
                        "leak-accepted",
                        one.label(),
                        one.at(),
                        name(one.at()),
                        one.reason(),
                        one.origin().by(),
                        one.until(),
                        !one.until().isAfter(moment))));
    reviews.sort(Comparator.comparing(Review::due).thenComparing(Review::id));
    return reviews;
  }

  private String name(String ref) {
    int hash = ref.indexOf('#');
    String asset = hash < 0 ? ref : ref.substring(0, hash);
    return catalog.asset(asset).map(Asset::shown).orElse(asset)
        + (hash < 0 ? "" : ref.substring(hash));
  }
}
