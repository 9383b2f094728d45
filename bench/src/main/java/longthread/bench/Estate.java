package longthread.bench;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Random;
import longthread.core.graph.GraphStore;
import longthread.core.graph.GraphStore.NamedLink;
import longthread.core.lineage.Flow;

/**
 * A generated organisation: layers of tables from sources to dashboards, table sizes and fan-outs
 * by a power law, a calendar and a currency table that nearly everything joins, and a few cycles.
 * The same seed gives the same estate.
 */
final class Estate {
  static final int LAYERS = 15;
  private static final int HUBS = 2;
  private static final double CYCLES = 0.001;

  private final Random random;
  private final List<List<Table>> layers = new ArrayList<>();
  private final GraphStore store = new GraphStore();
  private long links;

  private record Table(String name, int columns) {}

  Estate(int columns, long seed) {
    random = new Random(seed);
    int perLayer = columns / LAYERS;
    for (int layer = 0; layer < LAYERS; layer++) {
      var tables = new ArrayList<Table>();
      for (int made = 0; made < perLayer; ) {
        int width = Math.min(400, (int) (6 / Math.pow(1 - random.nextDouble() * 0.999, 0.6)));
        var table = new Table("l" + layer + "/t" + tables.size(), width);
        tables.add(table);
        store.describe(table.name(), columnNames(width));
        made += width;
      }
      layers.add(tables);
    }
    for (int layer = 1; layer < LAYERS; layer++) {
      var changes = new HashMap<String, List<NamedLink>>();
      for (Table table : layers.get(layer)) {
        changes.put("@job/" + table.name(), linksInto(table, layer));
      }
      store.replaceAll(changes);
    }
  }

  private static List<String> columnNames(int width) {
    var names = new ArrayList<String>(width);
    for (int i = 0; i < width; i++) {
      names.add("c" + i);
    }
    return names;
  }

  private List<NamedLink> linksInto(Table target, int layer) {
    var found = new ArrayList<NamedLink>();
    int inputs = 1 + random.nextInt(4);
    for (int i = 0; i < inputs; i++) {
      boolean cycle = random.nextDouble() < CYCLES && layer + 1 < LAYERS;
      Table source = pick(layers.get(cycle ? layer + 1 : layer - 1));
      add(found, source, "*", target, "*", Flow.ROWS);
      add(found, source, column(source), target, "*", Flow.JOIN);
      for (int c = 0; c < target.columns(); c++) {
        Flow flow = random.nextInt(10) == 0 ? Flow.AGGREGATION : Flow.IDENTITY;
        for (int n = 0; n <= random.nextInt(3); n++) {
          add(found, source, column(source), target, "c" + c, flow);
        }
      }
    }
    for (int hub = 0; hub < HUBS; hub++) {
      add(found, layers.get(0).get(hub), "c0", target, "*", Flow.JOIN);
      add(found, layers.get(0).get(hub), "c1", target, "c0", Flow.TRANSFORMATION);
      add(found, layers.get(0).get(hub), "*", target, "*", Flow.ROWS);
    }
    // What was drawn twice is one link, as the graph holds it.
    var distinct = List.copyOf(new LinkedHashSet<>(found));
    links += distinct.size();
    return distinct;
  }

  /** Few tables feed many others, most feed one or two. */
  private Table pick(List<Table> tables) {
    return tables.get((int) (tables.size() * Math.pow(random.nextDouble(), 2.2)));
  }

  private String column(Table table) {
    return "c" + random.nextInt(table.columns());
  }

  private void add(
      List<NamedLink> found, Table from, String fromColumn, Table to, String toColumn, Flow flow) {
    found.add(new NamedLink(from.name(), fromColumn, to.name(), toColumn, flow, false));
  }

  GraphStore store() {
    return store;
  }

  long links() {
    return links;
  }

  /** Typical columns: spread over the second to the fifth layer. */
  List<String[]> typicalColumns(int count) {
    var columns = new ArrayList<String[]>();
    for (int i = 0; i < count; i++) {
      List<Table> layer = layers.get(1 + i % 4);
      Table table = layer.get(random.nextInt(layer.size()));
      columns.add(new String[] {table.name(), column(table)});
    }
    return columns;
  }

  /** The column that nearly everything is computed from. */
  String[] hubColumn() {
    return new String[] {layers.get(0).get(0).name(), "c1"};
  }

  static Map<String, Integer> sizes() {
    return Map.of("S", 10_000, "M", 100_000, "L", 1_000_000);
  }
}
