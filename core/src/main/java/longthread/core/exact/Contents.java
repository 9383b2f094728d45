package longthread.core.exact;

import java.time.Instant;
import java.util.ArrayList;
import java.util.BitSet;
import java.util.Collection;
import java.util.Comparator;
import java.util.EnumSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * Of which runs' data a dataset consisted as it was read.
 *
 * <p>A write takes effect on each piece of its part at some moment between the start and the end of
 * its run; a read sees each piece at some moment of its run; a completed write fills each piece of
 * its part. Whatever happens in every such order is certain, whatever happens in any is possible. A
 * read that names the version of the data sees it as the run left it that made this version.
 */
public final class Contents {
  /**
   * The answer.
   *
   * @param contributions newest run first
   * @param byVersion whether the version that was read decided it, not the time
   * @param unknownVersion whether a version was read that no run reported to have made
   */
  public record Answer(
      List<Contribution> contributions, boolean byVersion, boolean unknownVersion) {}

  /** What a run wrote, with the pieces that are of it. */
  private record Load(Execution run, WriteMode mode, boolean exact, boolean whole, BitSet cells) {
    boolean isBefore(Instant moment) {
      return run.end() != null && !run.end().isAfter(moment);
    }

    /** Whether it took effect after another one, in whichever way they fell. */
    boolean isAfter(Load other) {
      return !run.start().isBefore(other.run.until()) && other.run.start().isBefore(run.until());
    }

    boolean isSameRun(Load other) {
      return run.run().equals(other.run.run()) && run.job().equals(other.run.job());
    }
  }

  private final List<Load> loads = new ArrayList<>();
  private final Instant from;
  private final Instant until;
  private final BitSet read;
  private final boolean readExact;
  private final @Nullable Execution pinned;
  private final boolean unknownVersion;

  private Contents(Collection<Execution> writers, String asset, Reading reading) {
    pinned = reading.version() == null ? null : maker(writers, asset, reading.version());
    unknownVersion = reading.version() != null && pinned == null;
    from = pinned == null ? reading.from() : pinned.until();
    until = pinned == null ? reading.until() : pinned.until();
    List<Part> parts = new ArrayList<>(List.of(reading.part()));
    for (Execution run : writers) {
      run.writes().stream()
          .filter(write -> write.asset().equals(asset))
          .forEach(write -> parts.add(write.part()));
    }
    Cells cells = Cells.of(parts);
    BitSet all = new BitSet();
    all.set(0);
    boolean otherTerms = false;
    for (Execution run : new LinkedHashSet<>(writers)) {
      for (Execution.Write write : run.writes()) {
        if (write.asset().equals(asset) && counts(run, write, reading.by())) {
          boolean comparable = isComparable(write.part(), reading.part());
          otherTerms |= !comparable;
          loads.add(
              new Load(
                  run,
                  write.mode(),
                  write.part().exact() && cells != null && comparable,
                  write.part().isWhole() || !comparable,
                  cells == null ? all : cells.of(comparable ? write.part() : Part.WHOLE)));
        }
      }
    }
    read = cells == null ? all : cells.of(reading.part());
    readExact = reading.part().exact() && (cells != null || reading.part().isWhole());
  }

  /**
   * Returns which runs' data was read.
   *
   * <p>Takes O(n² · c) time for n writes whose data may be there and c words of 64 pieces, usually
   * far less: what was replaced for certain is left out first.
   *
   * @param writers runs that wrote the asset, in any order; repetitions do no harm
   */
  public static Answer of(Collection<Execution> writers, String asset, Reading reading) {
    return new Contents(writers, asset, reading).answer();
  }

  /**
   * Returns the moment from which on all that is read was replaced for certain by these writers: a
   * run that ended by then cannot be in it. Null if they did not replace all of it.
   */
  public static @Nullable Instant coveredSince(
      Collection<Execution> writers, String asset, Reading reading) {
    var contents = new Contents(writers, asset, reading);
    BitSet left = (BitSet) contents.read.clone();
    Instant since = null;
    List<Load> newestFirst =
        contents.loads.stream()
            .filter(contents::erasesForSure)
            .sorted(Comparator.comparing(Load::run, Execution.BY_START).reversed())
            .toList();
    for (Load eraser : newestFirst) {
      if (left.intersects(eraser.cells())) {
        left.andNot(eraser.cells());
        since = eraser.run().start();
      }
      if (left.isEmpty()) {
        return since;
      }
    }
    return null;
  }

  private static @Nullable Execution maker(
      Collection<Execution> writers, String asset, String version) {
    Execution found = null;
    for (Execution run : writers) {
      boolean made =
          run.end() != null
              && run.completed()
              && run.writes().stream()
                  .anyMatch(w -> w.asset().equals(asset) && version.equals(w.version()));
      if (made && found != null && !found.equals(run)) {
        return null; // several runs left the same version behind
      }
      found = made ? run : found;
    }
    return found;
  }

  /** Addresses and names of partitions say nothing about fields, and the other way round. */
  private static boolean isComparable(Part written, Part read) {
    return written.isWhole() || read.isWhole() || kind(written).equals(kind(read));
  }

