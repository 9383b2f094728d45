package longthread.service.storage.graph;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.IdClass;
import jakarta.persistence.Table;

/** One row: which output columns an owner reports the sources of, and its constants. */
@Entity
@IdClass(JobMap.Key.class)
@Table(name = "job_map")
class JobMap {
  @Id short ownerKind;
  @Id long ownerId;
  String[] described;
  boolean gap; // whether its emitter could not read parts of it
  String[] constantColumns;
  String[] constantTexts; // a text for the column at the same place

  record Key(short ownerKind, long ownerId) {}
}
