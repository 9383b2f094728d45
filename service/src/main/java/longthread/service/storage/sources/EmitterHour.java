package longthread.service.storage.sources;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.IdClass;
import jakarta.persistence.Table;
import java.time.Instant;

/** One row: how many events of an emitter have their event time in an hour. */
@Entity
@IdClass(EmitterHour.Key.class)
@Table(schema = "public", name = "emitter_hour")
class EmitterHour {
  @Id long emitterId;
  @Id Instant hour;
  long events;

  record Key(long emitterId, Instant hour) {}
}
