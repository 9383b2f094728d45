package longthread.bench;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.BitSet;
import java.util.EnumMap;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import longthread.bench.RunningEstate.Fault;
import longthread.bench.RunningEstate.Injected;
import longthread.bench.RunningEstate.Rhythm;
import longthread.bench.RunningEstate.Table;
import longthread.core.cause.CauseSearch;
import longthread.core.cause.Causes;
import longthread.core.cause.Health;
import longthread.core.cause.Symptom;
import longthread.core.graph.Direction;
import longthread.core.graph.LineageGraph;
import longthread.core.graph.Reach;
import longthread.core.graph.Walk;
import longthread.core.history.RunState;

/**
 * Injects faults into running estates and measures how well the search finds them, against two
 * plain baselines: the failed run nearest upstream, and the earliest failed run upstream.
 *
 * <p>Arguments: estates for each sort of fault, and tables of each estate. A suspect counts as
 * found if it is the job or dataset that was broken, or, where nothing reports about that, the
 * first job or dataset below it, with the source named as unobserved.
 */
public final class CauseSimulator {
  private static final int SYMPTOMS = 3; // reports asked about in each estate

  private record Score(int[] counts, List<Long> nanos) {
    static final int ASKED = 0;
    static final int TOP1 = 1;
    static final int TOP3 = 2;
    static final int NEAREST = 3;
    static final int EARLIEST = 4;
    static final int NAMED = 5;

    Score() {
      this(new int[6], new ArrayList<>());
    }
  }

  private CauseSimulator() {}

  public static void main(String[] args) {
    int estates = args.length > 0 ? Integer.parseInt(args[0]) : 40;
    int size = args.length > 1 ? Integer.parseInt(args[1]) : 160;
    boolean verbose = args.length > 2;
    one(Fault.UNIT_SLIP, -1, size, new Score(), false); // so that the code is compiled
    well(-1, size, new Score(), false);
    Map<Fault, Score> scores = new EnumMap<>(Fault.class);
    for (Fault fault : Fault.values()) {
      var score = new Score();
      for (int seed = 0; seed < estates; seed++) {
        one(fault, seed, size, score, verbose);
      }
      scores.put(fault, score);
    }
    var pairs = new Score();
    for (int seed = 0; seed < estates; seed++) {
      two(seed, size, pairs);
    }
    var healthy = new Score();
    for (int seed = 0; seed < estates; seed++) {
      well(seed, size, healthy, verbose);
    }
    print(scores, pairs, healthy);
  }

  private static void print(Map<Fault, Score> scores, Score pairs, Score healthy) {
    System.out.println(
        "| fault | asked | top 1 | top 3 | nearest failure | earliest failure | p50 ms | p99 ms |");
    System.out.println("|---|---|---|---|---|---|---|---|");
    var all = new Score();
    scores.forEach(
        (fault, score) -> {
          line(fault.name().toLowerCase(Locale.ROOT).replace('_', ' '), score);
          for (int i = 0; i < all.counts().length; i++) {
            all.counts()[i] += score.counts()[i];
          }
          all.nanos().addAll(score.nanos());
        });
    line("all", all);
    line("two at once, each of them (first two)", pairs);
    System.out.printf(
        Locale.ROOT,
        "%nhealthy estates: %d of %d questions named nobody (%.1f%%)%n",
        healthy.counts()[Score.ASKED] - healthy.counts()[Score.NAMED],
        healthy.counts()[Score.ASKED],
        100.0
            * (healthy.counts()[Score.ASKED] - healthy.counts()[Score.NAMED])
            / Math.max(1, healthy.counts()[Score.ASKED]));
  }

  private static void line(String name, Score score) {
    int asked = Math.max(1, score.counts()[Score.ASKED]);
    long[] nanos = score.nanos().stream().mapToLong(n -> n).sorted().toArray();
    System.out.printf(
        Locale.ROOT,
        "| %s | %d | %.1f%% | %.1f%% | %.1f%% | %.1f%% | %.1f | %.1f |%n",
        name,
        score.counts()[Score.ASKED],
        100.0 * score.counts()[Score.TOP1] / asked,
        100.0 * score.counts()[Score.TOP3] / asked,
        100.0 * score.counts()[Score.NEAREST] / asked,
        100.0 * score.counts()[Score.EARLIEST] / asked,
        nanos.length == 0 ? 0 : nanos[nanos.length / 2] / 1e6,
        nanos.length == 0 ? 0 : nanos[(int) (0.99 * (nanos.length - 1))] / 1e6);
  }

  // ------------------------------------------------------------------ faults

