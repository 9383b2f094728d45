package longthread.service.storage.access;

import jakarta.persistence.Entity;
import jakarta.persistence.GeneratedValue;
import jakarta.persistence.GenerationType;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import org.jspecify.annotations.Nullable;

/** One row: a bearer key of a program; only its hash is kept. */
@Entity
@Table(schema = "public", name = "api_key")
class ApiKey {
  @Id
  @GeneratedValue(strategy = GenerationType.IDENTITY)
  Long id;

  String name;
  String role;
  byte[] hash;
  String madeBy;
  Instant createdAt;
  @Nullable Instant revokedAt;
  @Nullable Instant expiresAt;
  @Nullable Instant lastUsedAt;
}
