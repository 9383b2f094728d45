package longthread.core.exact;

import java.time.Instant;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import longthread.core.exact.RunLineage.RunKey;
import org.jspecify.annotations.Nullable;

/**
 * What rests on the data that a run wrote: the runs that read it, what they wrote, and so on; and
 * which of these assets hold it still.
 */
public final class Recall {
  /** How an asset stands now. */
  public enum State {
    /** It holds data that rests on the run. */
    HOLDS,
    /** It may hold such data. */
    MAY_HOLD,
    /** It held such data, and was written anew since from runs that do not rest on it. */
    REPLACED;

    public String word() {
      return name().toLowerCase(java.util.Locale.ROOT).replace('_', '-');
    }
  }

  /**
   * A run that used the data.
   *
   * @param hops how many readings lie between the two; the run itself is 0
   * @param from the asset that it read and the data came by; null for the run itself
   */
  public record Member(
      Execution run, int hops, boolean certain, Set<Doubt> doubts, @Nullable String from) {}

  /**
   * An asset that was reached.
   *
   * @param newest the newest run that wrote it and rests on the data; null for one that only shows
   *     other assets
   * @param replacedBy the newest run of those that its present data is made of, where none of them
   *     rests on the data
   * @param through the asset that it shows as it is; null if runs wrote it
   */
  public record Held(
      String asset,
      State state,
      int hops,
      @Nullable Execution newest,
      @Nullable Execution replacedBy,
      @Nullable String through) {}

  /** The recall list: runs nearest first, assets nearest first and by name within a hop. */
  public record Found(List<Member> runs, List<Held> assets, boolean truncated) {}

  private final RunLog log;
  private final Instant at;
  private final int maxRuns;
  private final Map<RunKey, Member> members = new LinkedHashMap<>();
  private final ArrayDeque<RunKey> waiting = new ArrayDeque<>();
  private final Map<List<Object>, Contents.Answer> read = new LinkedHashMap<>();
  private boolean truncated;

  private Recall(RunLog log, Instant at, int maxRuns) {
    this.log = log;
    this.at = at;
    this.maxRuns = maxRuns;
  }

  /**
   * Returns what rests on a run's data, as it stands at a moment.
   *
   * @param maxRuns how many runs to return at the most
   */
  public static Found of(RunLog log, Execution run, Instant at, int maxRuns) {
    var recall = new Recall(log, at, maxRuns);
    recall.add(new Member(run, 0, true, Set.of(), null));
    recall.walk();
    return new Found(List.copyOf(recall.members.values()), recall.assets(), recall.truncated);
  }

  private void add(Member member) {
    RunKey key = RunKey.of(member.run());
    Member before = members.get(key);
    if (before != null && (before.certain() || !member.certain())) {
      return;
    }
    if (before == null && members.size() >= maxRuns) {
      truncated = true;
      return;
    }
    Member better =
        before == null
            ? member
            : new Member(member.run(), before.hops(), true, Set.of(), member.from());
    members.put(key, better);
    waiting.add(key);
  }

  private void walk() {
    while (!waiting.isEmpty()) {
      Member member = java.util.Objects.requireNonNull(members.get(waiting.poll()));
      var written = new LinkedHashSet<String>();
      member.run().writes().forEach(write -> written.add(write.asset()));
      for (String asset : written) {
        for (String seen : withViews(asset)) {
          for (Execution reader : log.reading(seen, member.run().start())) {
            use(member, asset, seen, reader);
          }
          truncated |= log.isCut(seen);
        }
      }
    }
  }

  private void use(Member of, String asset, String seen, Execution reader) {
    if (reader.start().isAfter(at) || RunKey.of(reader).equals(RunKey.of(of.run()))) {
      return;
    }
    for (Execution.Read one : reader.reads()) {
      if (!one.asset().equals(seen)) {
        continue;
      }
      Reading whole = Reading.of(reader, one);
      Reading asked = asset.equals(seen) ? whole : RunLineage.anyPart(whole);
      Contents.Answer answer =
          read.computeIfAbsent(
              Arrays.asList(RunKey.of(reader), asset, asked.part(), asked.version()),
              k -> Contents.of(log.writing(asset, asked), asset, asked));
      for (Contribution contribution : answer.contributions()) {
        if (RunKey.of(contribution.by()).equals(RunKey.of(of.run()))) {
          var doubts = new LinkedHashSet<>(contribution.doubts());
          doubts.addAll(of.doubts());
          boolean certain = of.certain() && contribution.certain();
          add(new Member(reader, of.hops() + 1, certain, certain ? Set.of() : doubts, seen));
        }
      }
    }
  }

  /** An asset, and those that show it as it is, near or far. */
  private List<String> withViews(String asset) {
    var seen = new LinkedHashSet<String>(List.of(asset));
    var open = new ArrayDeque<String>(seen);
    while (!open.isEmpty()) {
      for (String next : log.showing(open.poll(), at)) {
        if (seen.add(next)) {
          open.add(next);
        }
      }
    }
    return List.copyOf(seen);
  }

  private List<Held> assets() {
    var newest = new TreeMap<String, Member>();
    var nearest = new TreeMap<String, Integer>();
    for (Member member : members.values()) {
      for (Execution.Write write : member.run().writes()) {
        newest.merge(
            write.asset(),
            member,
            (a, b) -> Execution.BY_START.compare(a.run(), b.run()) >= 0 ? a : b);
        nearest.merge(write.asset(), member.hops(), Math::min);
      }
    }
    var held = new ArrayList<Held>();
    newest.forEach(
        (asset, member) ->
            held.add(held(asset, member, java.util.Objects.requireNonNull(nearest.get(asset)))));
    var known = new HashSet<String>(newest.keySet());
    for (Held one : List.copyOf(held)) {
      for (String view : withViews(one.asset())) {
        if (known.add(view)) {
          held.add(new Held(view, one.state(), one.hops(), null, one.replacedBy(), one.asset()));
        } else if (!newest.containsKey(view)) {
          held.replaceAll(h -> h.asset().equals(view) ? worse(h, one, view) : h);
        }
      }
    }
    held.sort(java.util.Comparator.comparing(Held::hops).thenComparing(Held::asset));
    return held;
  }

  /** A page that shows several assets stands as the worst of them. */
  private static Held worse(Held view, Held other, String asset) {
    return other.state().ordinal() < view.state().ordinal()
        ? new Held(asset, other.state(), view.hops(), null, other.replacedBy(), other.asset())
        : view;
  }

  private Held held(String asset, Member newest, int hops) {
    Reading now = Reading.at(at);
    List<Contribution> present = Contents.of(log.writing(asset, now), asset, now).contributions();
    State state = State.REPLACED;
    for (Contribution one : present) {
      Member member = members.get(RunKey.of(one.by()));
      if (member != null) {
        State here = one.certain() && member.certain() ? State.HOLDS : State.MAY_HOLD;
        state = here.ordinal() < state.ordinal() ? here : state;
      }
    }
    Execution replacedBy =
        state == State.REPLACED
            ? present.stream().map(Contribution::by).max(Execution.BY_START).orElse(null)
            : null;
    return new Held(asset, state, hops, newest.run(), replacedBy, null);
  }
}
