package longthread.core.exact;

import java.time.Instant;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * The runs behind what is in a dataset, or behind what a run wrote, run by run back to the sources.
 */
public final class RunLineage {
  /** A run of a job: several jobs may report under one id. */
  public record RunKey(UUID run, String job) {
    public static RunKey of(Execution run) {
      return new RunKey(run.run(), run.job());
    }
  }

  /**
   * A run in the lineage.
   *
   * @param hops how many readings lie between it and the focus; the focus is 0
   * @param certain whether some chain to the focus is certain in all of its readings
   */
  public record Member(Execution run, int hops, boolean certain) {}

  /**
   * One reading of an asset.
   *
   * @param reader the run that read; null where the focus is an asset
   * @param asset what was read
   * @param through the assets that were really read, where the asset shows them as they are
   * @param contents what was there, by asset really read; none for an asset that no run wrote
   * @param cut whether runs too old to be looked at may belong to it
   */
  public record Use(
      @Nullable RunKey reader,
      String asset,
      Part part,
      List<String> through,
      Map<String, Contents.Answer> contents,
      boolean cut) {}

  /**
   * The lineage.
   *
   * @param members nearest first
   * @param sources assets that were read and that no known run wrote
   * @param truncated whether more runs lie behind these
   */
  public record Found(
      List<Member> members, List<Use> uses, List<String> sources, boolean truncated) {}

  /** Which columns of its inputs a run made columns of an output from. */
  @FunctionalInterface
  public interface ColumnMap {
    /**
     * The columns of each input that some columns of an output are made from; null if that is not
     * known of the run, so that anything it read may be in them. An input with a null set is read
     * as a whole.
     */
    @Nullable Map<String, @Nullable Set<String>> sources(
        Execution run, String output, Set<String> columns);
  }

  private static final int MAX_VIEWS = 300;

  /** A reading to be followed; of null columns, all of them. */
  private record Step(Use use, @Nullable Set<String> columns) {}

  /** One of the readings of a run, before it is known what was there. */
  private record Wanted(Execution run, int number, @Nullable Set<String> columns) {
    Execution.Read read() {
      return run.reads().get(number);
    }
  }

  private final RunLog log;
  private final ColumnMap map;
  private final int maxRuns;
  private final int maxHops;
  private final Map<RunKey, Member> members = new LinkedHashMap<>();
  private final Map<List<Object>, Use> uses = new LinkedHashMap<>();
  private final Map<Use, @Nullable Set<String>> followed = new java.util.IdentityHashMap<>();
  private final Set<String> sources = new java.util.TreeSet<>();
  private boolean truncated;

  private RunLineage(RunLog log, ColumnMap map, int maxHops, int maxRuns) {
    this.log = log;
    this.map = map;
    this.maxHops = maxHops;
    this.maxRuns = maxRuns;
  }

  /**
   * Returns the runs behind what is in an asset at a moment.
   *
   * @param column the column to follow; null for all that is in it
   * @param map how columns are followed through runs
   * @param maxHops how many readings to follow back
   * @param maxRuns how many runs to return at the most
   */
  public static Found of(
      RunLog log,
      String asset,
      @Nullable String column,
      ColumnMap map,
      Instant at,
      int maxHops,
      int maxRuns) {
    var lineage = new RunLineage(log, map, maxHops, maxRuns);
    Use use = lineage.use(null, -1, asset, Reading.at(at));
    return lineage.walk(List.of(new Step(use, column == null ? null : Set.of(column))));
  }

  /** Returns the runs behind all that is in an asset at a moment. */
  public static Found of(RunLog log, String asset, Instant at, int maxHops, int maxRuns) {
    return of(log, asset, null, (run, output, columns) -> null, at, maxHops, maxRuns);
  }

  /** Returns the runs behind what one run wrote; the run itself is the first member. */
  public static Found of(RunLog log, Execution run, int maxHops, int maxRuns) {
    var lineage = new RunLineage(log, (any, output, columns) -> null, maxHops, maxRuns);
    lineage.members.put(RunKey.of(run), new Member(run, 0, true));
    return lineage.walk(lineage.steps(lineage.readings(run, "", null)));
  }

  /** The readings of a run that made columns of what it wrote. */
  private List<Wanted> readings(Execution run, String written, @Nullable Set<String> columns) {
    Map<String, @Nullable Set<String>> from =
        columns == null ? null : map.sources(run, written, columns);
    var wanted = new ArrayList<Wanted>();
    for (int i = 0; i < run.reads().size(); i++) {
      String asset = run.reads().get(i).asset();
      if (from == null || from.containsKey(asset)) {
        wanted.add(new Wanted(run, i, from == null ? null : from.get(asset)));
      }
    }
    return wanted;
  }

  private List<Step> steps(List<Wanted> readings) {
    log.expect(readings.stream().map(one -> one.read().asset()).collect(Collectors.toSet()));
    var steps = new ArrayList<Step>();
    for (Wanted one : readings) {
      RunKey reader = RunKey.of(one.run());
      Reading reading = Reading.of(one.run(), one.read());
      steps.add(new Step(use(reader, one.number(), one.read().asset(), reading), one.columns()));
    }
    return steps;
  }

