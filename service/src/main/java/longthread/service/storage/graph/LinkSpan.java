package longthread.service.storage.graph;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.IdClass;
import jakarta.persistence.Table;
import java.time.Instant;
import org.jspecify.annotations.Nullable;

/** One row: what links of one owner that were last seen together have in common. */
@Entity
@IdClass(LinkSpan.Key.class)
@Table(name = "link_span")
class LinkSpan {
  @Id short ownerKind;
  @Id long ownerId;
  @Id int span;
  String evidence;
  String version; // hash of the job version
  Instant lastSeen;
  @Nullable Instant until; // null while current

  record Key(short ownerKind, long ownerId, int span) {}
}
