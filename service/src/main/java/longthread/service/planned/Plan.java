package longthread.service.planned;

import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * A planned change as it is shown.
 *
 * @param state proposed, agreed, done or withdrawn
 * @param judgedAt when it was judged last; a change that is done stands as it was judged then
 * @param verdicts how many items have which headline
 * @param items what it does, the worst first
 * @param since what is different from when it was proposed, in words
 * @param owners whom it concerns, with what they answered
 * @param outcome of a change that is done, what then really occurred
 * @param problem why it could not be judged again, such as a name that is gone
 */
public record Plan(
    String id,
    String title,
    @Nullable String reason,
    String author,
    @Nullable Instant planned,
    List<PlanStep> steps,
    String state,
    String madeBy,
    Instant madeAt,
    String changedBy,
    Instant changedAt,
    @Nullable Instant doneAt,
    @Nullable Instant judgedAt,
    Map<String, Integer> verdicts,
    List<PlanItem> items,
    List<String> since,
    List<ConcernedOwner> owners,
    @Nullable Outcome outcome,
    @Nullable String problem) {

  /** One step, with its reference in full. */
  public record PlanStep(String change, String of, @Nullable String to) {}

  /** Something that the change does something to. */
  public record PlanItem(
      String ref,
      String kind,
      String name,
      String verdict,
      String certainty,
      int hops,
      List<String> owners) {}

  /**
   * What two planned changes do to one thing; a verdict is null where a change does nothing to it.
   *
   * @param same whether both do the same, as certainly
   */
  public record ComparedItem(
      String ref,
      String kind,
      String name,
      @Nullable String verdict,
      @Nullable String certainty,
      @Nullable String otherVerdict,
      @Nullable String otherCertainty,
      boolean same) {}

  /**
   * Two planned changes side by side; the different items first.
   *
   * @param different how many things they do not do the same to
   */
  public record Compared(
      String id,
      String title,
      String otherId,
      String otherTitle,
      int different,
      List<ComparedItem> items) {}

  /**
   * An owner of something that is touched.
   *
   * @param answer agrees or objects; null while nothing was answered
   */
  public record ConcernedOwner(
      String owner,
      int items,
      String worst,
      @Nullable String answer,
      @Nullable String note,
      @Nullable String by,
      @Nullable Instant at) {}

  /**
   * What was foretold against what occurred, from the moment a change was done to the end of a
   * window.
   *
   * @param over whether the window is over
   * @param hits foretold, and it occurred
   * @param falseAlarms foretold, and it did not occur though there was occasion for it
   * @param misses not foretold, and it occurred
   * @param open foretold, and there was no occasion yet
   */
  public record Outcome(
      Instant from,
      Instant until,
      boolean over,
      int hits,
      int falseAlarms,
      int misses,
      int open,
      List<Occurrence> occurrences) {}

  /**
   * One comparison.
   *
   * @param kind hit, false-alarm, miss or open
   * @param foretold the verdict; null for a miss
   * @param occurred what occurred, in words; null if nothing did
   */
  public record Occurrence(
      String kind,
      String ref,
      String name,
      @Nullable String foretold,
      @Nullable String certainty,
      @Nullable String occurred,
      @Nullable Instant at) {}
}
