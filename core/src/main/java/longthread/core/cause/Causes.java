package longthread.core.cause;

import java.time.Instant;
import java.util.List;
import java.util.Locale;
import longthread.core.graph.GraphLink;
import org.jspecify.annotations.Nullable;

/**
 * What may have caused a symptom.
 *
 * @param suspects the candidate causes, the earliest first
 * @param effects what went wrong on the symptom's threads too, but follows from a suspect
 * @param expectedRecovery when the symptom is likely gone; null if nothing is known
 */
public record Causes(
    List<Suspect> suspects, List<Effect> effects, @Nullable Instant expectedRecovery) {
  /** What went wrong. */
  public enum What {
    FAILED,
    MISSING,
    LATE,
    EMPTY,
    CHECK_FAILED;

    public String word() {
      return name().toLowerCase(Locale.ROOT).replace('_', '-');
    }
  }

  /**
   * Something that went wrong upstream.
   *
   * @param ref the job, or the dataset whose check failed
   * @param at when it went wrong: the start of the present streak
   * @param evidence a sentence with the figures it rests on
   * @param error the error that was reported, if any
   */
  public record Incident(
      String ref, What what, Instant at, String evidence, @Nullable String error) {}

  /**
   * A candidate cause.
   *
   * @param score the share of all incidents on the symptom's threads that it accounts for, itself
   *     among them; from above 0 to 1
   * @param thread from what it writes to the symptom
   */
  public record Suspect(
      Incident incident, double score, List<Incident> explains, List<GraphLink> thread) {}

  /** An incident that follows from a suspect. */
  public record Effect(Incident incident, String by) {}
}
