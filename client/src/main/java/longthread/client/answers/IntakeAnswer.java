package longthread.client.answers;

import java.time.Instant;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** What came in so far. */
public record IntakeAnswer(
    long received,
    long applied,
    long duplicates,
    long refused,
    long waiting,
    double lagSeconds,
    @Nullable Instant unreachableSince,
    List<Recent> recent,
    List<Refusals.Refused> refusals) {
  public IntakeAnswer {
    recent = recent == null ? List.of() : List.copyOf(recent);
    refusals = refusals == null ? List.of() : List.copyOf(refusals);
  }

  /** An event as it is listed. */
  public record Recent(
      String id,
      @Nullable Instant receivedAt,
      @Nullable Instant eventTime,
      String type,
      String about,
      List<String> changed) {
    public Recent {
      changed = changed == null ? List.of() : List.copyOf(changed);
    }
  }
}
