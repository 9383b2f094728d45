package longthread.service.storage.views;

import jakarta.persistence.Entity;
import jakarta.persistence.GeneratedValue;
import jakarta.persistence.GenerationType;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import org.jspecify.annotations.Nullable;

/** One row: a view under a name of its owner's. */
@Entity
@Table(schema = "public")
class SavedView {
  @Id
  @GeneratedValue(strategy = GenerationType.IDENTITY)
  @Nullable Long id;

  String owner;
  String name;
  boolean shared;

  String settings; // JSON
  String[] defaultFor; // kinds of assets that open with it
  Instant changedAt;
}
