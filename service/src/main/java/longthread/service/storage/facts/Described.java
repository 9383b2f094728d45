package longthread.service.storage.facts;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.IdClass;
import jakarta.persistence.Table;

/** One row: that an event said more of this dataset or job than its name. */
@Entity
@IdClass(Described.Key.class)
@Table(name = "described")
class Described {
  @Id short subjectKind;
  @Id long subjectId;
  long block;

  record Key(short subjectKind, long subjectId) {}
}
