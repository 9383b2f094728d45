package longthread.service.storage.access;

import jakarta.persistence.Entity;
import jakarta.persistence.GeneratedValue;
import jakarta.persistence.GenerationType;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import org.jspecify.annotations.Nullable;

/** One row: a role that an account, a group or a key has somewhere. */
@Entity
@Table(schema = "public", name = "access_grant")
class AccessGrant {
  @Id
  @GeneratedValue(strategy = GenerationType.IDENTITY)
  Long id;

  String holderKind;
  String holder;
  String role;
  String scopeKind;
  String scopeValue;
  String grantedBy;
  Instant grantedAt;
  @Nullable Instant expiresAt;
}
