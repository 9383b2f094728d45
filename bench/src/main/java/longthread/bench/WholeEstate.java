package longthread.bench;

import java.util.Arrays;
import java.util.Random;

/**
 * The plan of a whole organisation: twelve layers of tables, then models and charts. Widths and
 * fan-outs follow a power law; a calendar and a currency table are used nearly everywhere. The same
 * size and seed give the same estate.
 *
 * <p>Columns are numbered table by table; {@code sources} of a column are columns of its table's
 * inputs.
 */
final class WholeEstate {
  static final int LAYERS = 12;
  static final int MODELS = LAYERS;
  static final int CHARTS = LAYERS + 1;
  static final int CALENDAR = 0;
  static final int CURRENCY = 1;
  private static final int HUB_WIDTH = 8;
  private static final double TABLE_SHARE = 0.82; // of the columns, the rest is models and charts
  private static final double MODEL_SHARE = 0.1;
  private static final double AGGREGATES = 0.25; // of the tables
  private static final double HUB_USE = 0.02; // of the tables: a value is made of the hub's
  private static final double FAR = 0.15; // of the inputs: from any earlier layer

  final int[] first; // column of each table, and one more
  final int[] layer; // of each table
  final int[][] inputs; // of each table
  final boolean[] aggregated;
  private final int[] layerStart = new int[CHARTS + 2];
  private final int[][] sources; // of each column

  WholeEstate(int columns, long seed) {
    var random = new Random(seed);
    int[] starts = new int[columns / 4 + 64];
    int[] layers = new int[starts.length];
    int tables = 0;
    int column = 0;
    for (int at = 0; at <= CHARTS; at++) {
      layerStart[at] = tables;
      double share =
          at < LAYERS
              ? TABLE_SHARE / LAYERS
              : at == MODELS ? MODEL_SHARE : 1 - TABLE_SHARE - MODEL_SHARE;
      int end = (int) (column + columns * share);
      while (column < end) {
        starts[tables] = column;
        layers[tables] = at;
        column += tables <= CURRENCY ? HUB_WIDTH : width(at, random);
        tables++;
      }
    }
    layerStart[CHARTS + 1] = tables;
    first = Arrays.copyOf(starts, tables + 1);
    first[tables] = column;
    layer = Arrays.copyOf(layers, tables);
    inputs = new int[tables][];
    aggregated = new boolean[tables];
    sources = new int[column][];
    for (int table = 0; table < tables; table++) {
      connect(table, random);
    }
  }

  private static int width(int layer, Random random) {
    double drawn = 1 - random.nextDouble() * 0.999;
    return layer == CHARTS
        ? 2 + random.nextInt(8)
        : Math.min(300, (int) (5.6 / Math.pow(drawn, 0.6)));
  }

  private void connect(int table, Random random) {
    int at = layer[table];
    if (at == 0) {
      inputs[table] = new int[0];
      Arrays.fill(sources, first[table], first[table + 1], new int[0]);
      return;
    }
    boolean hub = at < LAYERS && random.nextDouble() < HUB_USE;
    int count = at == CHARTS ? 1 : 1 + random.nextInt(4);
    int[] from = new int[count + (at < LAYERS ? 1 : 0)];
    for (int i = 0; i < count; i++) {
      int of = at > 1 && at < LAYERS && random.nextDouble() < FAR ? random.nextInt(at) : at - 1;
      from[i] = pick(of, random);
    }
    if (at < LAYERS) {
      from[count] = random.nextInt(4) == 0 ? CURRENCY : CALENDAR;
    }
    inputs[table] = Arrays.stream(from).distinct().toArray();
    aggregated[table] = at < LAYERS && random.nextDouble() < AGGREGATES;
    for (int column = first[table]; column < first[table + 1]; column++) {
      int more = at == CHARTS ? 0 : random.nextInt(4);
      int[] of = new int[1 + more];
      for (int i = 0; i < of.length; i++) {
        of[i] = column(from[random.nextInt(count)], random);
      }
      if (hub && column - first[table] < 4) {
        of[0] = first[from[count]] + 1; // the hub's second column
      }
      sources[column] = Arrays.stream(of).distinct().toArray();
    }
  }

  /** Few tables feed many others, most feed one or two. */
  private int pick(int of, Random random) {
    int from = layerStart[of] + (of == 0 ? CURRENCY + 1 : 0);
    int size = layerStart[of + 1] - from;
    return from + (int) (size * Math.pow(random.nextDouble(), 1.8));
  }

  private int column(int table, Random random) {
    return first[table] + (int) (width(table) * Math.pow(random.nextDouble(), 1.3));
  }

  int tables() {
    return layer.length;
  }

  int columns() {
    return sources.length;
  }

  int width(int table) {
    return first[table + 1] - first[table];
  }

  int[] sources(int column) {
    return sources[column];
  }

  int tableOf(int column) {
    int at = Arrays.binarySearch(first, column);
    return at >= 0 ? at : -at - 2;
  }

  /** Where a layer's tables begin; those of the next begin where they end. */
  int layerStart(int of) {
    return layerStart[of];
  }

  /** Column that nearly everything is made of. */
  int hub() {
    return first[CALENDAR] + 1;
  }

  /** A bare search over the links: the control of everything that walks. */
  BareSearch bare() {
    int[] starts = new int[columns() + 1];
    for (int to = 0; to < columns(); to++) {
      for (int from : sources(to)) {
        starts[from + 1]++;
      }
    }
    for (int i = 0; i < columns(); i++) {
      starts[i + 1] += starts[i];
    }
    int[] ends = new int[starts[columns()]];
    int[] at = Arrays.copyOf(starts, starts.length);
    for (int to = 0; to < columns(); to++) {
      for (int from : sources(to)) {
        ends[at[from]++] = to;
      }
    }
    return new BareSearch(starts, ends);
  }

  public static void main(String[] args) {
    for (int size : new int[] {10_000, 100_000, 1_000_000}) {
      var estate = new WholeEstate(size, 7);
      BareSearch bare = estate.bare();
      var random = new Random(1);
      long reached = 0;
      for (int i = 0; i < 300; i++) {
        int table =
            estate.layerStart(1) + random.nextInt(estate.layerStart(5) - estate.layerStart(1));
        reached += bare.reach(estate.first[table] + random.nextInt(estate.width(table)));
      }
      System.out.printf(
          "%d columns, %d tables, %d links; a typical column reaches %d, the hub %d%n",
          estate.columns(), estate.tables(), bare.links(), reached / 300, bare.reach(estate.hub()));
    }
  }
}
