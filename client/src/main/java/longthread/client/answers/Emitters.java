package longthread.client.answers;

import java.time.Instant;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** Who sends events. */
public record Emitters(List<Emitter> emitters, int overdue) {
  public Emitters {
    emitters = emitters == null ? List.of() : List.copyOf(emitters);
  }

  /** A program that reports about one namespace. */
  public record Emitter(
      String producer,
      String namespace,
      @Nullable String version,
      long events,
      @Nullable Instant lastEvent,
      @Nullable Long usualRest,
      @Nullable Instant overdueSince) {}
}
