package longthread.service.storage.graph;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;

/** One row: a numbered change, without gaps, with the assets whose cards or links it changed. */
@Entity
@Table(schema = "public", name = "graph_change")
class GraphChange {
  @Id long number;
  Instant madeAt;
  String[] refs;
}
