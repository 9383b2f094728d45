package longthread.service.storage.access;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;

/** One row: a group of people. */
@Entity
@Table(schema = "public", name = "access_group")
class AccessGroup {
  @Id String name;
  String title;
  Instant madeAt;
}
