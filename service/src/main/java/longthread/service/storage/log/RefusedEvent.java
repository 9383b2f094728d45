package longthread.service.storage.log;

import jakarta.persistence.Entity;
import jakarta.persistence.GeneratedValue;
import jakarta.persistence.GenerationType;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import org.jspecify.annotations.Nullable;

/** One row: an entry of a block that could not be read or applied, and why. */
@Entity
@Table(schema = "public", name = "refused_event")
class RefusedEvent {
  @Id
  @GeneratedValue(strategy = GenerationType.IDENTITY)
  Long id;

  long blockId;
  int position;
  Instant receivedAt;
  String problem;
  String reason;
  @Nullable String source;
  @Nullable Instant retriedAt;
  @Nullable String outcome; // of the retry: accepted, or why not
}
