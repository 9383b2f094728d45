package longthread.bench;

import java.time.DayOfWeek;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Collections;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.UUID;
import longthread.core.cause.Health;
import longthread.core.graph.GraphStore;
import longthread.core.graph.GraphStore.NamedLink;
import longthread.core.graph.LineageGraph;
import longthread.core.history.RunState;
import longthread.core.lineage.Flow;
import longthread.core.trust.Usual;

/**
 * An estate that runs: sources, loaders, four layers of tables and reports, with two months of
 * rhythmical runs, noise, and faults whose consequences follow by rule. Deterministic by its seed.
 *
 * <p>Jobs run hourly, daily, on weekdays or weekly; either at their own time or when all their
 * inputs are done. Half of them load what is new, the others all. Noise: starts and durations vary,
 * one run in fifty is late or slow, one in fifty fails and is repeated ten minutes later, rows grow
 * and differ by weekday, code and schemas change without harm.
 */
final class RunningEstate implements Health {
  static final int DAYS = 60;
  static final Instant FIRST_DAY = Instant.parse("2031-01-06T00:00:00Z"); // a Monday
  static final Instant LAST_DAY = FIRST_DAY.plus(Duration.ofDays(DAYS - 1));

  /** When somebody looks. */
  static final Instant ASKED = LAST_DAY.plus(Duration.ofHours(10));

  /** What is broken on purpose. */
  enum Fault {
    FAILED_TASK,
    MISSING_FILE,
    STUCK_CONNECTOR,
    SCHEMA_CHANGE,
    UNIT_SLIP,
    FILTER_CHANGE,
    DUPLICATE_LOAD,
    SLOW_UPSTREAM
  }

  /** A fault at a table's job, since some days before the last. */
  record Injected(Fault fault, int table, int column, int daysBack, double factor) {}

  enum Rhythm {
    HOURLY,
    DAILY,
    WEEKDAYS,
    WEEKLY
  }

  /** A table and the job that writes it; sources have none. */
  static final class Table {
    final int id;
    final int layer;
    final List<Integer> inputs = new ArrayList<>();
    final List<int[]> sources = new ArrayList<>(); // of each column: input table, column
    final List<Flow> flows = new ArrayList<>();
    Rhythm rhythm = Rhythm.DAILY;
    boolean triggered;
    boolean incremental;
    boolean coarse;
    boolean measured;
    double base;
    double growth;
    double weekend;
    double[] mean = new double[0];
    // State while it runs.
    double rowFactor = 1;
    double[] columnFactor = new double[0];
    boolean[] isNull = new boolean[0];
    Instant readyAt = Instant.EPOCH;
    boolean fresh;
    final Set<Integer> brokenBy = new HashSet<>(); // tables whose faults are in its content

    Table(int id, int layer) {
      this.id = id;
      this.layer = layer;
    }

    String ref() {
      return switch (layer) {
        case 0 -> "file://share/source" + id;
        case 6 -> "bi://desk/report/" + id;
        default -> "db/layer" + layer + ".t" + id;
      };
    }

    String job() {
      return layer == 6 ? ref() : "@n/make_t" + id;
    }

    int columns() {
      return mean.length;
    }

    /** Loaders of files: half of them wait for the file, the others run and find nothing. */
    boolean triggeredByFile() {
      return id % 2 == 0;
    }
  }

  final List<Table> tables = new ArrayList<>();
  private final Map<String, List<Run>> runs = new HashMap<>();
  private final Map<String, Map<String, List<Usual.Sample>>> series = new HashMap<>();
  private final Map<String, List<Change>> schemaChanges = new HashMap<>();
  private final Map<String, List<Change>> codeChanges = new HashMap<>();
  private final Random random;
  private final LineageGraph graph;
  private final Set<Integer> failedToday = new HashSet<>();

  RunningEstate(long seed, int size, List<Injected> faults) {
    random = new Random(seed);
    build(size);
    graph = links();
    for (int day = 0; day < DAYS; day++) {
      run(day, faults);
    }
    runs.values().forEach(list -> list.sort((a, b) -> b.start().compareTo(a.start())));
    series.values().forEach(of -> of.values().forEach(Collections::reverse));
    schemaChanges.values().forEach(Collections::reverse);
    codeChanges.values().forEach(Collections::reverse);
    runs.values().forEach(list -> list.removeIf(run -> run.start().isAfter(ASKED)));
  }

