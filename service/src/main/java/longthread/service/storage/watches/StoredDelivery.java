package longthread.service.storage.watches;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import org.jspecify.annotations.Nullable;

/** One row: a message to somebody. */
@Entity
@Table(name = "delivery", schema = "public")
class StoredDelivery {
  @Id String id;

  String watchId;
  Instant madeAt;
  String message; // a CloudEvent, JSON
  String subject;
  String state;
  int tries;
  Instant nextAt;
  @Nullable Instant sentAt;
  @Nullable String problem;
}
