package longthread.service.sql;

import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import java.util.function.Predicate;

/**
 * The choices that a generator makes, as a list of numbers: the same list makes the same thing, and
 * a shorter or smaller list a simpler one. So what fails can be made small without knowing what it
 * is.
 */
final class Choices {
  private final List<Integer> made;
  private final Random random;
  private final boolean fixed;
  private int at;

  /** Choices at random. */
  Choices(long seed) {
    this.made = new ArrayList<>();
    this.random = new Random(seed);
    this.fixed = false;
  }

  private Choices(List<Integer> given) {
    this.made = given;
    this.random = new Random(0);
    this.fixed = true;
  }

  /** One of {@code n} from 0; 0 when a given list has come to its end. */
  int below(int n) {
    if (fixed) {
      return at < made.size() ? Math.min(made.get(at++), n - 1) : 0;
    }
    int next = random.nextInt(n);
    made.add(next);
    return next;
  }

  boolean once(int in) {
    return below(in) == in - 1;
  }

  <T> T of(List<T> list) {
    return list.get(below(list.size()));
  }

  /** The smallest list of choices found that still {@code fails}, starting from these. */
  static Choices shrunk(Choices failing, Predicate<Choices> fails) {
    List<Integer> best = new ArrayList<>(failing.made);
    boolean better = true;
    while (better) {
      better = false;
      for (int width = Math.max(1, best.size() / 2); width >= 1 && !better; width /= 2) {
        for (int from = 0; from + width <= best.size() && !better; from += width) {
          var shorter = new ArrayList<>(best);
          shorter.subList(from, from + width).clear();
          if (fails.test(new Choices(shorter))) {
            best = shorter;
            better = true;
          }
        }
      }
      for (int i = 0; i < best.size() && !better; i++) {
        if (best.get(i) > 0) {
          var smaller = new ArrayList<>(best);
          smaller.set(i, best.get(i) / 2);
          if (fails.test(new Choices(smaller))) {
            best = smaller;
            better = true;
          }
        }
      }
    }
    return new Choices(best);
  }

  Choices again() {
    return new Choices(new ArrayList<>(made));
  }
}
