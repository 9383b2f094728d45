package longthread.service.storage.coverage;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.IdClass;
import jakarta.persistence.Table;
import java.time.LocalDate;

/** One row: how well a system, or a workspace of it, was covered on a day. */
@Entity
@Table(schema = "public")
@IdClass(CoverageDay.Key.class)
class CoverageDay {
  @Id LocalDate day;
  @Id String system;
  @Id String workspace;

  int assets;
  int columnLevel;
  int tableLevel;
  int noLineage;

  record Key(LocalDate day, String system, String workspace) {}
}
