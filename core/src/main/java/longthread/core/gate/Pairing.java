package longthread.core.gate;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.stream.Collectors;
import longthread.core.history.Fingerprint;
import org.jspecify.annotations.Nullable;

/**
 * Which statements that write one table are the same ones in two versions of files. Those of equal
 * text are matched first, so that one more before them does not make all of them look edited; of
 * the others, each is matched with the one most like it: of the same kind, filling the same
 * columns, then in the same words.
 *
 * @param edited those whose text is another one
 * @param moved those of equal text that run in another order now, as they stand now
 */
record Pairing(List<Pair> edited, List<Written> moved, List<Written> gone, List<Written> added) {
  private static final int SHARE = 100;
  private static final int SAME_KIND = (SHARE + 1) * (SHARE + 1); // weighs more than all else

  /** A statement before and after. */
  record Pair(Written before, Written after) {}

  /** Pairs the statements, in the time of their numbers multiplied. */
  static Pairing of(List<Written> before, List<Written> after) {
    var old = new ArrayList<>(before);
    var fresh = new ArrayList<>(after);
    for (Pair kept : unchanged(before, after)) {
      old.remove(kept.before());
      fresh.remove(kept.after());
    }
    var edited = new ArrayList<Pair>();
    var moved = new ArrayList<Written>();
    var gone = new ArrayList<Written>();
    for (Written one : List.copyOf(old)) {
      String text = Fingerprint.of(one.own());
      fresh.stream()
          .filter(other -> Fingerprint.of(other.own()).equals(text))
          .findFirst()
          .ifPresent(
              same -> {
                old.remove(one);
                fresh.remove(same);
                moved.add(same);
              });
    }
    for (Written one : old) {
      Written like = mostAlike(one, fresh);
      if (like == null) {
        gone.add(one);
      } else {
        fresh.remove(like);
        edited.add(new Pair(one, like));
      }
    }
    return new Pairing(edited, moved, gone, fresh);
  }

  /** The longest list of statements of equal text that stand in the same order in both. */
  private static List<Pair> unchanged(List<Written> before, List<Written> after) {
    List<String> old = before.stream().map(one -> Fingerprint.of(one.own())).toList();
    List<String> fresh = after.stream().map(one -> Fingerprint.of(one.own())).toList();
    int[][] longest = new int[old.size() + 1][fresh.size() + 1]; // from each place to the ends
    for (int i = old.size() - 1; i >= 0; i--) {
      for (int j = fresh.size() - 1; j >= 0; j--) {
        longest[i][j] =
            old.get(i).equals(fresh.get(j))
                ? longest[i + 1][j + 1] + 1
                : Math.max(longest[i + 1][j], longest[i][j + 1]);
      }
    }
    var pairs = new ArrayList<Pair>();
    int i = 0;
    int j = 0;
    while (i < old.size() && j < fresh.size()) {
      if (old.get(i).equals(fresh.get(j))) {
        pairs.add(new Pair(before.get(i++), after.get(j++)));
      } else if (longest[i + 1][j] >= longest[i][j + 1]) {
        i++;
      } else {
        j++;
      }
    }
    return pairs;
  }

  private static @Nullable Written mostAlike(Written one, List<Written> others) {
    Written best = null;
    int most = -1;
    for (Written other : others) {
      boolean sameKind = one.statement().kind().equals(other.statement().kind());
      int alike =
          (sameKind ? SAME_KIND : 0)
              + share(columns(one), columns(other)) * (SHARE + 1)
              + share(words(one), words(other));
      if (alike > most) {
        best = other;
        most = alike;
      }
    }
    return best;
  }

  /** How much two sets share, of {@link #SHARE}. */
  private static int share(Set<String> one, Set<String> other) {
    var all = new HashSet<>(one);
    all.addAll(other);
    int shared = one.size() + other.size() - all.size();
    return all.isEmpty() ? 0 : SHARE * shared / all.size();
  }

  private static Set<String> columns(Written one) {
    return one.statement().outputs().stream()
        .map(output -> Written.key(output.name()))
        .collect(Collectors.toSet());
  }

  private static Set<String> words(Written one) {
    return new HashSet<>(List.of(Fingerprint.plain(one.own()).split("\\W+")));
  }
}