  LineageGraph graph() {
    return graph;
  }

  // ------------------------------------------------------------------ the estate

  private void build(int size) {
    int[] perLayer = {size / 5, size / 5, size / 4, size / 5, size / 8, 0, size / 8};
    for (int layer = 0; layer < perLayer.length; layer++) {
      for (int i = 0; i < perLayer[layer]; i++) {
        tables.add(table(layer));
      }
    }
  }

  private Table table(int layer) {
    var table = new Table(tables.size(), layer);
    table.mean = new double[3 + random.nextInt(6)];
    table.columnFactor = new double[table.mean.length];
    table.isNull = new boolean[table.mean.length];
    for (int c = 0; c < table.mean.length; c++) {
      table.mean[c] = Math.exp(random.nextGaussian() * 2 + 2);
      table.columnFactor[c] = 1;
    }
    table.base = Math.exp(random.nextGaussian() * 1.5 + 7);
    table.growth = random.nextDouble() * 0.004;
    table.weekend = random.nextInt(3) == 0 ? 0.2 + random.nextDouble() * 0.5 : 1;
    table.measured = random.nextInt(10) < 7 || layer == 1;
    table.incremental = random.nextBoolean();
    int dice = random.nextInt(20);
    table.rhythm =
        layer == 1 && dice < 4
            ? Rhythm.HOURLY
            : dice < 16 ? Rhythm.DAILY : dice < 19 ? Rhythm.WEEKDAYS : Rhythm.WEEKLY;
    table.triggered = random.nextBoolean() && layer > 1;
    if (layer > 0) {
      List<Table> before =
          tables.stream().filter(t -> t.layer < Math.min(layer, 5) && t.layer >= 0).toList();
      List<Table> near =
          before.stream()
              .filter(t -> t.layer == (layer == 6 ? 4 : layer - 1))
              .filter(t -> t.rhythm != Rhythm.WEEKLY || layer == 6)
              .toList();
      int count = layer == 1 ? 1 : 1 + random.nextInt(3);
      while (table.inputs.size() < count) {
        List<Table> from = layer > 1 && random.nextInt(5) == 0 ? notRaw(before) : near;
        int input = from.get(random.nextInt(from.size())).id;
        if (!table.inputs.contains(input)) {
          table.inputs.add(input);
        } else {
          count--;
        }
      }
      for (int c = 0; c < table.mean.length; c++) {
        int input = table.inputs.get(random.nextInt(table.inputs.size()));
        table.sources.add(new int[] {input, random.nextInt(tables.get(input).columns())});
        int kind = random.nextInt(10);
        table.flows.add(
            layer == 6 || kind < 6
                ? Flow.IDENTITY
                : kind < 9 ? Flow.TRANSFORMATION : Flow.AGGREGATION);
      }
      table.coarse = layer < 6 && random.nextInt(6) == 0;
    }
    return table;
  }

  private static List<Table> notRaw(List<Table> some) {
    List<Table> tables = some.stream().filter(t -> t.layer > 0).toList();
    return tables.isEmpty() ? some : tables;
  }

  private LineageGraph links() {
    var byOwner = new HashMap<String, List<NamedLink>>();
    for (Table table : tables) {
      List<NamedLink> links = byOwner.computeIfAbsent(table.job(), k -> new ArrayList<>());
      for (int input : table.inputs) {
        String from = tables.get(input).ref();
        links.add(new NamedLink(from, "*", table.ref(), "*", Flow.ROWS, false));
        if (table.coarse) {
          links.add(new NamedLink(from, "*", table.ref(), "*", Flow.COARSE, false));
        }
      }
      for (int c = 0; c < table.columns() && !table.inputs.isEmpty() && !table.coarse; c++) {
        int[] source = table.sources.get(c);
        links.add(
            new NamedLink(
                tables.get(source[0]).ref(),
                "c" + source[1],
                table.ref(),
                "c" + c,
                table.flows.get(c),
                false));
      }
    }
    var store = new GraphStore();
    store.replaceAll(byOwner);
    return store.current();
  }

