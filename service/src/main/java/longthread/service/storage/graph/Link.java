package longthread.service.storage.graph;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.IdClass;
import jakarta.persistence.Table;
import java.time.Instant;
import org.hibernate.annotations.Immutable;
import org.jspecify.annotations.Nullable;

/** One row: a link with what its span says of it (a view). */
@Entity
@Immutable
@IdClass(Link.Key.class)
@Table(name = "link")
class Link {
  @Id short ownerKind;
  @Id long ownerId;
  @Id long fromDataset;
  @Id String fromColumn;
  @Id long toDataset;
  @Id String toColumn;
  @Id String flow;
  boolean masking;
  String evidence;
  String version;
  @Id Instant firstSeen;
  Instant lastSeen;
  @Nullable Instant until;

  record Key(
      short ownerKind,
      long ownerId,
      long fromDataset,
      String fromColumn,
      long toDataset,
      String toColumn,
      String flow,
      Instant firstSeen) {}
}