  private static String kind(Part part) {
    Set<String> special = new LinkedHashSet<>();
    part.boxes()
        .forEach(
            box ->
                box.fields().keySet().stream()
                    .filter(f -> f.equals(PartReader.LOCATION) || f.equals(PartReader.PARTITION))
                    .forEach(special::add));
    return special.toString();
  }

  private boolean counts(Execution run, Execution.Write write, @Nullable Execution reader) {
    boolean own =
        reader != null && run.run().equals(reader.run()) && run.job().equals(reader.job());
    boolean endedBefore = run.end() != null && !run.end().isAfter(from);
    boolean after = !run.start().isBefore(until) && !endedBefore;
    return !own && !run.wroteNothing(write) && !after;
  }

  private boolean erasesForSure(Load load) {
    return load.mode() == WriteMode.REPLACES
        && load.exact()
        && load.run().completed()
        && load.isBefore(from);
  }

  private Answer answer() {
    loads.sort(
        Comparator.comparing((Load load) -> load.run().until())
            .thenComparing(Load::run, Execution.BY_START)
            .reversed());
    List<Load> erasers =
        loads.stream()
            .filter(this::erasesForSure)
            .sorted(Comparator.comparing((Load load) -> load.run().start()).reversed())
            .toList();
    var left = new LinkedHashMap<Load, BitSet>();
    var erased = new BitSet();
    int next = 0;
    for (Load load : loads) {
      while (next < erasers.size() && erasers.get(next).run().start().isAfter(load.run().until())) {
        erased.or(erasers.get(next++).cells());
      }
      BitSet pieces = (BitSet) load.cells().clone();
      pieces.and(read);
      pieces.andNot(erased);
      // Those that start just when this one ends: they come after it, unless both took no time.
      for (int at = next;
          at < erasers.size() && !erasers.get(at).run().start().isBefore(load.run().until());
          at++) {
        if (erasers.get(at).isAfter(load)) {
          pieces.andNot(erasers.get(at).cells());
        }
      }
      if (!pieces.isEmpty()) {
        left.put(load, pieces);
      }
    }
    var byRun = new LinkedHashMap<List<Object>, Contribution>();
    left.forEach(
        (load, pieces) ->
            byRun.merge(
                List.of(load.run().run(), load.run().job()),
                contribution(load, pieces, erasers),
                Contents::either));
    return new Answer(List.copyOf(byRun.values()), pinned != null, unknownVersion);
  }

  private static Contribution either(Contribution one, Contribution other) {
    if (one.certain() || other.certain()) {
      return one.certain() ? one : other;
    }
    var doubts = EnumSet.noneOf(Doubt.class);
    doubts.addAll(one.doubts());
    doubts.addAll(other.doubts());
    return new Contribution(one.by(), false, doubts);
  }

  private Contribution contribution(Load load, BitSet pieces, List<Load> erasers) {
    var doubts = EnumSet.noneOf(Doubt.class);
    if (!load.run().completed()) {
      doubts.add(load.run().end() == null ? Doubt.RUNNING : Doubt.FAILED);
    } else if (!load.isBefore(from)) {
      doubts.add(Doubt.WRITTEN_WHILE_READ);
    }
    var safe = (BitSet) pieces.clone();
    var threats = EnumSet.noneOf(Doubt.class);
    for (Load later : loads) {
      if (later.mode().mayErase() && !later.isSameRun(load) && !load.isAfter(later)) {
        if (later.cells().intersects(pieces)) {
          threats.add(threat(later, load));
          safe.andNot(later.cells());
        }
      }
    }
    if (load.exact() && readExact) {
      if (safe.isEmpty()) {
        doubts.addAll(threats);
      }
    } else if (load.exact()) {
      BitSet open = (BitSet) read.clone();
      open.andNot(safe);
      if (!open.isEmpty()) {
        doubts.add(Doubt.CONDITION_NOT_UNDERSTOOD);
        doubts.addAll(threats);
      }
    } else {
      BitSet outside = (BitSet) load.cells().clone();
      outside.andNot(safe);
      if (!readExact || !outside.isEmpty()) {
        doubts.add(load.whole() ? Doubt.PART_NOT_REPORTED : Doubt.CONDITION_NOT_UNDERSTOOD);
        doubts.addAll(threats);
      }
    }
    return new Contribution(load.run(), doubts.isEmpty(), doubts);
  }

  private Doubt threat(Load later, Load load) {
    boolean together = !later.isAfter(load);
    if (!later.run().completed() && later.run().end() != null) {
      return Doubt.FAILED_LATER;
    }
    if (!later.isBefore(from)) {
      return Doubt.REPLACED_WHILE_READ;
    }
    if (together) {
      return Doubt.WRITTEN_TOGETHER;
    }
    return switch (later.mode()) {
      case UNKNOWN -> Doubt.MAYBE_REPLACED;
      case CHANGES -> Doubt.CHANGED_LATER;
      default -> Doubt.CONDITION_NOT_UNDERSTOOD;
    };
  }
}
