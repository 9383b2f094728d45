package longthread.core.label;

import static longthread.core.graph.Graphs.graph;
import static longthread.core.graph.Graphs.node;
import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashSet;
import java.util.List;
import java.util.Random;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.stream.Collectors;
import longthread.core.graph.Direction;
import longthread.core.graph.GraphLink;
import longthread.core.graph.GraphStore;
import longthread.core.graph.GraphStore.NamedLink;
import longthread.core.graph.LineageGraph;
import longthread.core.label.LabelSpread.How;
import longthread.core.lineage.Flow;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.junit.jupiter.api.Test;

class LabelSpreadTest {
  private static final LabelRule STRICT = new LabelRule(false, false, false);
  private static final LabelRule WIDE = new LabelRule(true, true, true);

  private static Set<Integer> nodes(LineageGraph graph, String... references) {
    return Arrays.stream(references).map(r -> node(graph, r)).collect(Collectors.toSet());
  }

  /** Everything that has the label, as {@code reference how}. */
  private static String text(LineageGraph graph, LabelSpread spread) {
    return Arrays.stream(spread.nodes())
        .mapToObj(node -> graph.reference(node) + " " + spread.at(node).name().toLowerCase())
        .sorted()
        .collect(Collectors.joining(", "));
  }

  private final LineageGraph farm =
      graph(
          "raw#iban IDENTITY core#iban by @n/core",
          "raw#iban TRANSFORMATION! core#hash by @n/core",
          "core#iban IDENTITY payout#pay_to by @n/pay",
          "core#iban AGGREGATION payout#farms by @n/pay",
          "core#iban JOIN payout by @n/pay",
          "core#iban CONDITIONAL payout#kind by @n/pay",
          "payout#pay_to TRANSFORMATION report#account by report",
          "report HOLDS board by board",
          "payout COARSE export by @n/export");

  @Test
  void a_label_goes_along_with_the_values() {
    LabelSpread spread = LabelSpread.of(farm, STRICT, nodes(farm, "raw#iban"), Set.of());
    assertThat(text(farm, spread))
        .isEqualTo(
            "board inherited, core#iban inherited, export perhaps, payout#pay_to inherited,"
                + " raw#iban set, report#account inherited");
    assertThat(spread.isMaskedAt(node(farm, "core#hash"))).isTrue();
    assertThat(spread.isInfluenced(node(farm, "payout#farms"))).isTrue();
    assertThat(spread.isInfluenced(node(farm, "payout#kind"))).isTrue();
    assertThat(spread.isInfluenced(node(farm, "payout"))).as("joined").isTrue();
    assertThat(spread.count(How.INHERITED)).as("columns").isEqualTo(3);
    assertThat(farm.reference(spread.originOf(node(farm, "report#account")))).isEqualTo("raw#iban");
    assertThat(spread.thread(node(farm, "report#account")))
        .extracting(link -> farm.reference(link.to()))
        .containsExactly("core#iban", "payout#pay_to", "report#account");
    assertThat(spread.thread(node(farm, "board")).get(3).flow()).isEqualTo(Flow.HOLDS);
    assertThat(spread.thread(node(farm, "export")).get(2).flow()).isEqualTo(Flow.COARSE);
    assertThat(spread.thread(node(farm, "raw#iban"))).isEmpty();
  }

  @Test
  void a_rule_may_let_it_through_counts_decisions_and_masks() {
    LabelSpread spread = LabelSpread.of(farm, WIDE, nodes(farm, "raw#iban"), Set.of());
    for (String column : List.of("core#hash", "payout#farms", "payout#kind")) {
      assertThat(spread.at(node(farm, column))).as(column).isEqualTo(How.INHERITED);
    }
    assertThat(spread.isInfluenced(node(farm, "payout"))).as("a join alone").isTrue();
    assertThat(spread.at(node(farm, "payout"))).isNull();
  }

  @Test
  void a_stop_holds_it_up_and_what_is_set_behind_goes_on() {
    LabelSpread stopped =
        LabelSpread.of(farm, STRICT, nodes(farm, "raw#iban"), nodes(farm, "payout"));
    assertThat(text(farm, stopped)).isEqualTo("core#iban inherited, raw#iban set");
    LabelSpread set =
        LabelSpread.of(
            farm, STRICT, nodes(farm, "raw#iban", "payout#pay_to"), nodes(farm, "payout"));
    assertThat(set.at(node(farm, "report#account"))).isEqualTo(How.INHERITED);
    assertThat(set.at(node(farm, "payout#pay_to"))).isEqualTo(How.SET);
  }

