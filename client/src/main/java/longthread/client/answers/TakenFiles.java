package longthread.client.answers;

import java.time.Instant;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** The files that were picked up. */
public record TakenFiles(List<TakenFile> files) {
  public TakenFiles {
    files = files == null ? List.of() : List.copyOf(files);
  }

  /** A file. */
  public record TakenFile(
      String path,
      @Nullable Instant firstAt,
      @Nullable Instant doneAt,
      long accepted,
      long duplicates,
      long refused) {}
}
