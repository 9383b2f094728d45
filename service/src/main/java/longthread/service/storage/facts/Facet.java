package longthread.service.storage.facts;

import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.IdClass;
import jakarta.persistence.Table;

/** One row: a value of a facet of a dataset or job, reported at a moment. */
@Entity
@IdClass(Facet.Key.class)
@Table(name = "facet")
class Facet {
  @Id short subjectKind;
  @Id long subjectId;
  @Id String key;

  @Id
  @Column(name = "at_s")
  long atS;

  @Id
  @Column(name = "at_n")
  int atN;

  @Id byte[] digest;
  boolean far; // its time was too far ahead to count
  long block; // the newest that reported it

  record Key(short subjectKind, long subjectId, String key, long atS, int atN, byte[] digest) {}
}