  // ------------------------------------------------------------------ running it

  private boolean runsOn(Table table, Instant day) {
    DayOfWeek weekday = day.atOffset(ZoneOffset.UTC).getDayOfWeek();
    return switch (table.rhythm) {
      case HOURLY, DAILY -> true;
      case WEEKDAYS -> weekday != DayOfWeek.SATURDAY && weekday != DayOfWeek.SUNDAY;
      case WEEKLY -> weekday == DayOfWeek.of(1 + table.id % 7);
    };
  }

  private void run(int day, List<Injected> faults) {
    Instant midnight = FIRST_DAY.plus(Duration.ofDays(day));
    failedToday.clear();
    for (Table table : tables) {
      Injected fault = fault(table, day, faults);
      if (table.layer == 0) {
        source(table, fault, midnight);
      } else if (table.layer == 6) {
        take(table);
      } else if (runsOn(table, midnight)) {
        if (table.rhythm == Rhythm.HOURLY) {
          hourly(table, midnight, fault);
        } else {
          daily(table, day, midnight, fault);
        }
      } else {
        table.fresh = false;
      }
    }
  }

  private static Injected fault(Table table, int day, List<Injected> faults) {
    for (Injected fault : faults) {
      if (fault.table() == table.id && day >= DAYS - 1 - fault.daysBack()) {
        return fault;
      }
    }
    return null;
  }

  private void source(Table table, Injected fault, Instant midnight) {
    table.fresh = true;
    table.rowFactor = 1;
    table.readyAt = midnight;
    if (fault != null && fault.fault() == Fault.UNIT_SLIP) {
      table.columnFactor[fault.column()] = fault.factor();
    }
    if (random.nextInt(400) == 0) {
      schemaChanges
          .computeIfAbsent(table.ref(), k -> new ArrayList<>())
          .add(new Change(midnight, "a column was added", true));
    }
    if (fault != null && fault.fault() == Fault.SCHEMA_CHANGE && midnight.equals(LAST_DAY)) {
      change(schemaChanges, table.ref(), midnight, "column c" + fault.column() + " was renamed");
    }
    if (fault != null && fault.fault() == Fault.MISSING_FILE) {
      table.fresh = false;
    }
  }

  private static void change(
      Map<String, List<Change>> changes, String ref, Instant at, String words) {
    changes.computeIfAbsent(ref, k -> new ArrayList<>()).add(new Change(at, words));
  }

  private void take(Table report) {
    report.brokenBy.clear();
    report.inputs.forEach(input -> report.brokenBy.addAll(tables.get(input).brokenBy));
    for (int c = 0; c < report.columns(); c++) {
      int[] source = report.sources.get(c);
      report.columnFactor[c] = tables.get(source[0]).columnFactor[source[1]];
      report.isNull[c] = tables.get(source[0]).isNull[source[1]];
    }
  }

  private Duration minutes(double median, double spread) {
    return Duration.ofSeconds((long) (60 * median * Math.exp(random.nextGaussian() * spread)));
  }

  private void hourly(Table table, Instant midnight, Injected fault) {
    for (int hour = 0; hour < 24; hour++) {
      Instant start = midnight.plus(Duration.ofHours(hour)).plus(minutes(3, 0.3));
      boolean stuck =
          fault != null
              && fault.fault() == Fault.STUCK_CONNECTOR
              && !start.isBefore(LAST_DAY.minus(Duration.ofHours(4)));
      Instant end = start.plus(minutes(2, 0.2));
      double rows = stuck ? 0 : rows(table, start) / 24;
      add(table, new Run(id(), start, end, RunState.COMPLETED, null, Math.round(rows), null));
      if (stuck) {
        table.brokenBy.add(table.id);
      }
      if (hour == 0) {
        table.readyAt = end;
        load(table, stuck ? 0 : 1, true, end);
      }
    }
  }

  private static UUID id() {
    return new UUID(0, 0);
  }

