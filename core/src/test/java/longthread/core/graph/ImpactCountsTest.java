package longthread.core.graph;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Random;
import longthread.core.graph.GraphStore.NamedLink;
import longthread.core.lineage.Flow;
import org.junit.jupiter.api.RepeatedTest;
import org.junit.jupiter.api.RepetitionInfo;
import org.junit.jupiter.api.Test;

class ImpactCountsTest {
  private static NamedLink feeds(int from, int to) {
    return new NamedLink("n/t" + from, "*", "n/t" + to, "*", Flow.ROWS, false);
  }

  @Test
  void a_chain_counts_down_and_a_circle_counts_all_others_in_it() {
    var store = new GraphStore();
    store.replace("@n/a", List.of(feeds(0, 1), feeds(1, 2), feeds(2, 3)));
    assertThat(ImpactCounts.of(store.current())).containsExactly(3, 2, 1, 0);
    store.replace("@n/b", List.of(feeds(3, 1)));
    assertThat(ImpactCounts.of(store.current())).containsExactly(3, 2, 2, 2);
    assertThat(ImpactCounts.of(new GraphStore().current())).isEmpty();
  }

  @Test
  void a_chain_longer_than_any_stack_of_calls_is_counted() {
    var links = new ArrayList<NamedLink>();
    for (int i = 0; i < 20_000; i++) {
      links.add(feeds(i, i + 1));
    }
    var store = new GraphStore();
    store.replace("@n/a", links);
    int[] counts = ImpactCounts.of(store.current());
    assertThat(counts[0]).isEqualTo(20_000);
    assertThat(counts[19_999]).isEqualTo(1);
  }

  @RepeatedTest(30)
  void counts_what_a_walk_from_each_asset_finds(RepetitionInfo round) {
    var random = new Random(round.getCurrentRepetition());
    int assets = 2 + random.nextInt(round.getCurrentRepetition() % 5 == 0 ? 1_300 : 60);
    var store = new GraphStore();
    var changes = new HashMap<String, List<NamedLink>>();
    for (int job = 0; job < assets; job++) {
      var links = new ArrayList<NamedLink>();
      for (int i = 0; i < random.nextInt(4); i++) {
        int from = random.nextInt(assets);
        int to =
            random.nextInt(12) == 0
                ? random.nextInt(assets)
                : Math.min(assets - 1, from + 1 + random.nextInt(9));
        links.add(feeds(from, to));
      }
      changes.put("@n/j" + job, links);
    }
    store.replaceAll(changes);
    LineageGraph graph = store.current();
    int[] counts = ImpactCounts.of(graph);
    for (int asset = 0; asset < graph.assetCount(); asset++) {
      Reach below =
          Walk.assets(
              graph,
              new int[] {graph.rowsOf(asset)},
              Direction.DOWNSTREAM,
              Integer.MAX_VALUE,
              Integer.MAX_VALUE);
      long others = 0;
      for (int node : below.nodes()) {
        others += graph.assetOf(node) == asset ? 0 : 1;
      }
      assertThat(counts[asset]).as("asset " + asset).isEqualTo((int) others);
    }
  }
}
