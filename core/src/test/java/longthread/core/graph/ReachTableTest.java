package longthread.core.graph;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.BitSet;
import java.util.List;
import java.util.Random;
import java.util.stream.IntStream;
import longthread.core.graph.GraphStore.NamedLink;
import longthread.core.lineage.Flow;
import org.junit.jupiter.api.RepeatedTest;
import org.junit.jupiter.api.RepetitionInfo;
import org.junit.jupiter.api.Test;

class ReachTableTest {
  private static NamedLink feeds(int from, int to) {
    return new NamedLink("n/t" + from, "*", "n/t" + to, "*", Flow.ROWS, false);
  }

  @Test
  void a_start_reaches_itself_and_what_lies_outside_does_not_count() {
    var store = new GraphStore();
    store.replace("@n/a", List.of(feeds(0, 1), feeds(1, 2), feeds(0, 3), feeds(3, 2)));
    LineageGraph graph = store.current();
    var all = new ReachTable(graph, List.of(new int[] {0}, new int[] {2}), List.of(0, 2), null);
    assertThat(all.reaching(0)).isEqualTo(BitSet.valueOf(new long[] {0b01}));
    assertThat(all.reaching(2)).isEqualTo(BitSet.valueOf(new long[] {0b11}));
    assertThat(all.reaching(1)).isEqualTo(new BitSet()); // it was not asked for
    BitSet within = BitSet.valueOf(new long[] {0b0101});
    var some = new ReachTable(graph, List.of(new int[] {0}), List.of(2), within);
    assertThat(some.reaching(2)).isEqualTo(new BitSet());
  }

  @RepeatedTest(25)
  void finds_for_all_starts_what_a_walk_from_each_finds(RepetitionInfo round) {
    var random = new Random(round.getCurrentRepetition());
    int assets = 2 + random.nextInt(80);
    var links = new ArrayList<NamedLink>();
    for (int i = 0; i < assets * 2; i++) {
      int from = random.nextInt(assets);
      links.add(feeds(from, random.nextInt(6) == 0 ? random.nextInt(assets) : (from + 1) % assets));
    }
    var store = new GraphStore();
    store.replace("@n/a", links);
    LineageGraph graph = store.current();
    int starts = round.getCurrentRepetition() % 4 == 0 ? 1_200 : 1 + random.nextInt(70);
    List<int[]> places =
        IntStream.range(0, starts)
            .mapToObj(
                s -> random.ints(1 + random.nextInt(3), 0, graph.assetCount()).distinct().toArray())
            .toList();
    List<Integer> ends = IntStream.range(0, graph.assetCount()).boxed().toList();
    var table = new ReachTable(graph, places, ends, null);
    for (int start = 0; start < starts; start++) {
      int[] rows = IntStream.of(places.get(start)).map(graph::rowsOf).toArray();
      var reached = new BitSet();
      for (int node :
          Walk.assets(graph, rows, Direction.DOWNSTREAM, Integer.MAX_VALUE, Integer.MAX_VALUE)
              .nodes()) {
        reached.set(graph.assetOf(node));
      }
      for (int end : ends) {
        assertThat(table.reaching(end).get(start))
            .as(start + " to " + end)
            .isEqualTo(reached.get(end));
      }
    }
  }
}
