package longthread.client;

import java.util.List;
import java.util.Set;
import longthread.core.gate.GatePolicy;
import org.jspecify.annotations.Nullable;

/** Who says what changes do: a service, or a snapshot where none can be reached. */
interface GateJudge {
  /**
   * Something that changes touch.
   *
   * @param thread references from what is changed to it
   */
  record Touched(
      String ref,
      String kind,
      String name,
      String system,
      String verdict,
      String certainty,
      int hops,
      List<String> owners,
      List<String> labels,
      List<String> thread,
      String url) {
    GatePolicy.Item item() {
      return new GatePolicy.Item(
          ref, kind, system, verdict, certainty, Set.copyOf(owners), Set.copyOf(labels));
    }
  }

  /**
   * What steps do together.
   *
   * @param refs of the steps, in full
   * @param items the worst first
   * @param total how many items there are in all
   */
  record Answer(List<String> refs, List<Touched> items, int total) {}

  /** The judge has no lineage of what a step changes, so that it cannot say what it does. */
  final class NoLineageException extends Exception {
    private static final long serialVersionUID = 1;

    NoLineageException(String message) {
      super(message);
    }
  }

  /**
   * The full reference of what a name means; null if the catalog does not have it.
   *
   * @throws ServiceException if it may mean several things
   */
  @Nullable String known(String name);

  /**
   * Judges steps together.
   *
   * @throws ServiceException if one is of something unknown
   */
  Answer judge(List<GateReport.Step> steps) throws NoLineageException;

  /** Whether anything is known that reads an asset. */
  boolean isRead(String asset);

  /** What should be known of the answers; empty for those of a service. */
  List<String> notes();
}
