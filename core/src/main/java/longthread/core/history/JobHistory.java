package longthread.core.history;

import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.Collections;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.IdentityHashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.SortedSet;
import java.util.TreeSet;
import java.util.function.Consumer;
import java.util.function.Predicate;
import longthread.core.asset.ColumnName;
import longthread.core.asset.DatasetName;
import longthread.core.history.JobLineage.HeldLink;
import longthread.core.history.JobLineage.Version;
import longthread.core.lineage.ColumnConstant;
import longthread.core.lineage.ColumnLink;
import longthread.core.lineage.Evidence;
import longthread.core.lineage.ReportedLineage;
import longthread.core.lineage.ResolvedLineage;
import org.jspecify.annotations.Nullable;

/**
 * Works out a job's versions and links from its runs and from what was declared of it.
 *
 * <p>A run that reports a link opens it. A settled run with outputs closes the links it lacks if
 * its code is new; code that was seen in a settled run of the past {@link #IDLE} is not new, since
 * a job may alternate between statements, and statements of one execution leave each other's links
 * alone ({@link SettledCode}). Else a link ends when it was idle for {@link #IDLE} while the job
 * went on. A silent job closes nothing.
 *
 * <p>What a job reads and lands nowhere ends at the job itself, and what it writes and reads from
 * nowhere begins there.
 */
public final class JobHistory {
  /** How long a link stays current without being seen, while its job completes runs. */
  public static final Duration IDLE = Duration.ofDays(14);

  /**
   * Lineage by design, without a run: the lists of the newest job event, or what a dataset reports
   * of itself.
   *
   * @param at since when it is declared like this
   * @param last when it was declared so last
   * @param resolved with what the definition's SQL says, if it has any
   * @param until when it ended, since its owner is no more; null while it stands
   * @param earlier what was declared before, oldest first; each holds until the next
   */
  public record Declared(
      Instant at,
      Instant last,
      ResolvedLineage resolved,
      @Nullable Instant until,
      List<Earlier> earlier) {
    public Declared(Instant at, ReportedLineage lineage) {
      this(at, at, ResolvedLineage.of(lineage), null, List.of());
    }

    ReportedLineage lineage() {
      return resolved.lineage();
    }
  }

  /**
   * Lineage that a person recorded. No observation replaces it.
   *
   * @param until when it ends, this moment excluded; null if it stands until it is withdrawn
   */
  public record Recorded(Instant since, @Nullable Instant until, ResolvedLineage resolved) {}

  /** A lineage that was declared from a moment on, and was replaced. */
  public record Earlier(Instant at, ResolvedLineage resolved) {}

  private final Map<String, Seen> versions = new LinkedHashMap<>();
  private final Map<ColumnLink, HeldLink> open = new HashMap<>();
  private final List<HeldLink> closed = new ArrayList<>();
  private final SettledCode settledCode = new SettledCode();
  private final JobEnds ends;

  /** The newest run that was added link by link, and the last of those like it right behind. */
  private @Nullable JobRun added;

  private Instant likeItUntil = Instant.MIN;

  /** A version while its runs are gone through. */
  private static final class Seen {
    private final int number;
    private final Instant first;
    private final @Nullable String code;
    private final @Nullable String before;
    private final Set<ReportedLineage> lineages =
        Collections.newSetFromMap(new IdentityHashMap<>());
    private Instant last;

    Seen(int number, Instant first, @Nullable String code, @Nullable String before) {
      this.number = number;
      this.first = first;
      this.last = first;
      this.code = code;
      this.before = before;
    }
  }

  private @Nullable String versionBefore;

  private final Consumer<JobRun> needless;
  private @Nullable JobRun keptBefore; // of runs that are alike, the last that may not be left out
  private @Nullable JobRun middle; // the one behind it, until it is known what follows
  private @Nullable JobRun emptyBefore; // the last run that reported nothing

  private JobHistory(JobEnds ends, Consumer<JobRun> needless) {
    this.ends = ends;
    this.needless = needless;
  }

