package longthread.service.storage.preview;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import org.jspecify.annotations.Nullable;

/** One row: what the values of an asset looked like when they were sampled last. */
@Entity
@Table(schema = "public", name = "value_sample")
class ValueSample {
  @Id String asset;
  String source;
  Instant at;
  String looks; // JSON
  @Nullable String fault;
}
