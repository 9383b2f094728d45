package longthread.service.storage.access;

import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;

/** One row: somebody was sent to the provider to sign in, and is not back yet. */
@Entity
@Table(schema = "public", name = "provider_sign_in")
class ProviderSignIn {
  @Id byte[] state;
  byte[] browser;
  String nonce;
  String verifier;
  String target;
  Instant startedAt;
}
