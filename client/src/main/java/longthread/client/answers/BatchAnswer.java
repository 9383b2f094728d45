package longthread.client.answers;

import java.util.List;
import org.jspecify.annotations.Nullable;

/** What became of a batch of events. */
public record BatchAnswer(
    int received,
    int accepted,
    int duplicates,
    List<Refused> refused,
    @Nullable String receipt,
    List<Warning> warnings) {
  public BatchAnswer {
    refused = refused == null ? List.of() : List.copyOf(refused);
    warnings = warnings == null ? List.of() : List.copyOf(warnings);
  }

  /** What the sender of an accepted event should know, by its place in the batch. */
  public record Warning(int index, String problem, String detail) {}

  /** An event that was refused, by its place in the batch. */
  public record Refused(int index, String problem, String reason) {}
}
