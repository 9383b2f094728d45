package longthread.client.answers;

import java.time.Instant;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** The parts of an asset. */
public record Parts(List<Part> parts, List<String> missingDays) {
  public Parts {
    parts = parts == null ? List.of() : List.copyOf(parts);
    missingDays = missingDays == null ? List.of() : List.copyOf(missingDays);
  }

  /** A part; null for the whole. */
  public record Part(
      @Nullable String part,
      @Nullable Instant writtenAt,
      List<String> writtenBy,
      @Nullable Instant readAt) {
    public Part {
      writtenBy = writtenBy == null ? List.of() : List.copyOf(writtenBy);
    }
  }
}
