package longthread.core.impact;

import java.util.Arrays;
import java.util.EnumMap;
import java.util.List;
import java.util.Map;
import java.util.function.Supplier;
import longthread.core.graph.GraphLink;
import org.jspecify.annotations.Nullable;

/**
 * What changes do, nearest first within each verdict's urgency.
 *
 * @param items all touched assets and broken jobs
 * @param untouched the assets downstream by whole assets, and the jobs that read a changed one,
 *     which the change does not reach
 * @param certainlyUntouched how many of the untouched are so for certain
 * @param weight how many nodes were marked: each takes about 60 bytes while the impact is held
 */
public record Impact(
    List<Item> items, List<Untouched> untouched, int certainlyUntouched, int weight) {
  private static final Verdict[] VERDICTS = Verdict.values();
  private static final Certainty[] CERTAINTIES = Certainty.values();

  public Impact {
    items = List.copyOf(items);
  }

  /**
   * A touched asset or a broken job. Of most items only the verdict is ever looked at, so the
   * thread and the columns are worked out when they are asked for, in time linear in their size.
   */
  public static final class Item {
    private final String ref;
    private final byte[] verdicts; // by verdict, the certainty's number and one, 0 for none
    private final Verdict headline;
    private final int hops;
    private final Supplier<List<GraphLink>> thread;
    private final Supplier<Map<String, Verdict>> columns;
    private final Supplier<@Nullable String> firstFailure;

    Item(
        String ref,
        byte[] verdicts,
        int hops,
        Supplier<List<GraphLink>> thread,
        Supplier<Map<String, Verdict>> columns,
        Supplier<@Nullable String> firstFailure) {
      this.ref = ref;
      this.verdicts = verdicts;
      this.hops = hops;
      this.thread = thread;
      this.columns = columns;
      this.firstFailure = firstFailure;
      this.headline =
          Arrays.stream(VERDICTS)
              .filter(verdict -> verdicts[verdict.ordinal()] != 0)
              .findFirst()
              .orElseThrow(
                  () -> new IllegalArgumentException(ref + " is listed without a verdict"));
    }

    /** Its reference. */
    public String ref() {
      return ref;
    }

    /** Each verdict with its certainty; never empty. */
    public Map<Verdict, Certainty> verdicts() {
      var all = new EnumMap<Verdict, Certainty>(Verdict.class);
      for (Verdict verdict : VERDICTS) {
        int certainty = verdicts[verdict.ordinal()];
        if (certainty != 0) {
          all.put(verdict, CERTAINTIES[certainty - 1]);
        }
      }
      return all;
    }

    /** Links from the nearest change. */
    public int hops() {
      return hops;
    }

    /** From the change to the item, for the headline verdict. */
    public List<GraphLink> thread() {
      return thread.get();
    }

    /** The touched columns of it by path. */
    public Map<String, Verdict> columns() {
      return columns.get();
    }

    /**
     * The reference of the job, view or chart that fails first on the thread, which may be the item
     * itself; null if nothing fails.
     */
    public @Nullable String firstFailure() {
      return firstFailure.get();
    }

    /** The most urgent verdict. */
    public Verdict headline() {
      return headline;
    }

    /** How sure the most urgent verdict is. */
    public Certainty certainty() {
      return CERTAINTIES[verdicts[headline.ordinal()] - 1];
    }

    @Override
    public String toString() {
      return ref + " " + verdicts();
    }
  }

  /**
   * An asset that stays as it is.
   *
   * @param missing why that is only possible; empty if it is certain
   */
  public record Untouched(String ref, int hops, Certainty certainty, String missing) {
    public Untouched {
      if (missing.isEmpty() != (certainty == Certainty.CERTAIN)) {
        throw new IllegalArgumentException(ref + " is " + certainty.word() + ": '" + missing + "'");
      }
    }

    static Untouched certain(String ref, int hops) {
      return new Untouched(ref, hops, Certainty.CERTAIN, "");
    }

    static Untouched possible(String ref, int hops, String missing) {
      return new Untouched(ref, hops, Certainty.POSSIBLE, missing);
    }
  }
}
