package longthread.service.access;

import jakarta.persistence.Entity;
import jakarta.persistence.GeneratedValue;
import jakarta.persistence.GenerationType;
import jakarta.persistence.Id;
import java.time.Instant;
import org.jspecify.annotations.Nullable;

/** A bearer key of a program; only its hash is kept. */
@Entity
class ApiKey {
  @Id
  @GeneratedValue(strategy = GenerationType.IDENTITY)
  private @Nullable Long id;

  private String name;
  private String role;
  private byte[] hash;
  private Instant createdAt;
  private @Nullable Instant revokedAt;

  @SuppressWarnings("NullAway.Init")
  protected ApiKey() {}

  ApiKey(String name, Role role, byte[] hash, Instant createdAt) {
    this.name = name;
    this.role = role.word();
    this.hash = hash;
    this.createdAt = createdAt;
  }

  String name() {
    return name;
  }

  Role role() {
    return Role.of(role).orElseThrow();
  }

  Instant createdAt() {
    return createdAt;
  }

  @Nullable Instant revokedAt() {
    return revokedAt;
  }

  void replaceHash(byte[] newHash) {
    this.hash = newHash;
    this.revokedAt = null;
  }

  void revoke(Instant at) {
    revokedAt = at;
  }
}
