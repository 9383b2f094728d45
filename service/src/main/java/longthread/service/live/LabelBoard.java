package longthread.service.live;

import java.time.Clock;
import java.util.ArrayList;
import java.util.BitSet;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import longthread.core.asset.Card;
import longthread.core.asset.Reference;
import longthread.core.graph.LineageGraph;
import longthread.core.label.LabelSpread;
import org.jspecify.annotations.Nullable;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;

/**
 * Where every label is, as of the newest graph and of what people set. It is worked out when it is
 * asked for after a change: a label that is taken away at its source is gone everywhere at once.
 */
@Component
public class LabelBoard {
  /** Who says that a label is on a column. */
  public enum Manager {
    /** The system itself or an emitter: it is changed there. */
    SOURCE,
    /** A person, here. */
    HAND,
    /** A rule on names, types or terms. */
    RULE;

    /** The word in the interface. */
    public String word() {
      return name().toLowerCase(Locale.ROOT);
    }
  }

  /**
   * By what a label was set.
   *
   * @param word the tag, or the id of the rule
   * @param by who set the tag; absent if nobody says
   */
  public record SetBy(Manager manager, String word, @Nullable String by) {
    /** In words, such as {@code PII by steward}. */
    public String words() {
      return (manager == Manager.RULE ? "rule " : "")
          + word
          + (by == null ? "" : by.startsWith("by ") ? " " + by : " by " + by);
    }

    static SetBy of(Card.Tag tag) {
      Manager manager = "by hand".equals(tag.source()) ? Manager.HAND : Manager.SOURCE;
      return new SetBy(manager, tag.word(), tag.source());
    }
  }

  /**
   * All labels in one graph.
   *
   * @param spreads by label, in order
   * @param set by label, what set it, by node
   * @param onAssets by label, the assets that have it for certain, themselves or on a column
   * @param perhapsOn by label, the assets that have it, for certain or perhaps
   */
  public record State(
      LineageGraph graph,
      LabelSettings.All settings,
      Map<String, LabelSpread> spreads,
      Map<String, Map<Integer, SetBy>> set,
      Map<String, BitSet> onAssets,
      Map<String, BitSet> perhapsOn) {}

  /** Working out the labels is not noticed below so many milliseconds. */
  private static final long QUICK = 30;

  /** The share of the time that may go into keeping up with a graph that changes all the time. */
  private static final int PAUSE = 10;

  private final LabelScheme scheme;
  private final LabelSettings settings;
  private final Catalog catalog;
  private final GraphFollower follower;
  private final Clock clock;
  private volatile @Nullable State state;
  private volatile long cost; // milliseconds that the newest took
  private volatile long renewedAt;

  LabelBoard(
      LabelScheme scheme,
      LabelSettings settings,
      Catalog catalog,
      GraphFollower follower,
      Clock clock) {
    this.clock = clock;
    this.scheme = scheme;
    this.settings = settings;
    this.catalog = catalog;
    this.follower = follower;
  }

  /** As it stands. Takes the time of a walk for each label, if anything has changed. */
  public State now() {
    State known = state;
    return known != null && isOf(known, follower.graph(), settings.now()) ? known : renewed();
  }

  /**
   * As it stands, or lately stood: where working it out takes long, queries that only show labels
   * beside other things do not wait for it.
   */
  private State lately() {
    State known = state;
    return known == null || cost <= QUICK ? now() : known;
  }

  /** Whether something was worked out from the labels that are held now. */
  public boolean isHeld(State labels) {
    return state == labels;
  }

  /** Keeps up with the graph, and lets no old one stay in memory. */
  @Scheduled(fixedDelay = 1_000)
  void keepUp() {
    State known = state;
    boolean isOutdated = known != null && !isOf(known, follower.graph(), settings.now());
    if (isOutdated && clock.millis() - renewedAt >= cost * PAUSE) {
      renewed();
    }
  }

  private synchronized State renewed() {
    LabelSettings.All stated = settings.now();
    LineageGraph graph = follower.graph();
    State known = state;
    if (known == null || !isOf(known, graph, stated)) {
      long began = clock.millis();
      known = of(graph, stated);
      renewedAt = clock.millis();
      cost = renewedAt - began;
      state = known;
    }
    return known;
  }