  /**
   * A place where this sort of fault can happen; the estate without faults says which tables are.
   */
  private static Injected inject(Fault fault, RunningEstate plain, Random random) {
    List<Table> places =
        plain.tables.stream()
            .filter(
                table ->
                    switch (fault) {
                      case UNIT_SLIP, SCHEMA_CHANGE -> table.layer == 0;
                      case MISSING_FILE, STUCK_CONNECTOR ->
                          fault == Fault.MISSING_FILE
                              ? table.layer == 0
                              : table.layer == 1 && table.rhythm == Rhythm.HOURLY;
                      case DUPLICATE_LOAD -> table.layer == 1 && table.rhythm == Rhythm.DAILY;
                      case FILTER_CHANGE, FAILED_TASK ->
                          table.layer > 1 && table.layer < 5 && table.rhythm == Rhythm.DAILY;
                      case SLOW_UPSTREAM ->
                          table.layer > 0 && table.layer < 4 && table.rhythm == Rhythm.DAILY;
                    })
            .toList();
    Table place = places.get(random.nextInt(places.size()));
    int column = random.nextInt(place.columns());
    double[] factors = {10, 100, 1000, 0.1, 0.01, 0.45, 1.8};
    boolean lasts = fault == Fault.UNIT_SLIP || fault == Fault.FILTER_CHANGE;
    int back = lasts ? random.nextInt(4) : 0;
    return new Injected(fault, place.id, column, back, factors[random.nextInt(factors.length)]);
  }

  private static void one(Fault fault, int seed, int size, Score score, boolean verbose) {
    var random = new Random(seed * 31L + fault.ordinal());
    var plain = new RunningEstate(seed, size, List.of());
    for (int tries = 0; tries < 20; tries++) {
      Injected injected = inject(fault, plain, random);
      var estate = new RunningEstate(seed, size, List.of(injected));
      List<Integer> reports = affected(plain, estate, injected);
      if (!reports.isEmpty()) {
        for (int node : reports.subList(0, Math.min(SYMPTOMS, reports.size()))) {
          ask(estate, node, symptom(injected, estate), List.of(injected), score, false, verbose);
        }
        return;
      }
    }
  }

  private static void two(int seed, int size, Score score) {
    var random = new Random(seed * 77L);
    var plain = new RunningEstate(seed, size, List.of());
    for (int tries = 0; tries < 60; tries++) {
      Injected one = inject(Fault.values()[random.nextInt(8)], plain, random);
      Injected other = inject(Fault.values()[random.nextInt(8)], plain, random);
      if (one.table() == other.table()) {
        continue;
      }
      var estate = new RunningEstate(seed, size, List.of(one, other));
      Set<Integer> both = new HashSet<>(assets(estate, affected(plain, estate, one)));
      both.retainAll(assets(estate, affected(plain, estate, other)));
      if (!both.isEmpty()) {
        int report = both.stream().min(Integer::compare).orElseThrow();
        int node = estate.graph().rowsOf(report);
        for (Injected each : List.of(one, other)) {
          ask(estate, node, Symptom.ANY, List.of(each), score, true, false);
        }
        return;
      }
    }
  }

  private static List<Integer> assets(RunningEstate estate, List<Integer> nodes) {
    return nodes.stream().map(estate.graph()::assetOf).toList();
  }

  private static void well(int seed, int size, Score score, boolean verbose) {
    var estate = new RunningEstate(seed, size, List.of());
    LineageGraph graph = estate.graph();
    for (Table table : estate.tables) {
      if (table.layer == 6 && graph.asset(table.ref()).isPresent()) {
        int node = graph.rowsOf(graph.asset(table.ref()).getAsInt());
        Causes causes = CauseSearch.of(graph, node, estate, RunningEstate.ASKED);
        score.counts()[Score.ASKED]++;
        score.counts()[Score.NAMED] += causes.suspects().isEmpty() ? 0 : 1;
        if (verbose && !causes.suspects().isEmpty()) {
          System.out.println("healthy " + seed + " " + causes.suspects().get(0).incident());
        }
      }
    }
  }

  private static Symptom symptom(Injected injected, RunningEstate estate) {
    return switch (injected.fault()) {
      case FAILED_TASK, SLOW_UPSTREAM -> Symptom.LATE;
      case MISSING_FILE, STUCK_CONNECTOR, FILTER_CHANGE -> Symptom.MISSING_ROWS;
      case UNIT_SLIP, DUPLICATE_LOAD -> Symptom.WRONG_VALUES;
      case SCHEMA_CHANGE -> Symptom.ANY;
    };
  }

  /** The places in reports where the fault shows: nodes of columns for values, else of assets. */
  private static List<Integer> affected(
      RunningEstate plain, RunningEstate estate, Injected injected) {
    LineageGraph graph = estate.graph();
    Table broken = estate.tables.get(injected.table());
    int origin = graph.rowsOf(graph.asset(broken.ref()).orElse(0));
    if (graph.asset(broken.ref()).isEmpty()) {
      return List.of();
    }
    var nodes = new ArrayList<Integer>();
    for (Table report : estate.tables) {
      if (report.layer != 6) {
        continue;
      }
      int asset = graph.asset(report.ref()).orElseThrow();
      if (injected.fault() == Fault.UNIT_SLIP) {
        for (int c = 0; c < report.columns(); c++) {
          double was = plain.tables.get(report.id).columnFactor[c];
          if (Math.abs(report.columnFactor[c] / was - 1) > 0.3) {
            nodes.add(graph.node(asset, "c" + c).orElseThrow());
            break;
          }
        }
      } else if (reaches(graph, origin, graph.rowsOf(asset))
          && shows(plain, estate, injected, report)) {
        nodes.add(graph.rowsOf(asset));
      }
    }
    return nodes;
  }

