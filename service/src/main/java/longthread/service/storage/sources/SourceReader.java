package longthread.service.storage.sources;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import org.jspecify.annotations.Nullable;

/** One row: a database that the service reads by itself. */
@Entity
@Table(schema = "public")
class SourceReader {
  @Id String name;

  String settings; // JSON, without a password
  int everyMinutes;
  boolean enabled;
  String changedBy;
  Instant changedAt;
  @Nullable Instant lastAt;
  @Nullable Instant lastOkAt;
  @Nullable String outcome;
  @Nullable String problem;
  byte[] state; // compressed; null before the first reading
  @Nullable Instant lockedUntil;
}
