package longthread.client.answers;

import java.time.Instant;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** Refused events. */
public record Refusals(List<Refused> refusals) {
  public Refusals {
    refusals = refusals == null ? List.of() : List.copyOf(refusals);
  }

  /** A refusal; the source is null for HTTP. */
  public record Refused(
      long id,
      @Nullable Instant receivedAt,
      String problem,
      String reason,
      @Nullable String source,
      @Nullable Instant retriedAt) {}

  /** A refusal with its bytes; null once they are aged. */
  public record Opened(Refused refusal, @Nullable String body) {}

  /** What became of a retry. */
  public record Retried(int tried, int accepted, List<Still> refused) {
    public Retried {
      refused = refused == null ? List.of() : List.copyOf(refused);
    }
  }

  /** What is refused still. */
  public record Still(long id, String reason) {}
}