  @Test
  void a_label_of_a_dataset_is_one_of_each_column() {
    LabelSpread spread = LabelSpread.of(farm, STRICT, nodes(farm, "core"), Set.of());
    assertThat(spread.at(node(farm, "core#hash"))).isEqualTo(How.SET);
    assertThat(spread.at(node(farm, "payout#pay_to"))).isEqualTo(How.INHERITED);
    assertThat(spread.at(node(farm, "raw#iban"))).as("nothing runs upstream").isNull();
  }

  // ------------------------------------------------------------------ against a plain search

  private static LineageGraph random(Random random, List<NamedLink> links) {
    Flow[] flows = {
      Flow.IDENTITY,
      Flow.TRANSFORMATION,
      Flow.AGGREGATION,
      Flow.CONDITIONAL,
      Flow.JOIN,
      Flow.COARSE,
      Flow.DIRECT
    };
    for (int i = 0; i < 40; i++) {
      Flow flow = flows[random.nextInt(flows.length)];
      boolean whole = flow == Flow.COARSE;
      links.add(
          new NamedLink(
              "n/t" + random.nextInt(8),
              whole ? "*" : "c" + random.nextInt(3),
              "n/t" + random.nextInt(8),
              whole || flow == Flow.JOIN ? "*" : "c" + random.nextInt(3),
              flow,
              random.nextInt(6) == 0));
    }
    var store = new GraphStore();
    for (int i = 0; i < links.size(); i++) {
      store.replace("@n/j" + i, List.of(links.get(i)));
    }
    return store.current();
  }

  /** The columns with the label, by rounds over all links until nothing is added. */
  private static TreeMap<String, How> plain(
      LineageGraph graph, LabelRule rule, Set<Integer> at, Set<Integer> stops) {
    var found = new TreeMap<String, How>();
    at.forEach(node -> found.put(graph.reference(node), How.SET));
    var stopped = stops.stream().map(graph::reference).collect(Collectors.toSet());
    for (boolean sure : new boolean[] {true, false}) {
      for (boolean grown = true; grown; ) {
        var now = new TreeMap<>(found);
        for (int node = 0; node < graph.nodeCount(); node++) {
          for (GraphLink link : graph.links(node, Direction.DOWNSTREAM)) {
            LabelRule.Passage passage = rule.at(link.flow(), link.masking());
            var targets = new TreeSet<String>();
            if (passage == LabelRule.Passage.GOES_ON && now.containsKey(graph.reference(node))) {
              targets.add(graph.reference(link.to()));
            }
            String prefix = graph.assetReference(graph.assetOf(node));
            boolean labelled =
                now.keySet().stream()
                    .anyMatch(ref -> ref.equals(prefix) || ref.startsWith(prefix + "#"));
            if (passage == LabelRule.Passage.PERHAPS && labelled && !sure) {
              int asset = graph.assetOf(link.to());
              targets.add(graph.assetReference(asset));
              graph.forEachColumn(asset, column -> targets.add(graph.reference(column)));
            }
            targets.removeAll(stopped);
            targets.forEach(ref -> found.putIfAbsent(ref, sure ? How.INHERITED : How.PERHAPS));
          }
        }
        grown = !found.equals(now);
      }
    }
    return found;
  }

  @Property(tries = 300)
  void it_is_where_a_plain_search_finds_it(@ForAll long seed) {
    var random = new Random(seed);
    LineageGraph graph = random(random, new ArrayList<>());
    var columns = new ArrayList<Integer>();
    for (int node = 0; node < graph.nodeCount(); node++) {
      if (!graph.isRows(node)) {
        columns.add(node);
      }
    }
    Set<Integer> at = new HashSet<>();
    Set<Integer> stops = new HashSet<>();
    for (int i = 0; i < 3; i++) {
      at.add(columns.get(random.nextInt(columns.size())));
      stops.add(columns.get(random.nextInt(columns.size())));
    }
    stops.removeAll(at);
    var rule = new LabelRule(random.nextBoolean(), random.nextBoolean(), random.nextBoolean());
    LabelSpread spread = LabelSpread.of(graph, rule, at, stops);
    var found = new TreeMap<String, How>();
    for (int node : spread.nodes()) {
      found.put(graph.reference(node), spread.at(node));
      List<GraphLink> thread = spread.thread(node);
      assertThat(thread.isEmpty()).isEqualTo(spread.at(node) == How.SET);
      assertThat(at).contains(spread.originOf(node));
      if (spread.at(node) == How.INHERITED) {
        assertThat(thread)
            .allMatch(link -> rule.at(link.flow(), link.masking()).name().equals("GOES_ON"));
        assertThat(thread.get(0).from()).isEqualTo(spread.originOf(node));
        assertThat(thread.get(thread.size() - 1).to()).isEqualTo(node);
      }
    }
    assertThat(found).isEqualTo(plain(graph, rule, at, stops));
  }
}
