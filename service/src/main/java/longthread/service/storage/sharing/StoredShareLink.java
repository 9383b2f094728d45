package longthread.service.storage.sharing;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import org.jspecify.annotations.Nullable;

/** One row: that lets somebody see the state of one report. */
@Entity
@Table(name = "share_link", schema = "public")
class StoredShareLink {
  @Id String id;

  byte[] hash;
  String ref;
  String madeBy;
  Instant madeAt;
  Instant until;
  @Nullable Instant revokedAt;
}