  private double rows(Table table, Instant at) {
    DayOfWeek weekday = at.atOffset(ZoneOffset.UTC).getDayOfWeek();
    boolean weekend = weekday == DayOfWeek.SATURDAY || weekday == DayOfWeek.SUNDAY;
    double days = Duration.between(FIRST_DAY, at).toHours() / 24.0;
    return table.base
        * (1 + table.growth * days)
        * (weekend ? table.weekend : 1)
        * (1 + 0.05 * random.nextGaussian());
  }

  private void daily(Table table, int day, Instant midnight, Injected fault) {
    Instant inputsReady = midnight;
    boolean inputFailed = false;
    for (int input : table.inputs) {
      Table from = tables.get(input);
      inputsReady = from.readyAt.isAfter(inputsReady) ? from.readyAt : inputsReady;
      inputFailed |= failedToday.contains(input);
    }
    table.fresh = false;
    Instant start = midnight.plus(Duration.ofMinutes(60L * table.layer)).plus(minutes(4, 0.4));
    if (table.triggered) {
      if (inputFailed || inputsReady.isAfter(ASKED)) {
        failedToday.add(table.id);
        return; // it waits for what does not come
      }
      Instant ready = inputsReady.plus(minutes(3, 0.3));
      start = ready.isAfter(midnight.plus(Duration.ofMinutes(30))) ? ready : start;
    }
    if (table.layer == 1 && !tables.get(table.inputs.get(0)).fresh && table.triggeredByFile()) {
      failedToday.add(table.id);
      return; // no file, no run
    }
    int luck = random.nextInt(100);
    Duration took = minutes(6 + table.id % 20, 0.15);
    if (luck < 1) {
      start = start.plus(minutes(30, 0.3));
    } else if (luck < 2) {
      took = took.multipliedBy(2);
    }
    if (fault != null && fault.fault() == Fault.SLOW_UPSTREAM) {
      took = Duration.ofHours(10);
    }
    boolean fails = fault != null && (fault.fault() == Fault.FAILED_TASK || breaksOn(fault, table));
    boolean readsChanged = readsBrokenSchema(table, day);
    if (fails || readsChanged && !table.coarse && table.id % 2 == 0) {
      for (int attempt = 0; attempt < 3; attempt++) {
        Instant end = start.plus(Duration.ofMinutes(1));
        add(table, new Run(id(), start, end, RunState.FAILED, "it failed", null, null));
        start = end.plus(Duration.ofMinutes(10));
      }
      failedToday.add(table.id);
      return;
    }
    if (luck >= 2 && luck < 4) { // flaky: the second attempt is well
      Instant end = start.plus(Duration.ofMinutes(1));
      add(table, new Run(id(), start, end, RunState.FAILED, "connection reset", null, null));
      start = end.plus(Duration.ofMinutes(10));
    }
    Instant end = start.plus(took);
    if (end.isAfter(ASKED)) {
      add(table, new Run(id(), start, null, RunState.RUNNING, null, null, null));
      table.readyAt = end;
      failedToday.add(table.id);
      return;
    }
    complete(table, fault, start, end, inputsReady, readsChanged);
  }

  private static boolean breaksOn(Injected fault, Table table) {
    return fault.fault() == Fault.SCHEMA_CHANGE && table.layer == 0;
  }

  private boolean readsBrokenSchema(Table table, int day) {
    if (day < DAYS - 1) {
      return false;
    }
    for (int input : table.inputs) {
      Table from = tables.get(input);
      boolean changed =
          schemaChanges.getOrDefault(from.ref(), List.of()).stream()
              .anyMatch(c -> c.words().endsWith("renamed"));
      if (from.layer == 0 && changed) {
        return true;
      }
    }
    return false;
  }

