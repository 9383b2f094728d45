package longthread.service.storage.statements;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import org.jspecify.annotations.Nullable;

/** One row: what a person stated at once. */
@Entity
@Table(name = "statement", schema = "public")
class StoredStatement {
  @Id String id;

  Instant at;
  String by;
  String reason;
  String[] about;
  byte[] body; // JSON, compressed
  @Nullable String undoes;
}
