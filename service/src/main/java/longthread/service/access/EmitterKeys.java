package longthread.service.access;

import java.time.Instant;
import java.util.List;
import longthread.service.web.ProblemException;
import org.springframework.stereotype.Component;

/** The keys of programs that only send, for whoever connects one. */
@Component
public class EmitterKeys {
  /** A key that may send and that is not revoked. */
  public record SendingKey(String name, String role, Instant createdAt) {}

  private final Keys keys;

  EmitterKeys(Keys keys) {
    this.keys = keys;
  }

  /**
   * Makes a key that can only send; returns its token, which cannot be shown again.
   *
   * @throws ProblemException if the name cannot be one, or is in use
   */
  public String make(String name) {
    return keys.make(name, Role.EMITTER, null, "");
  }

  /** The keys that may send, by name. */
  public List<SendingKey> all() {
    return keys.list().stream()
        .filter(key -> key.revokedAt() == null && Role.of(key.role()).orElseThrow().sends())
        .map(key -> new SendingKey(key.name(), key.role(), key.createdAt()))
        .toList();
  }
}
