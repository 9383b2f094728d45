package longthread.service.storage.facts;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.IdClass;
import jakarta.persistence.Table;
import java.util.UUID;

/** One row: that a run reported this lineage. */
@Entity
@IdClass(RunShape.Key.class)
@Table(name = "run_shape")
class RunShape {
  @Id UUID runId;
  @Id long jobId;
  @Id byte[] digest;
  long block;

  record Key(UUID runId, long jobId, byte[] digest) {}
}
