package longthread.service.storage.runs;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.IdClass;
import jakarta.persistence.Table;
import java.time.Instant;
import java.util.UUID;
import org.jspecify.annotations.Nullable;

/** One row: the result of one check of one run. */
@Entity
@IdClass(CheckResult.Key.class)
@Table(name = "check_result")
class CheckResult {
  @Id UUID runId;
  @Id long jobId;
  @Id long datasetId; // 0 where it is about no single dataset
  @Id String name;
  @Id String columnPath; // empty for the whole dataset
  Instant at;
  String status; // pass, fail or skip
  @Nullable String severity;
  @Nullable String detail;
  @Nullable String expected;
  @Nullable String actual;
  byte @Nullable [] content; // the check itself, such as its SQL
  @Nullable String contentType;

  record Key(UUID runId, long jobId, long datasetId, String name, String columnPath) {}
}
