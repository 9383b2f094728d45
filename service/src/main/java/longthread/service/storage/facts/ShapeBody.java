package longthread.service.storage.facts;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;

/** One row: lineage as runs and declarations report it, by the digest of its text. */
@Entity
@Table(name = "shape")
class ShapeBody {
  @Id byte[] digest;
  byte[] body; // compressed
}
