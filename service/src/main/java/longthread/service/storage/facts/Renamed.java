package longthread.service.storage.facts;

import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.IdClass;
import jakarta.persistence.Table;

/** One row: that a dataset got another name at a moment. */
@Entity
@IdClass(Renamed.Key.class)
@Table(name = "renamed")
class Renamed {
  @Id long fromDataset;
  @Id long toDataset;

  @Id
  @Column(name = "at_s")
  long atS;

  @Id
  @Column(name = "at_n")
  int atN;

  long block;

  record Key(long fromDataset, long toDataset, long atS, int atN) {}
}
