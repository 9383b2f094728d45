package longthread.client.answers;

import java.time.Instant;
import java.util.List;

/** What changed of an asset. */
public record History(List<Change> changes) {
  public History {
    changes = changes == null ? List.of() : List.copyOf(changes);
  }

  /** A change in words. */
  public record Change(Instant at, String kind, List<String> words) {
    public Change {
      words = words == null ? List.of() : List.copyOf(words);
    }
  }
}
