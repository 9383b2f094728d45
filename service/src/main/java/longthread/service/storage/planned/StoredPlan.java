package longthread.service.storage.planned;

import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import org.jspecify.annotations.Nullable;

/** One row: a planned change. */
@Entity
@Table(name = "planned_change", schema = "public")
class StoredPlan {
  @Id String id;
  String title;
  @Nullable String reason;
  String author;

  @Column(name = "planned_at")
  @Nullable Instant plannedAt;

  String steps; // JSON
  String state;
  String madeBy;
  Instant madeAt;
  String changedBy;
  Instant changedAt;
  @Nullable Instant doneAt;
  @Nullable Instant judgedAt;
  long graph; // the graph change as of which it was judged
  byte @Nullable [] judged;
  byte @Nullable [] first;
}
