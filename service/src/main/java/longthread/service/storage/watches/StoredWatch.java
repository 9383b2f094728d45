package longthread.service.storage.watches;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import org.jspecify.annotations.Nullable;

/** One row: who is notified of what, and where to. */
@Entity
@Table(name = "watch", schema = "public")
class StoredWatch {
  @Id String id;

  String owner;
  String title;
  String targetKind;
  String target;
  String[] about;
  String channel;
  String address;
  @Nullable String secret;
  String digest;
  @Nullable String digestAt;
  @Nullable String quietFrom;
  @Nullable String quietUntil;
  String zone;
  Instant madeAt;
}
