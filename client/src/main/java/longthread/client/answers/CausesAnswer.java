package longthread.client.answers;

import java.time.Instant;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** Why something is wrong or late. */
public record CausesAnswer(
    Symptom symptom,
    Instant at,
    List<Suspect> suspects,
    int suspectCount,
    List<Effect> changes,
    @Nullable Instant expectedRecovery) {
  public CausesAnswer {
    suspects = suspects == null ? List.of() : List.copyOf(suspects);
    changes = changes == null ? List.of() : List.copyOf(changes);
  }

  /** What was asked about. */
  public record Symptom(
      String ref,
      String name,
      String kind,
      @Nullable Instant written,
      @Nullable Instant goodUntil,
      @Nullable String oldestInput,
      @Nullable Instant oldestAt) {}

  /** A candidate cause. */
  public record Suspect(
      String ref,
      @Nullable String kind,
      String what,
      @Nullable String column,
      Instant at,
      double score,
      @Nullable Parts parts,
      String evidence,
      @Nullable String error,
      List<Hop> thread,
      List<Owner> owners,
      List<Effect> explains,
      List<Source> unobserved,
      int affects,
      List<String> affected,
      @Nullable String toConfirm,
      @Nullable String toRuleOut) {
    public Suspect {
      thread = thread == null ? List.of() : List.copyOf(thread);
      owners = owners == null ? List.of() : List.copyOf(owners);
      explains = explains == null ? List.of() : List.copyOf(explains);
      unobserved = unobserved == null ? List.of() : List.copyOf(unobserved);
      affected = affected == null ? List.of() : List.copyOf(affected);
    }
  }

  /** What a score is the product of. */
  public record Parts(double kind, double time, double thread, double explains, double rarity) {}

  /** A source that nothing reports about. */
  public record Source(String ref, String name, List<Owner> owners) {
    public Source {
      owners = owners == null ? List.of() : List.copyOf(owners);
    }
  }

  /** Something that deviated because of a suspect, or that only changed. */
  public record Effect(
      String ref, String what, Instant at, @Nullable String evidence, @Nullable String error) {}
}
