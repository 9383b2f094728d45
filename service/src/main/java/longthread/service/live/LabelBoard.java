package longthread.service.live;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import longthread.core.asset.Card;
import longthread.core.graph.LineageGraph;
import longthread.core.label.LabelSpread;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Component;

/**
 * Where every label is, as of the newest graph. It is worked out when it is asked for after a
 * change: a label that is taken away at its source is gone everywhere at once.
 */
@Component
public class LabelBoard {
  /**
   * All labels in one graph.
   *
   * @param spreads by label, in order
   * @param set by label, the tags that set it, by node
   */
  public record State(
      LineageGraph graph,
      Map<String, LabelSpread> spreads,
      Map<String, Map<Integer, Card.Tag>> set) {}

  private final LabelScheme scheme;
  private final Catalog catalog;
  private final GraphFollower follower;
  private volatile State state;

  LabelBoard(LabelScheme scheme, Catalog catalog, GraphFollower follower) {
    this.scheme = scheme;
    this.catalog = catalog;
    this.follower = follower;
    this.state = of(follower.graph());
  }

  /** As it stands. Takes the time of a walk for each label, if the graph has changed. */
  public State now() {
    LineageGraph graph = follower.graph();
    State known = state;
    if (known.graph() == graph) {
      return known;
    }
    synchronized (this) {
      if (state.graph() != graph) {
        state = of(graph);
      }
      return state;
    }
  }

  private State of(LineageGraph graph) {
    var set = new HashMap<String, Map<Integer, Card.Tag>>();
    for (Asset asset : catalog.labelled()) {
      int ordinal = graph.asset(asset.ref()).orElse(-1);
      if (ordinal < 0) {
        continue;
      }
      note(asset.card().tags(), graph.rowsOf(ordinal), set);
      for (Card.Column column : asset.card().columns()) {
        graph.node(ordinal, column.path()).ifPresent(node -> note(column.tags(), node, set));
      }
    }
    var spreads = new LinkedHashMap<String, LabelSpread>();
    for (LabelScheme.Label label : scheme.all()) {
      Set<Integer> at = set.getOrDefault(label.id(), Map.of()).keySet();
      spreads.put(label.id(), LabelSpread.of(graph, label.rule(), new HashSet<>(at), Set.of()));
    }
    return new State(graph, spreads, set);
  }

  private void note(List<Card.Tag> tags, int node, Map<String, Map<Integer, Card.Tag>> set) {
    for (Card.Tag tag : tags) {
      scheme
          .meantBy(tag.word())
          .ifPresent(label -> set.computeIfAbsent(label.id(), k -> new HashMap<>()).put(node, tag));
    }
  }

  /**
   * A label of a column or asset.
   *
   * @param how set, inherited or perhaps
   * @param from where it was set; absent where it was set here
   */
  public record Labelled(String label, String title, String how, @Nullable String from) {}

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
                boolean isSet = how == LabelSpread.How.SET;
                labels.add(
                    new Labelled(
                        id,
                        scheme.named(id).title(),
                        word(how),
                        isSet ? null : now.graph().reference(spread.originOf(node))));
              }
            });
    return labels;
  }

  /** How a column has a label, in a word. */
  public static String word(LabelSpread.How how) {
    return how.name().toLowerCase(Locale.ROOT);
  }
}
