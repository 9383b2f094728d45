package longthread.core.impact;

import java.util.List;
import java.util.Map;
import longthread.core.graph.GraphLink;
import org.jspecify.annotations.Nullable;

/**
 * What changes do, nearest first within each verdict's urgency.
 *
 * @param items all touched assets and broken jobs
 * @param untouched the assets downstream by whole assets, and the jobs that read a changed one,
 *     which the change does not reach
 */
public record Impact(List<Item> items, List<Untouched> untouched) {
  /**
   * A touched asset or a broken job.
   *
   * @param ref its reference
   * @param verdicts each verdict with whether it is certain; never empty
   * @param hops links from the nearest change
   * @param thread from the change to the item, for the headline verdict
   * @param columns the touched columns of it by path
   */
  public record Item(
      String ref,
      Map<Verdict, Boolean> verdicts,
      int hops,
      List<GraphLink> thread,
      Map<String, Verdict> columns) {
    /** The most urgent verdict. */
    public Verdict headline() {
      return verdicts.keySet().stream().min(Enum::compareTo).orElseThrow();
    }

    public boolean certain() {
      return verdicts.get(headline());
    }
  }

  /**
   * An asset that stays as it is.
   *
   * @param missing why that is only possible; null if it is certain
   */
  public record Untouched(String ref, int hops, @Nullable String missing) {
    public boolean certain() {
      return missing == null;
    }
  }
}