  /**
   * Returns the job's lineage in O(r log r + c l) for r runs, c changes of lineage or code among
   * them, and up to l links each.
   *
   * @param runs in any order; equal lineages are best given as one object
   * @param job the job itself; null for a dataset that declares its own sources
   */
  public static JobLineage of(
      Collection<JobRun> runs, @Nullable Declared declared, @Nullable DatasetName job) {
    return of(runs, declared, List.of(), job);
  }

  /**
   * As {@link #of(Collection, Declared, DatasetName)}, with what people recorded of the job.
   *
   * @param recorded in any order
   */
  public static JobLineage of(
      Collection<JobRun> runs,
      @Nullable Declared declared,
      Collection<Recorded> recorded,
      @Nullable DatasetName job) {
    return of(runs, declared, recorded, job, run -> {});
  }

  /**
   * As {@link #of(Collection, Declared, Collection, DatasetName)}; names the runs that may be left
   * out from now on. Such a run lies between two that are like it, no further apart than {@link
   * #IDLE}: without it everything comes out the same, as long as no other run comes to lie between
   * the two, and the declaration stays.
   *
   * @param needless takes the runs that may be left out, oldest first
   */
  public static JobLineage of(
      Collection<JobRun> runs,
      @Nullable Declared declared,
      Collection<Recorded> recorded,
      @Nullable DatasetName job,
      Consumer<JobRun> needless) {
    var history = new JobHistory(JobEnds.of(job, runs, declared), needless);
    var ordered = new ArrayList<>(runs);
    ordered.sort(JobRun.BY_START);
    Instant newestSettled = Instant.MIN;
    for (JobRun run : ordered) {
      history.add(run);
      if (run.settled()) {
        newestSettled = run.start();
      }
    }
    history.closeBlock();
    history.closeIdle(newestSettled);
    return history.result(ordered, declared, recorded);
  }

  private void add(JobRun run) {
    if (run.lineage().isEmpty() && run.fingerprint() == null) {
      if (emptyBefore != null && emptyBefore.settled() == run.settled()) {
        needless.accept(emptyBefore);
      }
      emptyBefore = run;
      return;
    }
    String hash = versionOf(run);
    Seen version =
        versions.computeIfAbsent(
            hash,
            h -> new Seen(versions.size() + 1, run.start(), run.fingerprint(), versionBefore));
    version.last = run.start();
    version.lineages.add(run.lineage());
    versionBefore = hash;
    if (isLikeTheLast(run)) {
      likeItUntil = run.start();
      noteSettled(run);
      noteAlike(run);
      return;
    }
    keptBefore = run;
    middle = null;
    closeBlock();
    added = run;
    likeItUntil = run.start();
    List<ColumnLink> links = ends.links(run.resolved());
    for (ColumnLink link : links) {
      HeldLink held = open.get(link);
      if (held != null && held.lastSeen().plus(IDLE).isBefore(run.start())) {
        // It had gone idle before it was seen again, so the gap is a gap in its history too.
        close(held, held.lastSeen().plus(IDLE));
        held = null;
      }
      Instant first = held == null ? run.start() : held.firstSeen();
      open.put(
          link, new HeldLink(link, run.resolved().evidence(link), hash, first, run.start(), null));
    }
    Predicate<String> replaced = noteSettled(run);
    var reported = new HashSet<>(links);
    for (HeldLink held : List.copyOf(open.values())) {
      if (replaced.test(held.version()) && !reported.contains(held.link())) {
        close(held, run.start());
      }
    }
  }

  /** Whether a run says what its code does in full: it settled and did what the job is for. */
  private boolean settles(JobRun run) {
    return run.settled() && ends.isWhole(run.lineage()) && run.fingerprint() != null;
  }

  /** Notes a run; returns of which versions it ends the links that it lacks. */
  private Predicate<String> noteSettled(JobRun run) {
    return settles(run) ? settledCode.replacedBy(run) : version -> false;
  }