  private void complete(
      Table table,
      Injected fault,
      Instant start,
      Instant end,
      Instant inputsReady,
      boolean readsChanged) {
    Table main = tables.get(table.inputs.get(0));
    boolean inTime = !inputsReady.isAfter(start) && main.layer >= 0;
    boolean hasNew = main.layer == 0 ? main.fresh : main.fresh && inTime;
    double factor = main.rowFactor;
    if (table.incremental && !hasNew && main.rhythm == Rhythm.DAILY && table.layer <= 2) {
      factor = 0;
    }
    if (fault != null) {
      factor *=
          switch (fault.fault()) {
            case FILTER_CHANGE -> 0.4;
            case DUPLICATE_LOAD -> 2;
            case STUCK_CONNECTOR, MISSING_FILE -> 0;
            default -> 1;
          };
      if (fault.fault() == Fault.FILTER_CHANGE
          && codeChanges.getOrDefault(table.job(), List.of()).stream()
              .noneMatch(c -> c.words().startsWith("a filter"))) {
        change(codeChanges, table.job(), start, "a filter was added");
      }
    } else if (random.nextInt(300) == 0) {
      change(codeChanges, table.job(), start, "a comment of its SQL changed");
    }
    if (readsChanged) {
      for (int c = 0; c < table.columns(); c++) {
        int[] source = table.sources.get(c);
        boolean gone =
            schemaChanges.getOrDefault(tables.get(source[0]).ref(), List.of()).stream()
                .anyMatch(change -> change.words().startsWith("column c" + source[1] + " "));
        table.isNull[c] = gone;
      }
    }
    table.brokenBy.clear();
    table.inputs.forEach(input -> table.brokenBy.addAll(tables.get(input).brokenBy));
    if (fault != null) {
      table.brokenBy.add(table.id);
    }
    long rows = Math.round(rows(table, start) * factor);
    add(table, new Run(id(), start, end, RunState.COMPLETED, null, rows, null));
    for (int c = 0; c < table.columns(); c++) {
      int[] source = table.sources.get(c);
      Table from = tables.get(source[0]);
      boolean sums = table.flows.get(c) == Flow.AGGREGATION && from.rowFactor > 0;
      table.columnFactor[c] = from.columnFactor[source[1]] * (sums ? from.rowFactor : 1);
      if (from.layer > 0 && !table.coarse) {
        table.isNull[c] = from.isNull[source[1]];
      }
    }
    table.readyAt = end;
    load(table, factor, rows > 0, end);
  }

  private void load(Table table, double factor, boolean fresh, Instant at) {
    table.rowFactor = factor;
    table.fresh = fresh;
    if (table.layer == 1 && table.rhythm == Rhythm.HOURLY) {
      for (int c = 0; c < table.columns(); c++) {
        int[] source = table.sources.get(c);
        table.columnFactor[c] = tables.get(source[0]).columnFactor[source[1]];
      }
    }
    if (!table.measured || factor == 0) {
      return;
    }
    for (int c = 0; c < table.columns(); c++) {
      sample(table, "c" + c, "null share", table.isNull[c] ? 1 : 0.01, at);
      if (!table.isNull[c]) {
        double mean = table.mean[c] * table.columnFactor[c] * (1 + 0.02 * random.nextGaussian());
        sample(table, "c" + c, "mean", mean, at);
      }
    }
  }

  private void sample(Table table, String column, String figure, double value, Instant at) {
    series
        .computeIfAbsent(table.ref(), k -> new HashMap<>())
        .computeIfAbsent(column + " " + figure, k -> new ArrayList<>())
        .add(new Usual.Sample(at, value));
  }

  private void add(Table table, Run run) {
    runs.computeIfAbsent(table.job(), k -> new ArrayList<>()).add(run);
  }

  // ------------------------------------------------------------------ as the search asks

  @Override
  public List<Run> runs(String job) {
    List<Run> all = runs.getOrDefault(job, List.of());
    return all.subList(0, Math.min(60, all.size()));
  }

  @Override
  public Collection<List<CheckResult>> checks(String dataset) {
    return List.of();
  }

  @Override
  public Collection<Series> series(String dataset) {
    var all = new ArrayList<Series>();
    series
        .getOrDefault(dataset, Map.of())
        .forEach(
            (name, samples) -> {
              int space = name.indexOf(' ');
              all.add(new Series(name.substring(0, space), name.substring(space + 1), samples));
            });
    return all;
  }

  @Override
  public List<Change> schemaChanges(String dataset) {
    return schemaChanges.getOrDefault(dataset, List.of());
  }

  @Override
  public List<Change> codeChanges(String job) {
    return codeChanges.getOrDefault(job, List.of());
  }
}
