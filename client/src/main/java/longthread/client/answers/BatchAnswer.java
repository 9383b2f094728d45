package longthread.client.answers;

import java.util.List;
import org.jspecify.annotations.Nullable;

/** What became of a batch of events. */
public record BatchAnswer(
    int received, int accepted, int duplicates, List<Refused> refused, @Nullable String receipt) {
  public BatchAnswer {
    refused = refused == null ? List.of() : List.copyOf(refused);
  }

  /** An event that was refused, by its place in the batch. */
  public record Refused(int index, String problem, String reason) {}
}
