package longthread.service.storage.access;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import org.jspecify.annotations.Nullable;

/** One row: a person is signed in, in one browser; of its cookie only the hash is kept. */
@Entity
@Table(schema = "public", name = "sign_in_session")
class SignInSession {
  @Id byte[] hash;
  String account;
  Instant openedAt;
  Instant seenAt;
  @Nullable String idToken;
  @Nullable String providerSession;
}
