package longthread.service.storage.log;

import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.GeneratedValue;
import jakarta.persistence.GenerationType;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import org.jspecify.annotations.Nullable;

/** One row: a block of events as they were received, made durable by one commit. */
@Entity
@Table(schema = "public", name = "event_block")
class EventBlock {
  @Id
  @GeneratedValue(strategy = GenerationType.IDENTITY)
  Long id;

  Instant receivedAt;
  int events; // entries, refused ones counted
  byte @Nullable [] body; // compressed; null once aged and nothing in it is refused
  boolean aged; // accepted events have lost their bytes

  @Column(name = "reading")
  int readerVersion;

  @Nullable Instant appliedAt;
  @Nullable Long changeNumber; // the graph change that made its events visible
  @Nullable String source; // a file or a topic; null for HTTP
}
