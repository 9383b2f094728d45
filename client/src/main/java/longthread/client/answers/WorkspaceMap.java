package longthread.client.answers;

import java.time.Instant;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** Everything in a workspace, what feeds it and what rests on it. */
public record WorkspaceMap(
    String ref,
    String title,
    String system,
    @Nullable String description,
    @Nullable String url,
    List<String> owners,
    @Nullable Instant describedAt,
    List<Relay> relays,
    List<Link> connections,
    List<Box> boxes,
    List<Line> lines) {
  /** A program through which sources are reached. */
  public record Relay(String id, String title) {}

  /** A connection to sources. */
  public record Link(
      String id, String title, String kind, @Nullable String address, @Nullable String through) {}

  /** The newest refresh of an item. */
  public record Refresh(
      String state,
      @Nullable Instant startedAt,
      @Nullable Instant endedAt,
      @Nullable String error,
      @Nullable Instant completedAt) {}

  /** A thing in the workspace, before it or behind it. */
  public record Box(
      String ref,
      String kind,
      String layer,
      String name,
      String system,
      @Nullable String workspace,
      boolean matched,
      List<String> connections,
      boolean reuses,
      List<String> owners,
      @Nullable Refresh refresh,
      List<String> affectedBy) {}

  /** That one feeds another, or holds it. */
  public record Line(String from, String to, boolean holds) {}
}
