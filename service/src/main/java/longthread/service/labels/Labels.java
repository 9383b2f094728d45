package longthread.service.labels;

import java.lang.ref.WeakReference;
import java.util.Arrays;
import java.util.List;
import java.util.TreeMap;
import longthread.core.asset.Owner;
import longthread.core.graph.GraphLink;
import longthread.core.graph.LineageGraph;
import longthread.core.label.LabelSpread;
import longthread.service.lineage.Hops;
import longthread.service.live.Asset;
import longthread.service.live.Catalog;
import longthread.service.live.LabelBoard;
import longthread.service.live.LabelScheme;
import longthread.service.web.Pages;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Service;

/** Labels as people look at them: which there are, and what has each. */
@Service
class Labels {
  /** How many columns of a system have a label. */
  record InSystem(String system, int columns) {}

  /**
   * A label with how far it travelled.
   *
   * @param level how careful one has to be, from 1 to 4
   * @param words the tags that set it
   * @param overAggregation whether it goes on into sums and counts
   * @param set the columns on which it is set
   * @param inherited the columns to which it came along lineage
   * @param perhaps the columns to which it may have come, by lineage without columns
   */
  record LabelCounts(
      String id,
      String title,
      String category,
      int level,
      String definition,
      List<String> words,
      boolean overAggregation,
      boolean overConditional,
      boolean overMasks,
      int set,
      int inherited,
      int perhaps,
      List<InSystem> systems) {}

  /**
   * A column, or a page as a whole, that has a label.
   *
   * @param how set, inherited or perhaps
   * @param setBy the tag or rule that set it, and who set that; absent where it was inherited
   * @param managed source, hand or rule: where that is changed; absent where it was inherited
   * @param from where it was set; absent where it was set here
   * @param fromName what people call that
   * @param thread the way it came by, from there; empty where it was set here
   */
  record LabelledPlace(
      String ref,
      String name,
      String kind,
      String system,
      List<Owner> owners,
      String how,
      @Nullable String setBy,
      @Nullable String managed,
      @Nullable String from,
      @Nullable String fromName,
      List<Hops.Hop> thread) {}

  private final LabelScheme scheme;
  private final LabelBoard board;
  private final Catalog catalog;

  Labels(LabelScheme scheme, LabelBoard board, Catalog catalog) {
    this.scheme = scheme;
    this.board = board;
    this.catalog = catalog;
  }

  List<LabelCounts> all() {
    LabelBoard.State now = board.now();
    return scheme.all().stream().map(label -> counted(label, now)).toList();
  }

  LabelCounts one(String id) {
    return counted(scheme.named(id), board.now());
  }

  private LabelCounts counted(LabelScheme.Label label, LabelBoard.State now) {
    LabelSpread spread = now.spreads().get(label.id());
    var systems = new TreeMap<String, Integer>();
    for (int node : spread.nodes()) {
      if (!now.graph().isRows(node)) {
        String asset = now.graph().assetReference(now.graph().assetOf(node));
        systems.merge(catalog.systemOf(asset), 1, Integer::sum);
      }
    }
    return new LabelCounts(
        label.id(),
        label.title(),
        label.category(),
        label.level(),
        label.definition(),
        label.words().stream().sorted().toList(),
        label.rule().overAggregation(),
        label.rule().overConditional(),
        label.rule().overMasks(),
        spread.count(LabelSpread.How.SET),
        spread.count(LabelSpread.How.INHERITED),
        spread.count(LabelSpread.How.PERHAPS),
        systems.entrySet().stream().map(e -> new InSystem(e.getKey(), e.getValue())).toList());
  }

  /**
   * What has a label: where it is set first, then the nearest; ways are followed for a page only.
   *
   * @param how only what has it in this way; null for all
   */
  List<LabelledPlace> places(String id, @Nullable String how) {
    LabelScheme.Label label = scheme.named(id);
    LabelBoard.State now = board.now();
    LabelSpread spread = now.spreads().get(label.id());
    int[] nodes =
        Arrays.stream(spread.nodes())
            .filter(node -> how == null || isSo(spread, node, how))
            .toArray();
    // A page that is kept must not keep a graph.
    var board = new WeakReference<>(now);
    return Pages.made(
        nodes,
        node -> {
          LabelBoard.State then = board.get();
          if (then == null) {
            throw Pages.gone("the labels have changed since");
          }
          return place(label.id(), node, then.spreads().get(label.id()), then);
        });
  }

  private static boolean isSo(LabelSpread spread, int node, String how) {
    LabelSpread.How here = spread.at(node);
    return here != null && LabelBoard.word(here).equals(how);
  }

  private LabelledPlace place(String label, int node, LabelSpread spread, LabelBoard.State now) {
    LineageGraph graph = now.graph();
    String ref = graph.assetReference(graph.assetOf(node));
    Asset asset = catalog.asset(ref).orElse(null);
    LabelSpread.How how = spread.at(node);
    boolean isSet = how == LabelSpread.How.SET;
    LabelBoard.SetBy by = isSet ? LabelBoard.setBy(now, label, node) : null;
    List<GraphLink> thread = spread.thread(node);
    return new LabelledPlace(
        graph.reference(node),
        Hops.name(graph, node, catalog),
        asset == null ? "dataset" : asset.kind().word(),
        catalog.systemOf(ref),
        asset == null ? List.of() : asset.card().owners(),
        LabelBoard.word(how == null ? LabelSpread.How.PERHAPS : how),
        by == null ? null : by.words(),
        by == null ? null : by.manager().word(),
        isSet ? null : graph.reference(spread.originOf(node)),
        isSet ? null : Hops.name(graph, spread.originOf(node), catalog),
        Hops.of(graph, thread, catalog));
  }
}
