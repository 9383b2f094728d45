package longthread.service.storage.sharing;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import org.jspecify.annotations.Nullable;

/** One row: a ticket that was opened from here. */
@Entity
@Table(name = "ticket", schema = "public")
class StoredTicket {
  @Id String id;

  String address;
  String title;
  String ref;
  @Nullable String notice;
  String openedBy;
  Instant openedAt;
  @Nullable Instant closedAt;
  @Nullable String outcome;
}
