package longthread.service.storage.sources;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.IdClass;
import jakarta.persistence.Table;
import java.time.Instant;
import org.jspecify.annotations.Nullable;

/** One row: one content of a file that was picked up, and how far it was read. */
@Entity
@IdClass(TakenFile.Key.class)
@Table(schema = "public", name = "taken_file")
class TakenFile {
  @Id String path;
  @Id byte[] digest;
  long bytes;
  Instant firstAt;
  @Nullable Instant doneAt;
  long taken; // its events that are durable, from the beginning
  long accepted;
  long duplicates;
  long refused;
  @Nullable String problem;

  record Key(String path, byte[] digest) {}
}
