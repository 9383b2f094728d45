package longthread.service.storage.catalog;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import org.jspecify.annotations.Nullable;

/** One row: the card of one dataset or job, with what search looks at. */
@Entity
@Table(name = "card")
class StoredCard {
  @Id String ref;
  String kind;
  String system;
  String name;
  @Nullable String title;
  @Nullable String url;
  String[] owners;
  String[] tags;
  boolean retired;
  String haystack; // lower case
  byte[] body; // the card whole, compressed
}
