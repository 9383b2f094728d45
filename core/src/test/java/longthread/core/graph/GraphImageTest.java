package longthread.core.graph;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.ByteArrayOutputStream;
import java.io.DataOutputStream;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Random;
import java.util.function.UnaryOperator;
import longthread.core.graph.GraphStore.NamedLink;
import longthread.core.lineage.Flow;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;

/** A graph that was written and read is the same, and goes on as the other would. */
class GraphImageTest {
  private static List<NamedLink> links(Random random) {
    var links = new ArrayList<NamedLink>();
    for (int i = random.nextInt(12); i > 0; i--) {
      links.add(
          new NamedLink(
              "w/t" + random.nextInt(9),
              column(random),
              "w/t" + random.nextInt(9),
              column(random),
              Flow.values()[random.nextInt(Flow.values().length)],
              random.nextBoolean()));
    }
    return links;
  }

  private static String column(Random random) {
    String[] columns = {"*", "x", "y", "s", "s.in", "s.in.ß"};
    return columns[random.nextInt(columns.length)];
  }

  private static void change(GraphStore store, Random random) {
    String table = "w/t" + random.nextInt(9);
    store.describe(table, List.of(column(random).replace("*", "z"), "k"));
    store.replace("@n/j" + random.nextInt(6), links(random));
  }

  private static List<String> texts(LineageGraph graph) {
    var texts = new ArrayList<String>();
    for (int asset = 0; asset < graph.assetCount(); asset++) {
      texts.add(graph.assetReference(asset));
      graph.forEachColumn(asset, node -> nested(graph, node, texts));
    }
    for (int node = 0; node < graph.nodeCount(); node++) {
      for (Direction direction : Direction.values()) {
        for (GraphLink link : graph.links(node, direction)) {
          texts.add(direction + " " + graph.owner(link.owner()) + " " + link);
        }
      }
    }
    Collections.sort(texts); // a merge puts the links of a node into another order
    return texts;
  }

  private static void nested(LineageGraph graph, int node, List<String> texts) {
    texts.add(graph.reference(node));
    graph.forEachNested(
        node, other -> texts.add(graph.reference(node) + " ~ " + graph.reference(other)));
  }

  @Property(tries = 200)
  void what_is_read_is_what_was_written(@ForAll long seed) throws IOException {
    var random = new Random(seed);
    var store = new GraphStore();
    for (int i = random.nextInt(20); i > 0; i--) {
      change(store, random);
    }
    var bytes = new ByteArrayOutputStream();
    GraphImage.write(store.current(), new DataOutputStream(bytes));
    GraphStore read =
        GraphImage.read(ByteBuffer.wrap(bytes.toByteArray()), UnaryOperator.identity());
    assertThat(texts(read.current())).isEqualTo(texts(store.current()));
    for (int i = 0; i < 10; i++) {
      long next = random.nextLong();
      change(store, new Random(next));
      change(read, new Random(next));
    }
    assertThat(texts(read.current())).isEqualTo(texts(store.current()));
    for (int owner = 0; read.current().ownerOrdinal("@n/j" + owner).isPresent(); owner++) {
      int ordinal = read.current().ownerOrdinal("@n/j" + owner).getAsInt();
      assertThat(read.current().targetsOf(ordinal))
          .containsExactlyInAnyOrder(store.current().targetsOf(ordinal));
    }
  }
}
