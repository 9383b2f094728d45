package longthread.core.graph;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.TreeSet;
import longthread.core.graph.GraphStore.NamedLink;
import longthread.core.lineage.Flow;
import org.junit.jupiter.api.RepeatedTest;
import org.junit.jupiter.api.RepetitionInfo;

class LoadingTest {
  private static Map<String, List<NamedLink>> links(Random random) {
    var byOwner = new HashMap<String, List<NamedLink>>();
    for (int i = 0; i < 300; i++) {
      Flow flow = random.nextBoolean() ? Flow.IDENTITY : Flow.AGGREGATION;
      var link =
          new NamedLink(
              "n/t" + random.nextInt(9),
              "c" + random.nextInt(4),
              "n/t" + random.nextInt(9),
              "c" + random.nextInt(4),
              flow,
              random.nextInt(9) == 0);
      byOwner.computeIfAbsent("@n/j" + random.nextInt(12), k -> new ArrayList<>()).add(link);
    }
    return byOwner;
  }

  private static TreeSet<String> held(LineageGraph graph, Direction direction) {
    var held = new TreeSet<String>();
    for (int node = 0; node < graph.nodeCount(); node++) {
      for (GraphLink link : graph.links(node, direction)) {
        String text =
            graph.reference(link.from())
                + " "
                + graph.reference(link.to())
                + " "
                + link.flow()
                + link.masking()
                + graph.owner(link.owner());
        assertThat(held.add(text)).as(text + " is there once").isTrue();
      }
    }
    return held;
  }

  @RepeatedTest(20)
  void a_graph_loaded_link_by_link_is_the_one_that_changes_make(RepetitionInfo round) {
    Map<String, List<NamedLink>> byOwner = links(new Random(round.getCurrentRepetition()));
    var changed = new GraphStore();
    changed.replaceAll(byOwner);
    var loaded = new GraphStore();
    GraphStore.Loading loading = loaded.load();
    byOwner.forEach((owner, all) -> all.forEach(link -> loading.add(owner, link)));
    loading.publish();
    for (Direction direction : Direction.values()) {
      assertThat(held(loaded.current(), direction)).isEqualTo(held(changed.current(), direction));
    }
    assertThat(loaded.current().linkCount()).isEqualTo(changed.current().linkCount());
    // What is loaded can be changed as any other: an owner takes back what it stated.
    String owner = byOwner.keySet().iterator().next();
    changed.replace(owner, List.of());
    loaded.replace(owner, List.of());
    assertThat(held(loaded.current(), Direction.UPSTREAM))
        .isEqualTo(held(changed.current(), Direction.UPSTREAM))
        .noneMatch(text -> text.endsWith(owner));
  }
}
