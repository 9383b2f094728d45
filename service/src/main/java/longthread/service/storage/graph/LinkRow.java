package longthread.service.storage.graph;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.IdClass;
import jakarta.persistence.Table;
import java.time.Instant;

/** One row: a link of an owner between two columns (* stands for the rows). */
@Entity
@IdClass(LinkRow.Key.class)
@Table(name = "link_row")
class LinkRow {
  @Id short ownerKind;
  @Id long ownerId;
  @Id int span;
  @Id long fromDataset;
  @Id String fromColumn;
  @Id long toDataset;
  @Id String toColumn;
  @Id String flow;
  boolean masking;
  @Id Instant firstSeen;

  record Key(
      short ownerKind,
      long ownerId,
      int span,
      long fromDataset,
      String fromColumn,
      long toDataset,
      String toColumn,
      String flow,
      Instant firstSeen) {}
}
