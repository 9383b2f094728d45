package longthread.core.exact;

import java.util.Set;

/**
 * That what a run wrote is in a dataset, or may be.
 *
 * @param certain whether it is there whichever way the runs fell together
 * @param doubts why it is not certain; empty if it is
 */
public record Contribution(Execution by, boolean certain, Set<Doubt> doubts) {
  public Contribution {
    doubts = Set.copyOf(doubts);
  }
}