  /** What a reading saw; through what shows other assets as they are, it sees those. */
  private Use use(@Nullable RunKey reader, int number, String asset, Reading reading) {
    return uses.computeIfAbsent(
        java.util.Arrays.asList(reader, number), k -> seen(reader, asset, reading));
  }

  private Use seen(@Nullable RunKey reader, String asset, Reading reading) {
    var contents = new LinkedHashMap<String, Contents.Answer>();
    var through = new ArrayList<String>();
    boolean cut = false;
    var waiting = new ArrayDeque<String>(List.of(asset));
    var known = new HashSet<String>(waiting);
    while (!waiting.isEmpty()) {
      if (known.size() > 1) {
        log.expect(waiting);
      }
      String at = waiting.poll();
      Reading here = at.equals(asset) ? reading : anyPart(reading);
      List<Execution> writers = log.writing(at, here);
      if (!writers.isEmpty()) {
        contents.put(at, Contents.of(writers, at, here));
        cut |= log.isCut(at);
        if (!at.equals(asset)) {
          through.add(at);
        }
        continue;
      }
      List<String> shown = log.shownBy(at, reading.from());
      if (shown.isEmpty()) {
        sources.add(at);
        if (!at.equals(asset)) {
          through.add(at);
        }
      }
      for (String next : shown) {
        if (known.size() < MAX_VIEWS && known.add(next)) {
          waiting.add(next);
        }
      }
    }
    return new Use(reader, asset, reading.part(), through, contents, cut);
  }

  /** Which part of what lies behind a view was read is not known, unless all of it was. */
  static Reading anyPart(Reading reading) {
    Part part = reading.part().isWhole() && reading.part().exact() ? Part.WHOLE : Part.SOMETHING;
    return new Reading(part, reading.from(), reading.until(), null, reading.by());
  }

  private Found walk(List<Step> first) {
    List<Step> level = first;
    for (int hops = 1; !level.isEmpty(); hops++) {
      var next = new ArrayList<Wanted>();
      for (Step step : level) {
        if (isNew(step)) {
          follow(step, hops, next);
        }
      }
      level = steps(next);
    }
    return new Found(withCertainty(), List.copyOf(uses.values()), List.copyOf(sources), truncated);
  }

  /** Whether a step asks for columns of a reading that were not followed yet. */
  private boolean isNew(Step step) {
    if (!followed.containsKey(step.use())) {
      followed.put(step.use(), step.columns());
      return true;
    }
    Set<String> before = followed.get(step.use());
    if (before == null || (step.columns() != null && before.containsAll(step.columns()))) {
      return false;
    }
    Set<String> all = step.columns() == null ? null : new HashSet<>(before);
    if (all != null) {
      all.addAll(step.columns());
    }
    followed.put(step.use(), all);
    return true;
  }

  private void follow(Step step, int hops, List<Wanted> next) {
    Use use = step.use();
    use.contents()
        .forEach(
            (asset, answer) -> {
              // Behind what only shows other assets, columns have other names.
              Set<String> columns = asset.equals(use.asset()) ? step.columns() : null;
              for (Contribution one : answer.contributions()) {
                RunKey key = RunKey.of(one.by());
                if (!members.containsKey(key)) {
                  if (hops > maxHops || members.size() >= maxRuns) {
                    truncated = true;
                    continue;
                  }
                  members.put(key, new Member(one.by(), hops, false));
                }
                next.addAll(readings(one.by(), asset, columns));
              }
            });
  }

  static List<Contribution> contributions(Use use) {
    return use.contents().values().stream().flatMap(a -> a.contributions().stream()).toList();
  }

  /** A run is certain if a chain of certain readings leads from the focus to it. */
  private List<Member> withCertainty() {
    var certainOf = new LinkedHashMap<List<Object>, List<RunKey>>();
    for (Use use : uses.values()) {
      for (Contribution one : contributions(use)) {
        if (one.certain()) {
          certainOf
              .computeIfAbsent(java.util.Arrays.asList(use.reader()), k -> new ArrayList<>())
              .add(RunKey.of(one.by()));
        }
      }
    }
    var certain = new HashSet<RunKey>();
    var waiting = new ArrayDeque<List<Object>>();
    members.values().stream()
        .filter(Member::certain)
        .forEach(
            focus -> {
              certain.add(RunKey.of(focus.run()));
              waiting.add(java.util.Arrays.asList((Object) RunKey.of(focus.run())));
            });
    waiting.add(java.util.Arrays.asList((Object) null));
    while (!waiting.isEmpty()) {
      for (RunKey key : certainOf.getOrDefault(waiting.poll(), List.of())) {
        if (members.containsKey(key) && certain.add(key)) {
          waiting.add(java.util.Arrays.asList((Object) key));
        }
      }
    }
    return members.values().stream()
        .map(m -> new Member(m.run(), m.hops(), certain.contains(RunKey.of(m.run()))))
        .toList();
  }
}