  private static boolean reaches(LineageGraph graph, int from, int to) {
    Reach reach =
        Walk.assets(
            graph, new int[] {from}, Direction.DOWNSTREAM, Integer.MAX_VALUE, Integer.MAX_VALUE);
    return Arrays.stream(reach.nodes()).anyMatch(node -> node == to);
  }

  /** Whether a fault did anything: a broken file nobody reads that day, say, does not. */
  private static boolean shows(
      RunningEstate plain, RunningEstate estate, Injected injected, Table report) {
    switch (injected.fault()) {
      case FAILED_TASK, SLOW_UPSTREAM -> {
        return true;
      }
      case STUCK_CONNECTOR, FILTER_CHANGE, DUPLICATE_LOAD -> {
        return report.brokenBy.contains(injected.table());
      }
      default -> {}
    }
    LineageGraph graph = estate.graph();
    int place = graph.rowsOf(graph.asset(report.ref()).orElseThrow());
    for (Table table : estate.tables) {
      boolean stands =
          table.inputs.contains(injected.table())
              && !newest(estate, table).equals(newest(plain, table));
      if (stands && reaches(graph, graph.rowsOf(graph.asset(table.ref()).orElseThrow()), place)) {
        return true;
      }
    }
    for (boolean isNull : report.isNull) {
      if (isNull) {
        return true;
      }
    }
    return false;
  }

  private static String newest(RunningEstate estate, Table table) {
    return estate.runs(table.job()).stream()
        .findFirst()
        .map(
            run ->
                run.start().toString().substring(0, 10)
                    + run.state()
                    + (run.rows() == null || run.rows() == 0))
        .orElse("");
  }

  // ------------------------------------------------------------------ asking

  private static void ask(
      RunningEstate estate,
      int node,
      Symptom symptom,
      List<Injected> truth,
      Score score,
      boolean pairs,
      boolean verbose) {
    LineageGraph graph = estate.graph();
    Set<String> right = new HashSet<>();
    truth.forEach(injected -> right.addAll(right(estate, injected)));
    long start = System.nanoTime();
    Causes causes =
        CauseSearch.of(
            new CauseSearch.Question(graph, node, symptom, estate, RunningEstate.ASKED, null));
    score.nanos().add(System.nanoTime() - start);
    List<String> named = causes.suspects().stream().map(s -> s.incident().ref()).toList();
    score.counts()[Score.ASKED]++;
    int places = symptom == Symptom.ANY && pairs ? 2 : 1; // of two faults only one can be first
    boolean first = named.stream().limit(places).anyMatch(right::contains);
    score.counts()[Score.TOP1] += first ? 1 : 0;
    score.counts()[Score.TOP3] += named.stream().limit(3).anyMatch(right::contains) ? 1 : 0;
    List<String> failures = failures(estate, node);
    score.counts()[Score.NEAREST] += !failures.isEmpty() && right.contains(failures.get(0)) ? 1 : 0;
    String earliest =
        failures.stream()
            .min((a, b) -> estate.runs(a).get(0).start().compareTo(estate.runs(b).get(0).start()))
            .orElse("");
    score.counts()[Score.EARLIEST] += right.contains(earliest) ? 1 : 0;
    if (verbose && !first) {
      System.out.println(truth + " " + symptom + " right " + right);
      causes.suspects().stream()
          .limit(3)
          .forEach(s -> System.out.println("   " + s.incident() + " " + s.parts()));
      causes.effects().stream()
          .filter(e -> right.contains(e.incident().ref()))
          .forEach(e -> System.out.println("   effect " + e));
    }
  }

  /** What counts as found: the broken thing, or the first below it that reports anything. */
  private static Set<String> right(RunningEstate estate, Injected injected) {
    Table broken = estate.tables.get(injected.table());
    var right = new HashSet<String>(Set.of(broken.ref(), broken.job()));
    if (broken.layer == 0) {
      estate.tables.stream()
          .filter(table -> table.inputs.contains(broken.id))
          .forEach(
              table -> {
                right.add(table.ref());
                right.add(table.job());
              });
    }
    return right;
  }

  /** Jobs upstream whose newest run failed, the nearest first. */
  private static List<String> failures(RunningEstate estate, int node) {
    LineageGraph graph = estate.graph();
    Reach reach =
        Walk.assets(
            graph,
            new int[] {graph.rowsOf(graph.assetOf(node))},
            Direction.UPSTREAM,
            Integer.MAX_VALUE,
            Integer.MAX_VALUE);
    var failures = new ArrayList<String>();
    var seen = new BitSet();
    for (int place : reach.nodes()) {
      graph.forEachLink(
          place,
          Direction.UPSTREAM,
          (from, flow, masking, owner) -> {
            List<Health.Run> runs = estate.runs(graph.owner(owner));
            if (!seen.get(owner) && !runs.isEmpty() && runs.get(0).state() == RunState.FAILED) {
              failures.add(graph.owner(owner));
            }
            seen.set(owner);
          });
    }
    return failures;
  }
}
