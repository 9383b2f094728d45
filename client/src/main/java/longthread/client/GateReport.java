package longthread.client;

import java.util.List;
import longthread.core.gate.FoundChange;
import longthread.core.gate.GatePolicy.Decision;
import org.jspecify.annotations.Nullable;

/**
 * What the gate found and decided.
 *
 * @param title of the planned change, or where the files came from
 * @param unknown changes of names that are not in the catalog
 * @param notes what should be known besides
 * @param unknownDecision what the policy says of unknown names
 */
record GateReport(
    String title,
    List<Step> steps,
    List<Finding> findings,
    List<FoundChange> unknown,
    Decision unknownDecision,
    List<String> notes) {
  /**
   * A change that was judged.
   *
   * @param ref in full
   * @param seen where in the files; null for a step of a document
   */
  record Step(String change, String ref, String to, @Nullable FoundChange seen) {
    String words() {
      return change + " " + ref + (to.isEmpty() ? "" : " to " + to);
    }
  }

  /**
   * An item with what was decided about it.
   *
   * @param place where in the files the change is that touches it; null for a document
   */
  record Finding(
      String ref,
      String kind,
      String name,
      String verdict,
      String certainty,
      int hops,
      List<String> owners,
      Decision decision,
      String why,
      String thread,
      String url,
      @Nullable FoundChange place) {
    String verdictWords() {
      return ClosedWords.spoken(verdict) + (certainty.equals("possible") ? " (possible)" : "");
    }
  }

  boolean fails() {
    return findings.stream().anyMatch(f -> f.decision() == Decision.FAIL)
        || (!unknown.isEmpty() && unknownDecision == Decision.FAIL);
  }

  long count(Decision decision) {
    return findings.stream().filter(f -> f.decision() == decision).count();
  }

  String summary() {
    if (steps.isEmpty() && unknown.isEmpty()) {
      return "No change of data was found.";
    }
    return (fails() ? "FAILS" : "passes")
        + ": "
        + steps.size()
        + (steps.size() == 1 ? " change, " : " changes, ")
        + findings.size()
        + " touched; "
        + count(Decision.FAIL)
        + " not allowed, "
        + count(Decision.WARN)
        + " to know of, "
        + count(Decision.ALLOW)
        + " allowed"
        + (unknown.isEmpty() ? "" : "; " + unknown.size() + " not in the catalog");
  }
}
