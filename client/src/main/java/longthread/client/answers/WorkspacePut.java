package longthread.client.answers;

import java.time.Instant;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** What a description changes, or would. */
public record WorkspacePut(
    String ref,
    String title,
    boolean dryRun,
    @Nullable String receipt,
    boolean duplicate,
    @Nullable Instant newerAt,
    List<Difference> differences) {
  /** One thing that is added, removed or changed. */
  public record Difference(String what, String title, String change, List<Member> members) {}

  /** A member with other values. */
  public record Member(String name, @Nullable String before, @Nullable String after) {}
}
