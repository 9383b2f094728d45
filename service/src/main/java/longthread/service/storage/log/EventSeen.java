package longthread.service.storage.log;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;

/** One row: where the event with this digest (SHA-256 of its bytes) was accepted first. */
@Entity
@Table(schema = "public", name = "event_seen")
class EventSeen {
  @Id byte[] digest;
  long blockId;
  int position;
}
