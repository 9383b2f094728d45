package longthread.client.answers;

import java.time.Instant;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** A page of workspaces. */
public record Workspaces(List<Listed> items, @Nullable String cursor) {
  /** How many items of a kind there are. */
  public record Count(String kind, int count) {}

  /** A workspace with what is in it and how its refreshes went. */
  public record Listed(
      String ref,
      String title,
      String system,
      List<String> owners,
      @Nullable Instant describedAt,
      List<Count> counts,
      @Nullable Instant refreshed,
      List<String> failed,
      int unmatched) {}
}
