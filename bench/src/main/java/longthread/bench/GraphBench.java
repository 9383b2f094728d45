package longthread.bench;

import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.concurrent.TimeUnit;
import longthread.core.graph.Direction;
import longthread.core.graph.GraphLink;
import longthread.core.graph.LineageGraph;
import longthread.core.graph.Walk;
import longthread.core.impact.Change;
import longthread.core.impact.ImpactAnalysis;
import org.openjdk.jmh.annotations.Benchmark;
import org.openjdk.jmh.annotations.BenchmarkMode;
import org.openjdk.jmh.annotations.Fork;
import org.openjdk.jmh.annotations.Measurement;
import org.openjdk.jmh.annotations.Mode;
import org.openjdk.jmh.annotations.OutputTimeUnit;
import org.openjdk.jmh.annotations.Param;
import org.openjdk.jmh.annotations.Scope;
import org.openjdk.jmh.annotations.Setup;
import org.openjdk.jmh.annotations.State;
import org.openjdk.jmh.annotations.Warmup;

/**
 * The downstream closure of typical columns and of a hub: the product's walk and its impact against
 * two controls, a bare search over flat arrays with a bitset, and one over boxed maps and sets.
 */
@State(Scope.Benchmark)
@BenchmarkMode(Mode.AverageTime)
@OutputTimeUnit(TimeUnit.MICROSECONDS)
@Warmup(iterations = 2, time = 2)
@Measurement(iterations = 3, time = 3)
@Fork(
    value = 1,
    jvmArgs = {"-Xmx6g", "-XX:+UseSerialGC"})
public class GraphBench {
  private static final int COLUMNS = 64;

  @Param({"M"})
  public String size = "M";

  @Param({"typical", "hub"})
  public String origin = "typical";

  private LineageGraph graph = new longthread.core.graph.GraphStore().current();
  private int[] origins = new int[0];
  private BareSearch bare = new BareSearch(new int[1], new int[0]);
  private Map<Integer, List<Integer>> boxed = Map.of();
  private int at;

  @Setup
  public void build() {
    var estate = new Estate(Estate.sizes().get(size), 42);
    graph = estate.store().current();
    List<String[]> columns =
        origin.equals("hub")
            ? java.util.Collections.singletonList(estate.hubColumn())
            : estate.typicalColumns(COLUMNS);
    origins =
        columns.stream()
            .mapToInt(c -> graph.node(graph.asset(c[0]).orElseThrow(), c[1]).orElseThrow())
            .toArray();
    flatten();
    long reached = 0;
    for (int node : origins) {
      reached += walked(node);
    }
    System.out.printf(
        "%n# size %s: %d nodes, %d links; mean reach of %s %d%n",
        size, graph.nodeCount(), graph.linkCount(), origin, reached / origins.length);
  }

  /** The same links for the controls: those that lineage values. */
  private void flatten() {
    int[] starts = new int[graph.nodeCount() + 1];
    var all = new ArrayList<Integer>();
    boxed = new HashMap<>();
    for (int node = 0; node < graph.nodeCount(); node++) {
      starts[node] = all.size();
      for (GraphLink link : graph.links(node, Direction.DOWNSTREAM)) {
        if (link.flow().shapesValues()) {
          all.add(link.to());
          boxed.computeIfAbsent(node, k -> new ArrayList<>()).add(link.to());
        }
      }
    }
    starts[graph.nodeCount()] = all.size();
    bare = new BareSearch(starts, all.stream().mapToInt(Integer::intValue).toArray());
  }

  private int next() {
    at = (at + 1) % origins.length;
    return origins[at];
  }

  private int walked(int node) {
    return Walk.values(
            graph, new int[] {node}, Direction.DOWNSTREAM, Integer.MAX_VALUE, Integer.MAX_VALUE)
        .size();
  }

  @Benchmark
  public int walk() {
    return walked(next());
  }

  @Benchmark
  public int impactOfShiftedValues() {
    var change = new Change.OfData(next(), Change.Kind.VALUES, null, false);
    return ImpactAnalysis.of(graph, List.of(change), (o, t) -> null, Integer.MAX_VALUE)
        .items()
        .size();
  }

  @Benchmark
  public int controlBareArrays() {
    return bare.reach(next());
  }

  @Benchmark
  public int controlBoxedMaps() {
    int from = next();
    var seen = new HashSet<Integer>(List.of(from));
    var open = new ArrayDeque<Integer>(seen);
    while (!open.isEmpty()) {
      for (int end : boxed.getOrDefault(open.poll(), List.of())) {
        if (seen.add(end)) {
          open.add(end);
        }
      }
    }
    return seen.size();
  }
}
