package longthread.service.storage.facts;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;

/** One row: a value that some facet has or had, by the digest of its canonical text. */
@Entity
@Table(name = "facet_body")
class FacetBody {
  @Id byte[] digest;
  byte[] body; // compressed
}
