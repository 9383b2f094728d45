package longthread.service.storage.access;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import org.jspecify.annotations.Nullable;

/** One row: a person who signs in to the console. */
@Entity
@Table(schema = "public", name = "account")
class Account {
  @Id String name;
  String displayName;
  String passwordHash;
  String role;
  Instant createdAt;
  @Nullable Instant disabledAt;
  @Nullable Instant lastSignInAt;
  @Nullable String issuer;
  @Nullable String subject;
}
