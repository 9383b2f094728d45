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
import longthread.core.asset.ColumnName;
import longthread.core.event.CanonicalJson;
import longthread.core.event.ColumnLink;
import longthread.core.event.Shape;
import longthread.core.event.ShapeText;
import longthread.core.history.JobLineage.HeldLink;
import longthread.core.history.JobLineage.Version;
import org.jspecify.annotations.Nullable;

/**
 * Works out a job's versions and links from its runs and from what was declared of it.
 *
 * <p>A run that reports a link opens it. A settled run with outputs closes the links it lacks if
 * its code is new; code that was seen in a settled run of the past {@link #IDLE} is not new, since
 * a job may alternate between statements. Else a link ends when it was idle for {@link #IDLE} while
 * the job went on. A silent job closes nothing.
 */
public final class JobHistory {
  /** How long a link stays current without being seen, while its job completes runs. */
  public static final Duration IDLE = Duration.ofDays(14);

  /** The lists of the newest job event: lineage by design, without a run. */
  public record Declared(Instant at, Shape shape) {}

  private final Map<String, Version> versions = new LinkedHashMap<>();
  private final Map<ColumnLink, HeldLink> open = new HashMap<>();
  private final List<HeldLink> closed = new ArrayList<>();
  private final Map<String, Instant> settledCode = new HashMap<>();
  private final Map<Shape, Known> knownShapes = new IdentityHashMap<>();

  /** The newest run that was added link by link, and the last of those like it right behind. */
  private @Nullable JobRun added;

  private Instant likeItUntil = Instant.MIN;

  /** What is worked out once for each shape; runs of one job mostly share theirs. */
  private record Known(String hash, List<ColumnLink> links) {
    static Known of(Shape shape) {
      return new Known(CanonicalJson.digest(ShapeText.write(shape)), List.copyOf(shape.links()));
    }
  }

  private JobHistory() {}

  /**
   * Returns the job's lineage in O(r log r + c l) for r runs, c changes of shape or code among
   * them, and up to l links each.
   *
   * @param runs in any order; equal shapes are best given as one object
   */
  public static JobLineage of(Collection<JobRun> runs, @Nullable Declared declared) {
    var history = new JobHistory();
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
    return history.result(ordered, declared);
  }

  private void add(JobRun run) {
    if (run.shape().isEmpty() && run.fingerprint() == null) {
      return;
    }
    String hash = versionOf(run);
    Version known = versions.get(hash);
    versions.put(
        hash,
        known == null
            ? new Version(versions.size() + 1, hash, run.start(), run.start())
            : new Version(known.number(), hash, known.firstRun(), run.start()));
    if (isLikeTheLast(run)) {
      likeItUntil = run.start();
      noteSettled(run);
      return;
    }
    closeBlock();
    added = run;
    likeItUntil = run.start();
    List<ColumnLink> links = known(run.shape()).links();
    for (ColumnLink link : links) {
      HeldLink held = open.get(link);
      if (held != null && held.lastSeen().plus(IDLE).isBefore(run.start())) {
        // It had gone idle before it was seen again, so the gap is a gap in its history too.
        close(held, held.lastSeen().plus(IDLE));
        held = null;
      }
      Instant first = held == null ? run.start() : held.firstSeen();
      open.put(link, new HeldLink(link, false, hash, first, run.start(), null));
    }
    boolean closes = closes(run);
    noteSettled(run);
    if (closes) {
      var reported = new HashSet<>(links);
      for (HeldLink held : List.copyOf(open.values())) {
        if (!reported.contains(held.link())) {
          close(held, run.start());
        }
      }
    }
  }

  /** Whether a run ends the links it lacks: it settled, wrote something, and its code is new. */
  private boolean closes(JobRun run) {
    if (!run.settled() || run.shape().outputs().isEmpty() || run.fingerprint() == null) {
      return false;
    }
    Instant before = settledCode.get(run.fingerprint());
    return before == null || before.plus(IDLE).isBefore(run.start());
  }

  private void noteSettled(JobRun run) {
    if (run.settled() && !run.shape().outputs().isEmpty() && run.fingerprint() != null) {
      settledCode.put(run.fingerprint(), run.start());
    }
  }

  /** Whether a run changes nothing but until when its links were seen. */
  private boolean isLikeTheLast(JobRun run) {
    return added != null
        && added.shape() == run.shape()
        && Objects.equals(added.fingerprint(), run.fingerprint())
        && !closes(run)
        && !likeItUntil.plus(IDLE).isBefore(run.start());
  }

  /** Tells the links of the last runs that were alike until when they were seen. */
  private void closeBlock() {
    if (added == null || likeItUntil.equals(added.start())) {
      return;
    }
    for (ColumnLink link : known(added.shape()).links()) {
      HeldLink held = open.get(link);
      if (held != null) {
        open.put(
            link, new HeldLink(link, false, held.version(), held.firstSeen(), likeItUntil, null));
      }
    }
  }

  private Known known(Shape shape) {
    return knownShapes.computeIfAbsent(shape, Known::of);
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
    closed.add(
        new HeldLink(
            held.link(), held.declared(), held.version(), held.firstSeen(), held.lastSeen(), at));
  }

  private JobLineage result(List<JobRun> ordered, @Nullable Declared declared) {
    var links = new ArrayList<>(closed);
    links.addAll(open.values());
    links.sort(Comparator.comparing(HeldLink::link).thenComparing(HeldLink::firstSeen));
    SortedSet<ColumnName> described = new TreeSet<>();
    boolean gap = false;
    String newest = newestVersion(ordered);
    Set<Shape> seen = Collections.newSetFromMap(new IdentityHashMap<>());
    for (JobRun run : ordered) {
      if (versionOf(run).equals(newest) && seen.add(run.shape())) {
        described.addAll(run.shape().described());
        gap |= run.shape().gap();
      }
    }
    if (declared != null) {
      described.addAll(declared.shape().described());
      gap |= declared.shape().gap();
      for (ColumnLink link : declared.shape().links()) {
        if (!open.containsKey(link)) {
          links.add(new HeldLink(link, true, "declared", declared.at(), declared.at(), null));
        }
      }
    }
    return new JobLineage(List.copyOf(versions.values()), links, described, gap);
  }

  private String newestVersion(List<JobRun> ordered) {
    String newest = "";
    for (JobRun run : ordered) {
      if (!run.shape().outputs().isEmpty()) {
        newest = versionOf(run);
      }
    }
    return newest;
  }

  private String versionOf(JobRun run) {
    return run.fingerprint() != null ? run.fingerprint() : known(run.shape()).hash();
  }
}