  private static boolean isOf(State known, LineageGraph graph, LabelSettings.All stated) {
    return known.graph() == graph && known.settings() == stated;
  }

  private State of(LineageGraph graph, LabelSettings.All stated) {
    List<LabelScheme.Label> labels = scheme.all();
    var set = new HashMap<String, Map<Integer, SetBy>>();
    labels.forEach(label -> set.put(label.id(), new HashMap<>()));
    addByRule(graph, stated, set);
    addByTag(graph, labels, set);
    var spreads = new LinkedHashMap<String, LabelSpread>();
    for (LabelScheme.Label label : labels) {
      Set<Integer> at = set.getOrDefault(label.id(), Map.of()).keySet();
      spreads.put(
          label.id(),
          LabelSpread.of(graph, label.rule(), new HashSet<>(at), stops(graph, stated, label.id())));
    }
    var certain = new HashMap<String, BitSet>();
    var perhaps = new HashMap<String, BitSet>();
    spreads.forEach((id, spread) -> noteAssets(graph, id, spread, certain, perhaps));
    return new State(graph, stated, spreads, set, certain, perhaps);
  }

  private static void noteAssets(
      LineageGraph graph,
      String label,
      LabelSpread spread,
      Map<String, BitSet> certain,
      Map<String, BitSet> perhaps) {
    var sure = new BitSet();
    var all = new BitSet();
    for (int node : spread.nodes()) {
      all.set(graph.assetOf(node));
      if (spread.at(node) != LabelSpread.How.PERHAPS) {
        sure.set(graph.assetOf(node));
      }
    }
    certain.put(label, sure);
    perhaps.put(label, all);
  }

  private Set<Integer> stops(LineageGraph graph, LabelSettings.All stated, String label) {
    var nodes = new HashSet<Integer>();
    for (LabelSettings.Stop stop : stated.stops()) {
      if (stop.label().equals(label)) {
        int node = node(graph, stop.at());
        if (node >= 0) {
          nodes.add(node);
        }
      }
    }
    return nodes;
  }

  /** The node of a whole reference that was stated, by the name that its asset goes by now. */
  public int node(LineageGraph graph, String reference) {
    int hash = reference.indexOf('#');
    String asset = catalog.leadOf(hash < 0 ? reference : reference.substring(0, hash));
    int ordinal = graph.asset(asset).orElse(-1);
    String column = hash < 0 ? null : catalog.columnOf(asset, reference.substring(hash + 1));
    return ordinal < 0 ? -1 : graph.node(ordinal, column).orElse(-1);
  }

  private void addByTag(
      LineageGraph graph, List<LabelScheme.Label> labels, Map<String, Map<Integer, SetBy>> set) {
    for (Asset asset : catalog.labelled()) {
      int ordinal = graph.asset(asset.ref()).orElse(-1);
      if (ordinal < 0) {
        continue;
      }
      note(asset.card().tags(), graph.rowsOf(ordinal), labels, set);
      for (Card.Column column : asset.card().columns()) {
        if (!column.tags().isEmpty()) {
          graph
              .node(ordinal, column.path())
              .ifPresent(node -> note(column.tags(), node, labels, set));
        }
      }
    }
  }

  private static void note(
      List<Card.Tag> tags,
      int node,
      List<LabelScheme.Label> labels,
      Map<String, Map<Integer, SetBy>> set) {
    for (Card.Tag tag : tags) {
      for (LabelScheme.Label label : labels) {
        if (label.isMeantBy(tag.word())) {
          set.getOrDefault(label.id(), new HashMap<>()).put(node, SetBy.of(tag));
        }
      }
    }
  }

  /** Sets what rules say. Takes a look at each column, and one at each name that any has. */
  private void addByRule(
      LineageGraph graph, LabelSettings.All stated, Map<String, Map<Integer, SetBy>> set) {
    for (LabelSettings.NameRule rule : stated.rules()) {
      Map<Integer, SetBy> at = set.get(rule.label());
      if (at != null) {
        var by = new SetBy(Manager.RULE, rule.id(), null);
        forEachFit(
            rule.rule(),
            (asset, column) ->
                graph
                    .asset(asset.ref())
                    .ifPresent(
                        ordinal ->
                            graph
                                .node(ordinal, column.path())
                                .ifPresent(node -> at.put(node, by))));
      }
    }
  }

