package longthread.service.storage.sources;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import org.jspecify.annotations.Nullable;

/** One row: what a key sent. */
@Entity
@Table(schema = "public")
class KeyUse {
  @Id String name;

  Instant firstAt;
  Instant lastAt;
  long accepted;
  long refused;
  @Nullable Instant refusedAt;
  @Nullable String refusal;
  byte[][] newest; // digests
}