  /** Whether a run changes nothing but until when its links were seen. */
  private boolean isLikeTheLast(JobRun run) {
    return added != null
        && added.resolved() == run.resolved()
        && Objects.equals(added.fingerprint(), run.fingerprint())
        && !(settles(run) && settledCode.maySettle(run))
        && !likeItUntil.plus(IDLE).isBefore(run.start());
  }

  private void noteAlike(JobRun run) {
    if (middle != null) {
      boolean between =
          keptBefore.settled() == middle.settled()
              && middle.settled() == run.settled()
              && !keptBefore.start().plus(IDLE).isBefore(run.start());
      if (between) {
        needless.accept(middle);
      } else {
        keptBefore = middle;
      }
    }
    middle = run;
  }

  /** Gives the links of the last runs that were alike until when they were seen. */
  private void closeBlock() {
    if (added == null || likeItUntil.equals(added.start())) {
      return;
    }
    for (ColumnLink link : ends.links(added.resolved())) {
      HeldLink held = open.get(link);
      if (held != null) {
        open.put(
            link,
            new HeldLink(
                link, held.evidence(), held.version(), held.firstSeen(), likeItUntil, null));
      }
    }
  }

  private void closeIdle(Instant newestSettled) {
    for (HeldLink held : List.copyOf(open.values())) {
      Instant end = held.lastSeen().plus(IDLE);
      if (end.isBefore(newestSettled)) {
        close(held, end);
      }
    }
  }

  private void close(HeldLink held, Instant at) {
    open.remove(held.link());
    closed.add(until(held, at));
  }

  private JobLineage result(
      List<JobRun> ordered, @Nullable Declared declared, Collection<Recorded> recorded) {
    var links = new ArrayList<>(closed);
    links.addAll(open.values());
    links.sort(Comparator.comparing(HeldLink::link).thenComparing(HeldLink::firstSeen));
    SortedSet<ColumnName> described = new TreeSet<>();
    SortedSet<ColumnConstant> constants = new TreeSet<>();
    boolean gap = false;
    String newest = newestVersion(ordered);
    Set<ResolvedLineage> seen = Collections.newSetFromMap(new IdentityHashMap<>());
    for (JobRun run : ordered) {
      if (versionOf(run).equals(newest) && seen.add(run.resolved())) {
        described.addAll(run.lineage().described());
        gap |= run.lineage().gap();
        constants.addAll(run.resolved().constants());
      }
    }
    if (declared != null) {
      if (declared.until() == null) {
        described.addAll(declared.lineage().described());
        gap |= declared.lineage().gap();
        constants.addAll(declared.resolved().constants());
      }
      links.addAll(declaredLinks(declared));
    }
    links.addAll(recordedLinks(recorded));
    return new JobLineage(versions(), ends.needed(links), described, gap, constants);
  }

  /** The links that people recorded: where two records of one link meet, it is one stretch. */
  private List<HeldLink> recordedLinks(Collection<Recorded> recorded) {
    var links = new ArrayList<HeldLink>();
    var last = new HashMap<ColumnLink, HeldLink>();
    List<Recorded> ordered =
        recorded.stream()
            .filter(one -> one.until() == null || one.until().isAfter(one.since()))
            .sorted(Comparator.comparing(Recorded::since))
            .toList();
    for (Recorded one : ordered) {
      for (ColumnLink link : ends.links(one.resolved())) {
        HeldLink before = last.get(link);
        boolean meets =
            before != null && (before.until() == null || !before.until().isBefore(one.since()));
        if (before != null && !meets) {
          links.add(before);
        }
        Instant first = meets ? before.firstSeen() : one.since();
        Instant until = meets ? laterEnd(before.until(), one.until()) : one.until();
        last.put(
            link, new HeldLink(link, Evidence.RECORDED, "recorded", first, one.since(), until));
      }
    }
    links.addAll(last.values());
    links.sort(Comparator.comparing(HeldLink::link).thenComparing(HeldLink::firstSeen));
    return links;
  }

