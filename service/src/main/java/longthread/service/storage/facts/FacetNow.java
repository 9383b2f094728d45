package longthread.service.storage.facts;

import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.IdClass;
import jakarta.persistence.Table;

/** One row: the current value of a facet: the greatest by time and digest. */
@Entity
@IdClass(FacetNow.Key.class)
@Table(name = "facet_now")
class FacetNow {
  @Id short subjectKind;
  @Id long subjectId;
  @Id String key;

  @Column(name = "at_s")
  long atS;

  @Column(name = "at_n")
  int atN;

  byte[] digest;

  record Key(short subjectKind, long subjectId, String key) {}
}
