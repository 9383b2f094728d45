package longthread.service.storage.sources;

import jakarta.persistence.Entity;
import jakarta.persistence.GeneratedValue;
import jakarta.persistence.GenerationType;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import org.jspecify.annotations.Nullable;

/** One row: a program that reports about one namespace. */
@Entity
@Table(schema = "public", name = "emitter")
class Emitter {
  @Id
  @GeneratedValue(strategy = GenerationType.IDENTITY)
  Long id;

  String producer;
  String namespace;
  @Nullable String version;
  @Nullable String engine;
  @Nullable Instant versionAt;
  Instant firstEvent;
  Instant lastEvent;
  Instant lastReceived;
  long events;
}
