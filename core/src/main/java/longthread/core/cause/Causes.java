package longthread.core.cause;

import java.time.Instant;
import java.util.List;
import java.util.Locale;
import longthread.core.graph.GraphLink;
import longthread.core.trust.Supply;
import org.jspecify.annotations.Nullable;

/**
 * What may have caused a symptom.
 *
 * @param suspects the candidate causes, the likeliest first
 * @param effects what went wrong on the symptom's threads too, but follows from a suspect
 * @param changes what changed there without anything that is measured moving with it
 * @param goodUntil up to when the symptom is taken to have been right
 * @param oldest the source whose data is the oldest behind the symptom, and when it was last taken
 *     from there; null if nothing is upstream
 * @param expectedRecovery when the symptom is likely gone; null if nothing is known
 */
public record Causes(
    List<Suspect> suspects,
    List<Effect> effects,
    List<Incident> changes,
    Instant goodUntil,
    Supply.@Nullable Source oldest,
    @Nullable Instant expectedRecovery) {
  /** What deviated. */
  public enum What {
    FAILED,
    MISSING,
    LATE,
    SLOW,
    EMPTY,
    FEWER_ROWS,
    MORE_ROWS,
    VALUES_SHIFTED,
    SCHEMA_CHANGED,
    CODE_CHANGED,
    CHECK_FAILED;

    public String word() {
      return name().toLowerCase(Locale.ROOT).replace('_', '-');
    }

    /** Whether it only says that something is another than before, not that it is wrong. */
    boolean isChange() {
      return this == SCHEMA_CHANGED || this == CODE_CHANGED;
    }

    /** Whether this sort of deviation can bring about the other, one hop down or further. */
    boolean canCause(What other) {
      return switch (this) {
        case FAILED, MISSING ->
            switch (other) {
              case FAILED, MISSING, LATE, SLOW, EMPTY, FEWER_ROWS, CHECK_FAILED -> true;
              default -> false;
            };
        case LATE, SLOW ->
            switch (other) {
              case FAILED, MISSING, LATE, SLOW, EMPTY, FEWER_ROWS, CHECK_FAILED -> true;
              default -> false;
            };
        case EMPTY, FEWER_ROWS, MORE_ROWS ->
            switch (other) {
              case FAILED, SLOW, EMPTY, FEWER_ROWS, MORE_ROWS, VALUES_SHIFTED, CHECK_FAILED -> true;
              default -> false;
            };
        case VALUES_SHIFTED ->
            switch (other) {
              case FAILED, EMPTY, FEWER_ROWS, MORE_ROWS, VALUES_SHIFTED, CHECK_FAILED -> true;
              default -> false;
            };
        case SCHEMA_CHANGED, CODE_CHANGED -> true;
        case CHECK_FAILED ->
            switch (other) {
              case FAILED, MISSING, LATE -> true; // a gate that holds up what follows
              default -> false;
            };
      };
    }
  }

  /**
   * Something that deviated upstream.
   *
   * @param ref the job, or the dataset whose content, schema or check it is
   * @param column whose values it is about; null if it is about the whole
   * @param at when it went wrong: the start of the present streak
   * @param evidence a sentence with the figures it rests on
   * @param error the error that was reported, if any
   */
  public record Incident(
      String ref,
      What what,
      @Nullable String column,
      Instant at,
      String evidence,
      @Nullable String error) {}

  /**
   * What a score is made of; each is from 0 to 1.
   *
   * @param kind how well this sort of deviation explains the symptom
   * @param time 1 if it is still so in what the symptom rests on, else less
   * @param thread how certain the thread to the symptom is
   * @param explains the share of all incidents on the threads that it accounts for
   * @param rarity 1 if that never happened there before, less for what happens often
   */
  public record Parts(double kind, double time, double thread, double explains, double rarity) {
    /** The product of all, where what it explains counts for half. */
    public double score() {
      return kind * time * thread * rarity * (0.5 + 0.5 * explains);
    }
  }

  /**
   * A candidate cause.
   *
   * @param parts what its score is made of
   * @param thread from where it enters to the symptom
   * @param unobserved sources right behind it that nothing reports about
   * @param toConfirm what would show that it is the cause
   * @param toRuleOut what would show that it is not
   */
  public record Suspect(
      Incident incident,
      double score,
      Parts parts,
      List<Incident> explains,
      List<GraphLink> thread,
      List<String> unobserved,
      String toConfirm,
      String toRuleOut) {}

  /** An incident that follows from a suspect. */
  public record Effect(Incident incident, String by) {}
}
