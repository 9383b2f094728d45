package longthread.service.storage.preview;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;

/** One row: a database or folder from which rows can be read live. */
@Entity
@Table(schema = "public", name = "preview_source")
class PreviewSource {
  @Id String name;

  String settings; // JSON, without a password
  String changedBy;
  Instant changedAt;
}
