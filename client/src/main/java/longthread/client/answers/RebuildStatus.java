package longthread.client.answers;

import java.util.List;
import org.jspecify.annotations.Nullable;

/** How a rebuild stands. */
public record RebuildStatus(
    String state,
    long blocks,
    long blocksDone,
    long events,
    long carried,
    List<String> differences,
    List<String> unreadable,
    @Nullable String problem) {
  public RebuildStatus {
    differences = differences == null ? List.of() : List.copyOf(differences);
    unreadable = unreadable == null ? List.of() : List.copyOf(unreadable);
  }
}
