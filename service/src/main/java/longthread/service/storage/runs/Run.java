package longthread.service.storage.runs;

import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.IdClass;
import jakarta.persistence.Table;
import java.time.Instant;
import java.util.UUID;
import org.jspecify.annotations.Nullable;

/**
 * One row: a run of a job: the times its events report (second and nanosecond) and what follows
 * from them.
 */
@Entity
@IdClass(Run.Key.class)
@Table(name = "run")
class Run {
  @Id UUID runId;
  @Id long jobId;
  String state;
  Instant startedAt;
  @Nullable Instant endedAt;
  @Nullable UUID parentRun;
  @Nullable String parentJob;
  @Nullable Instant nominalAt;
  @Nullable Instant nominalEnd;
  @Nullable String error;
  @Nullable Long rowsRead;
  @Nullable Long rowsWritten;
  @Nullable Long bytesWritten;
  @Nullable String code; // fingerprint

  @Column(name = "start_s")
  long startS;

  @Column(name = "start_n")
  int startN;

  @Column(name = "heard_s")
  long heardS;

  @Column(name = "heard_n")
  int heardN;

  @Column(name = "running_s")
  @Nullable Long runningS;

  @Column(name = "running_n")
  @Nullable Integer runningN;

  @Column(name = "begun_s")
  @Nullable Long begunS;

  @Column(name = "begun_n")
  @Nullable Integer begunN;

  @Column(name = "completed_s")
  @Nullable Long completedS;

  @Column(name = "completed_n")
  @Nullable Integer completedN;

  @Column(name = "aborted_s")
  @Nullable Long abortedS;

  @Column(name = "aborted_n")
  @Nullable Integer abortedN;

  @Column(name = "failed_s")
  @Nullable Long failedS;

  @Column(name = "failed_n")
  @Nullable Integer failedN;

  long block; // the oldest that reported any of its times
  long lastBlock; // the newest; 0 where it is not known

  @Column(name = "heard_at")
  Instant lastReportedAt;

  @Nullable UUID rootRun;
  @Nullable String rootJob;

  record Key(UUID runId, long jobId) {}
}
