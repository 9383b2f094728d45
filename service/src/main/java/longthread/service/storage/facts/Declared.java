package longthread.service.storage.facts;

import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.IdClass;
import jakarta.persistence.Table;

/** One row: that a job or dataset event declared this lineage, without a run. */
@Entity
@IdClass(Declared.Key.class)
@Table(name = "declared")
class Declared {
  @Id short ownerKind;
  @Id long ownerId;

  @Id
  @Column(name = "at_s")
  long atS;

  @Id
  @Column(name = "at_n")
  int atN;

  @Id byte[] digest;
  boolean far;
  long block;

  record Key(short ownerKind, long ownerId, long atS, int atN, byte[] digest) {}
}
