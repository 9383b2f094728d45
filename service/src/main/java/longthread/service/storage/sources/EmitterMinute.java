package longthread.service.storage.sources;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.IdClass;
import jakarta.persistence.Table;
import java.time.Instant;

/** One row: how many events of an emitter were received in a minute. */
@Entity
@IdClass(EmitterMinute.Key.class)
@Table(schema = "public", name = "emitter_minute")
class EmitterMinute {
  @Id long emitterId;
  @Id Instant minute;
  long events;

  record Key(long emitterId, Instant minute) {}
}
