package longthread.service.storage.log;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;

/** One row: the counters of the whole intake; there is one row. */
@Entity
@Table(schema = "public", name = "intake_count")
class IntakeCount {
  @Id boolean single;
  long received;
  long applied;
  long duplicates;
}
