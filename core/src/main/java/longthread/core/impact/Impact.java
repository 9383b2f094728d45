package longthread.core.impact;

import java.util.Collections;
import java.util.EnumMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import longthread.core.graph.GraphLink;

/**
 * What changes do, nearest first within each verdict's urgency.
 *
 * @param items all touched assets and broken jobs
 * @param untouched the assets downstream by whole assets, and the jobs that read a changed one,
 *     which the change does not reach
 */
public record Impact(List<Item> items, List<Untouched> untouched) {
  public Impact {
    items = List.copyOf(items);
    untouched = List.copyOf(untouched);
  }

  /**
   * A touched asset or a broken job.
   *
   * @param ref its reference
   * @param verdicts each verdict with its certainty; never empty
   * @param hops links from the nearest change
   * @param thread from the change to the item, for the headline verdict
   * @param columns the touched columns of it by path
   */
  public record Item(
      String ref,
      Map<Verdict, Certainty> verdicts,
      int hops,
      List<GraphLink> thread,
      Map<String, Verdict> columns) {
    public Item {
      if (verdicts.isEmpty()) {
        throw new IllegalArgumentException(ref + " is listed without a verdict");
      }
      verdicts = Collections.unmodifiableMap(new EnumMap<>(verdicts));
      thread = List.copyOf(thread);
      columns = Collections.unmodifiableMap(new LinkedHashMap<>(columns));
    }

    /** The most urgent verdict. */
    public Verdict headline() {
      return verdicts.keySet().stream().min(Enum::compareTo).orElseThrow();
    }

    /** How sure the most urgent verdict is. */
    public Certainty certainty() {
      return verdicts.getOrDefault(headline(), Certainty.POSSIBLE);
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
