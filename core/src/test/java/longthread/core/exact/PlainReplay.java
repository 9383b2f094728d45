package longthread.core.exact;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import longthread.core.history.RunState;

/**
 * What a dataset may hold, by trying everything: each order in which writes and the read can have
 * taken effect on each piece, each way in which a write can have gone, each part that it can have
 * meant. Only for few runs.
 */
final class PlainReplay {
  /** The pieces of the dataset: two of day 1, two of day 2, two of other days. */
  private static final int[] DAYS = {1, 1, 2, 2, 0, 0};

  private static final int ALL = (1 << DAYS.length) - 1;

  private final List<Execution> writers;
  private final Reading reading;
  private final Map<String, Set<Integer>> known = new HashMap<>();

  private PlainReplay(List<Execution> writers, Reading reading) {
    this.writers = writers;
    this.reading = reading;
  }

  /** For each run, 0 if its data was not read, 1 if it may have been, 2 if it was. */
  static int[] of(List<Execution> writers, Reading reading) {
    return new PlainReplay(writers, reading).answer();
  }

  private int[] answer() {
    int n = writers.size();
    var certain = new boolean[n];
    java.util.Arrays.fill(certain, true);
    var possible = new boolean[n];
    List<int[]> worlds = new ArrayList<>(List.of(new int[2 * n + 1]));
    for (int w = 0; w < n; w++) {
      worlds = spread(worlds, 2 * w, pieces(write(w).part()));
      worlds =
          spread(
              worlds, 2 * w + 1, write(w).mode() == WriteMode.UNKNOWN ? List.of(0, 1) : List.of(0));
    }
    worlds = spread(worlds, 2 * n, pieces(reading.part()));
    for (int[] world : worlds) {
      var surely = new boolean[n];
      for (int piece = 0; piece < DAYS.length; piece++) {
        if ((world[2 * n] >> piece & 1) == 1) {
          Set<Integer> outcomes = outcomes(piece, world);
          for (int w = 0; w < n; w++) {
            int bit = 1 << w;
            boolean always = outcomes.stream().allMatch(held -> (held & bit) != 0);
            surely[w] |= always;
            possible[w] |= outcomes.stream().anyMatch(held -> (held & bit) != 0);
          }
        }
      }
      for (int w = 0; w < n; w++) {
        certain[w] &= surely[w];
      }
    }
    var answer = new int[n];
    for (int w = 0; w < n; w++) {
      answer[w] = certain[w] ? 2 : possible[w] ? 1 : 0;
    }
    return answer;
  }

  private Execution.Write write(int w) {
    return writers.get(w).writes().get(0);
  }

  private static List<int[]> spread(List<int[]> worlds, int at, List<Integer> choices) {
    var more = new ArrayList<int[]>();
    for (int[] world : worlds) {
      for (int choice : choices) {
        int[] next = world.clone();
        next[at] = choice;
        more.add(next);
      }
    }
    return more;
  }

  /** Each set of pieces that a part can mean. */
  private static List<Integer> pieces(Part part) {
    int bounds = 0;
    for (int piece = 0; piece < DAYS.length; piece++) {
      String day = String.valueOf(DAYS[piece]);
      boolean inside =
          part.boxes().isEmpty()
              || part.boxes().stream().anyMatch(b -> day.equals(b.fields().get("day").from()));
      bounds |= inside ? 1 << piece : 0;
    }
    if (part.exact()) {
      return List.of(bounds);
    }
    var some = new ArrayList<Integer>();
    for (int set = 1; set <= ALL; set++) {
      if ((set & ~bounds) == 0) {
        some.add(set);
      }
    }
    return some;
  }

  private Set<Integer> outcomes(int piece, int[] world) {
    var touching = new ArrayList<Integer>();
    var key = new StringBuilder();
    for (int w = 0; w < writers.size(); w++) {
      if ((world[2 * w] >> piece & 1) == 1) {
        touching.add(w);
        key.append(w).append(world[2 * w + 1]).append(' ');
      }
    }
    return known.computeIfAbsent(
        key.toString(),
        k -> {
          var outcomes = new HashSet<Integer>();
          orders(touching, new ArrayList<>(), world, outcomes);
          return outcomes;
        });
  }

  /** Places writes one by one before the read, in each order that their times allow. */
  private void orders(
      List<Integer> left, List<Integer> placed, int[] world, Set<Integer> outcomes) {
    boolean mayRead = left.stream().noneMatch(w -> isBeforeRead(w));
    if (mayRead && placed.stream().noneMatch(w -> isAfterRead(w))) {
      effects(placed, 0, 0, world, outcomes);
    }
    for (int w : left) {
      boolean free = left.stream().noneMatch(other -> other != w && isBefore(other, w));
      if (free) {
        var rest = new ArrayList<>(left);
        rest.remove((Integer) w);
        var more = new ArrayList<>(placed);
        more.add(w);
        orders(rest, more, world, outcomes);
      }
    }
  }

  private boolean isBefore(int one, int other) {
    return !writers.get(one).until().isAfter(writers.get(other).start())
        && writers.get(other).until().isAfter(writers.get(one).start());
  }

  private boolean isBeforeRead(int w) {
    return !writers.get(w).until().isAfter(reading.from());
  }

  private boolean isAfterRead(int w) {
    return !writers.get(w).start().isBefore(reading.until()) && !isBeforeRead(w);
  }

  private void effects(List<Integer> order, int at, int held, int[] world, Set<Integer> outcomes) {
    if (at == order.size()) {
      outcomes.add(held);
      return;
    }
    int w = order.get(at);
    int own = 1 << w;
    var after = new HashSet<Integer>();
    WriteMode mode = write(w).mode();
    if (mode == WriteMode.UNKNOWN) {
      mode = world[2 * w + 1] == 0 ? WriteMode.ADDS : WriteMode.REPLACES;
    }
    boolean whole = writers.get(w).state() == RunState.COMPLETED;
    switch (mode) {
      case ADDS -> after.add(held | own);
      case REPLACES -> after.add(own);
      default -> {
        for (int kept = held; ; kept = (kept - 1) & held) {
          after.add(kept | own);
          if (kept == 0) {
            break;
          }
        }
      }
    }
    if (!whole) {
      after.add(held);
      after.add(mode == WriteMode.ADDS ? held : 0);
    }
    after.forEach(next -> effects(order, at + 1, next, world, outcomes));
  }
}
