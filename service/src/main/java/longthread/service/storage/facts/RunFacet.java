package longthread.service.storage.facts;

import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.IdClass;
import jakarta.persistence.Table;
import java.util.UUID;

/** One row: a value of a facet of a run, of its reading or writing of a dataset, or of its code. */
@Entity
@IdClass(RunFacet.Key.class)
@Table(name = "run_facet")
class RunFacet {
  @Id UUID runId;
  @Id long jobId;
  @Id short role; // see FacetRole
  @Id long datasetId; // 0 where there is none
  @Id String key;

  @Id
  @Column(name = "at_s")
  long atS;

  @Id
  @Column(name = "at_n")
  int atN;

  @Id byte[] digest;
  boolean far;
  long block;

  record Key(
      UUID runId,
      long jobId,
      short role,
      long datasetId,
      String key,
      long atS,
      int atN,
      byte[] digest) {}
}
