package longthread.service.storage.access;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;

/** One row: sign-ins of an account from an address, or of any from an address, that failed. */
@Entity
@Table(schema = "public", name = "failed_sign_in")
class FailedSignIn {
  @Id String subject;
  int failures;
  Instant lastAt;
  Instant blockedUntil;
}
