package longthread.service.storage.log;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.IdClass;
import jakarta.persistence.Table;
import java.time.Instant;

/** One row: one of the newest applied events, as lists show it. */
@Entity
@IdClass(RecentEvent.Key.class)
@Table(schema = "public", name = "recent_event")
class RecentEvent {
  @Id long blockId;
  @Id int position;
  Instant receivedAt;
  Instant eventTime;
  String type;
  String about;
  String producer;
  String[] changed; // what it changed in the catalog, in words

  record Key(long blockId, int position) {}
}
