package longthread.service.storage.planned;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.IdClass;
import jakarta.persistence.Table;
import java.time.Instant;
import org.jspecify.annotations.Nullable;

/** One row: what an owner answered to a planned change. */
@Entity
@IdClass(StoredAnswer.Key.class)
@Table(name = "planned_answer", schema = "public")
class StoredAnswer {
  @Id String changeId;
  @Id String owner;
  String answer;
  @Nullable String note;
  String by;
  Instant at;

  record Key(String changeId, String owner) {}
}
