package longthread.service.storage.facts;

import jakarta.persistence.Entity;
import jakarta.persistence.GeneratedValue;
import jakarta.persistence.GenerationType;
import jakarta.persistence.Id;
import jakarta.persistence.Table;

/** One row: the internal id of a dataset reference, as sent. */
@Entity
@Table(name = "dataset")
class Dataset {
  @Id
  @GeneratedValue(strategy = GenerationType.IDENTITY)
  Long id;

  String ref;
}
