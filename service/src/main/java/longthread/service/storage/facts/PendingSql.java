package longthread.service.storage.facts;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.IdClass;
import jakarta.persistence.Table;

/** One row: that the SQL of this job or view could not be read in time and waits. */
@Entity
@IdClass(PendingSql.Key.class)
@Table(name = "pending_sql")
class PendingSql {
  @Id short ownerKind;
  @Id long ownerId;

  record Key(short ownerKind, long ownerId) {}
}
