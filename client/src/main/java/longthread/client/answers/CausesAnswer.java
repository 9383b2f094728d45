package longthread.client.answers;

import java.time.Instant;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** Why something is wrong or late. */
public record CausesAnswer(
    Symptom symptom, Instant at, List<Suspect> suspects, @Nullable Instant expectedRecovery) {
  public CausesAnswer {
    suspects = suspects == null ? List.of() : List.copyOf(suspects);
  }

  /** What was asked about. */
  public record Symptom(String ref, String name, String kind, @Nullable Instant written) {}

  /** A candidate cause. */
  public record Suspect(
      String ref,
      String what,
      Instant at,
      double score,
      String evidence,
      @Nullable String error,
      List<Hop> thread,
      List<Owner> owners,
      List<Effect> explains) {
    public Suspect {
      thread = thread == null ? List.of() : List.copyOf(thread);
      owners = owners == null ? List.of() : List.copyOf(owners);
      explains = explains == null ? List.of() : List.copyOf(explains);
    }
  }

  /** Something that went wrong because of a suspect. */
  public record Effect(String ref, String what, Instant at, @Nullable String error) {}
}
