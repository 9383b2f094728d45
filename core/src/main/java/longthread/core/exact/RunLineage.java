package longthread.core.exact;

import java.time.Instant;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
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

  private static final int MAX_VIEWS = 300;

  private final RunLog log;
  private final int maxRuns;
  private final int maxHops;
  private final Map<RunKey, Member> members = new LinkedHashMap<>();
  private final List<Use> uses = new ArrayList<>();
  private final Set<String> sources = new java.util.TreeSet<>();
  private boolean truncated;

  private RunLineage(RunLog log, int maxHops, int maxRuns) {
    this.log = log;
    this.maxHops = maxHops;
    this.maxRuns = maxRuns;
  }

  /**
   * Returns the runs behind what is in an asset at a moment.
   *
   * @param maxHops how many readings to follow back
   * @param maxRuns how many runs to return at the most
   */
  public static Found of(RunLog log, String asset, Instant at, int maxHops, int maxRuns) {
    var lineage = new RunLineage(log, maxHops, maxRuns);
    Use use = lineage.use(null, asset, Reading.at(at));
    return lineage.walk(List.of(use), 0);
  }

  /** Returns the runs behind what one run wrote; the run itself is the first member. */
  public static Found of(RunLog log, Execution run, int maxHops, int maxRuns) {
    var lineage = new RunLineage(log, maxHops, maxRuns);
    lineage.members.put(RunKey.of(run), new Member(run, 0, true));
    return lineage.walk(lineage.usesOf(run), 0);
  }

  private List<Use> usesOf(Execution run) {
    return run.reads().stream()
        .map(read -> use(RunKey.of(run), read.asset(), Reading.of(run, read)))
        .toList();
  }

  /** What a reading saw; through what shows other assets as they are, it sees those. */
  private Use use(@Nullable RunKey reader, String asset, Reading reading) {
    var contents = new LinkedHashMap<String, Contents.Answer>();
    var through = new ArrayList<String>();
    boolean cut = false;
    var waiting = new ArrayDeque<String>(List.of(asset));
    var seen = new HashSet<String>(waiting);
    while (!waiting.isEmpty()) {
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
        if (seen.size() < MAX_VIEWS && seen.add(next)) {
          waiting.add(next);
        }
      }
    }
    var use = new Use(reader, asset, reading.part(), through, contents, cut);
    uses.add(use);
    return use;
  }

  /** Which part of what lies behind a view was read is not known, unless all of it was. */
  private static Reading anyPart(Reading reading) {
    Part part = reading.part().isWhole() && reading.part().exact() ? Part.WHOLE : Part.SOMETHING;
    return new Reading(part, reading.from(), reading.until(), null, reading.by());
  }

  private Found walk(Collection<Use> first, int hop) {
    List<Use> level = List.copyOf(first);
    for (int hops = hop + 1; !level.isEmpty(); hops++) {
      var next = new ArrayList<Use>();
      for (Use use : level) {
        for (Contribution one : contributions(use)) {
          RunKey key = RunKey.of(one.by());
          if (members.containsKey(key)) {
            continue;
          }
          if (hops > maxHops || members.size() >= maxRuns) {
            truncated = true;
            continue;
          }
          members.put(key, new Member(one.by(), hops, false));
          next.addAll(usesOf(one.by()));
        }
      }
      level = next;
    }
    return new Found(withCertainty(), uses, List.copyOf(sources), truncated);
  }

  static List<Contribution> contributions(Use use) {
    return use.contents().values().stream().flatMap(a -> a.contributions().stream()).toList();
  }

  /** A run is certain if a chain of certain readings leads from the focus to it. */
  private List<Member> withCertainty() {
    var certainOf = new LinkedHashMap<List<Object>, List<RunKey>>();
    for (Use use : uses) {
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