  private static @Nullable Instant laterEnd(@Nullable Instant a, @Nullable Instant b) {
    return a == null || b == null ? null : a.isAfter(b) ? a : b;
  }

  /**
   * The links of all declarations: one that stands in several in a row is one link, from the first
   * of them on.
   */
  private List<HeldLink> declaredLinks(Declared declared) {
    var links = new ArrayList<HeldLink>();
    var standing = new LinkedHashMap<ColumnLink, HeldLink>();
    for (Earlier earlier : declared.earlier()) {
      declare(earlier.at(), earlier.at(), earlier.resolved(), standing, links);
    }
    declare(declared.at(), declared.last(), declared.resolved(), standing, links);
    for (HeldLink held : standing.values()) {
      if (declared.until() == null && !open.containsKey(held.link())) {
        links.add(held);
      } else if (declared.until() != null) {
        links.add(until(held, declared.until()));
      }
    }
    links.removeIf(held -> held.until() != null && !held.until().isAfter(held.firstSeen()));
    return links;
  }

  private void declare(
      Instant at,
      Instant last,
      ResolvedLineage resolved,
      Map<ColumnLink, HeldLink> standing,
      List<HeldLink> over) {
    List<ColumnLink> links = ends.links(resolved);
    var now = new HashSet<>(links);
    standing
        .values()
        .removeIf(
            held -> {
              boolean ends = !now.contains(held.link());
              if (ends) {
                over.add(until(held, at));
              }
              return ends;
            });
    for (ColumnLink link : links) {
      HeldLink before = standing.get(link);
      Evidence evidence = resolved.derived().contains(link) ? Evidence.DERIVED : Evidence.DECLARED;
      Instant first = before == null ? at : before.firstSeen();
      standing.put(link, new HeldLink(link, evidence, "declared", first, last, null));
    }
  }

  private static HeldLink until(HeldLink held, Instant end) {
    return new HeldLink(
        held.link(), held.evidence(), held.version(), held.firstSeen(), held.lastSeen(), end);
  }

  private List<Version> versions() {
    var list = new ArrayList<Version>();
    versions.forEach(
        (hash, seen) ->
            list.add(new Version(seen.number, hash, seen.first, seen.last, changes(seen))));
    return list;
  }

  private List<String> changes(Seen version) {
    Seen before = version.before == null ? null : versions.get(version.before);
    if (before == null) {
      return List.of("first seen");
    }
    ReportedLineage now = ReportedLineage.union(version.lineages);
    ReportedLineage then = ReportedLineage.union(before.lineages);
    var changes = new ArrayList<String>();
    if (!Objects.equals(version.code, before.code)) {
      changes.add("code changed");
    }
    changed(then.inputs(), now.inputs(), "reads ", "no longer reads ", changes);
    changed(then.outputs(), now.outputs(), "writes ", "no longer writes ", changes);
    long added = now.columns().stream().filter(link -> !then.columns().contains(link)).count();
    long gone = then.columns().stream().filter(link -> !now.columns().contains(link)).count();
    if (added + gone > 0) {
      changes.add("column map: " + added + " links new, " + gone + " gone");
    }
    return changes;
  }

  private static void changed(
      Set<DatasetName> then,
      Set<DatasetName> now,
      String added,
      String gone,
      List<String> changes) {
    now.stream()
        .filter(d -> !then.contains(d) && !d.isJob())
        .forEach(d -> changes.add(added + d.reference()));
    then.stream()
        .filter(d -> !now.contains(d) && !d.isJob())
        .forEach(d -> changes.add(gone + d.reference()));
  }

  private String newestVersion(List<JobRun> ordered) {
    String newest = "";
    for (JobRun run : ordered) {
      if (ends.isWhole(run.lineage())) {
        newest = versionOf(run);
      }
    }
    return newest;
  }

  private String versionOf(JobRun run) {
    return run.fingerprint() != null ? run.fingerprint() : run.resolved().hash();
  }
}
