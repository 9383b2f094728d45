package longthread.service.storage.graph;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import java.util.UUID;
import org.jspecify.annotations.Nullable;

/** One row: the state of the graph; there is one row, and whoever changes the catalog locks it. */
@Entity
@Table(schema = "public", name = "graph_head")
class GraphHead {
  @Id boolean single;
  UUID epoch; // new after a rebuild
  long number; // of the newest change
  Instant changedAt; // when that was made
  long term;
  @Nullable UUID applier; // who applied last
  @Nullable Long tryingBlock; // what the first batch of an applier is at
  @Nullable Integer tryingPosition; // the event of the block; null for the whole batch
  @Nullable UUID tryingBy; // which process
  int ends; // how many processes ended at it
  int sqlRules; // the version of the SQL reader behind the links
}
