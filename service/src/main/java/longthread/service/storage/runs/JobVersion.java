package longthread.service.storage.runs;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.IdClass;
import jakarta.persistence.Table;
import java.time.Instant;

/** One row: a version of a job, by the hash of its code or shape. */
@Entity
@IdClass(JobVersion.Key.class)
@Table(name = "job_version")
class JobVersion {
  @Id long jobId;
  int number; // for display
  @Id String hash;
  Instant firstRun;
  Instant lastRun;
  String[] changes; // what differs from the version before, in words

  record Key(long jobId, String hash) {}
}