  /** Visits a column that a rule fits. */
  public interface Fit {
    void visit(Asset asset, Card.Column column);
  }

  /** Visits all columns that a rule fits, of assets that are not retired, in no order. */
  public void forEachFit(longthread.core.label.ColumnRule rule, Fit visit) {
    var byName = new HashMap<String, Boolean>();
    for (Asset asset : catalog.all()) {
      if (Reference.isJob(asset.ref()) || asset.card().retired()) {
        continue;
      }
      for (Card.Column column : asset.card().columns()) {
        boolean isNamed = byName.computeIfAbsent(column.path(), rule::fitsName);
        if (isNamed && rule.fitsElse(column.type(), column.terms(), asset.system())) {
          visit.visit(asset, column);
        }
      }
    }
  }

  /**
   * A label of a column or asset.
   *
   * @param how set, inherited or perhaps
   * @param from where it was set; absent where it was set here
   * @param setBy what set it, in words; absent where it was not set here
   * @param managed source, hand or rule: who says that it is there; absent where it is not set here
   */
  public record Labelled(
      String label,
      String title,
      String how,
      @Nullable String from,
      @Nullable String setBy,
      @Nullable String managed) {}

  /** The labels of a node of the newest graph, by reference and path; null for the whole asset. */
  public List<Labelled> of(String asset, @Nullable String column) {
    State now = now();
    int ordinal = now.graph().asset(asset).orElse(-1);
    int node = ordinal < 0 ? -1 : now.graph().node(ordinal, column).orElse(-1);
    if (node < 0) {
      return List.of();
    }
    var labels = new ArrayList<Labelled>();
    now.spreads()
        .forEach(
            (id, spread) -> {
              LabelSpread.How how = spread.at(node);
              if (how != null) {
                labels.add(labelled(now, id, spread, node, how));
              }
            });
    return labels;
  }

  private Labelled labelled(
      State now, String id, LabelSpread spread, int node, LabelSpread.How how) {
    boolean isSet = how == LabelSpread.How.SET;
    SetBy by = isSet ? setBy(now, id, node) : null;
    return new Labelled(
        id,
        scheme.named(id).title(),
        word(how),
        isSet ? null : now.graph().reference(spread.originOf(node)),
        by == null ? null : by.words(),
        by == null ? null : by.manager().word());
  }

  /** The labels that an asset has anywhere, or may have: on a column, or as a whole. */
  public Set<String> labelsOf(String asset) {
    State lately = lately();
    return labels(lately, lately.perhapsOn(), asset);
  }

  private static Set<String> labels(State state, Map<String, BitSet> on, String asset) {
    int ordinal = -1;
    Set<String> labels = Set.of();
    for (var one : on.entrySet()) {
      if (one.getValue().isEmpty()) {
        continue;
      }
      ordinal = ordinal < 0 ? state.graph().asset(asset).orElse(Integer.MAX_VALUE) : ordinal;
      if (one.getValue().get(ordinal)) {
        labels = labels.isEmpty() ? new TreeSet<>() : labels;
        labels.add(one.getKey());
      }
    }
    return labels;
  }

  /**
   * The words of an asset's tags, and the labels that it has for certain, in order. Of a graph that
   * changes all the time it may be that of some seconds ago.
   */
  public List<String> wordsOf(Asset asset) {
    if (asset.isRestricted()) {
      return List.of();
    }
    State lately = lately();
    Set<String> labels = labels(lately, lately.onAssets(), asset.ref());
    if (labels.isEmpty()) {
      return asset.labels();
    }
    labels.addAll(asset.labels());
    return List.copyOf(labels);
  }

  /** What set a label at a node, or on its whole asset; null if it was not set there. */
  public static @Nullable SetBy setBy(State state, String label, int node) {
    Map<Integer, SetBy> set = state.set().getOrDefault(label, Map.of());
    LineageGraph graph = state.graph();
    return set.getOrDefault(node, set.get(graph.rowsOf(graph.assetOf(node))));
  }

  /** How a column has a label, in a word. */
  public static String word(LabelSpread.How how) {
    return how.name().toLowerCase(Locale.ROOT);
  }
}
