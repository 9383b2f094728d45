package longthread.service.access;

import java.util.Arrays;
import java.util.Locale;
import java.util.Optional;

/** What a key or an account may do. */
public enum Role {
  /** Asks. */
  READER,
  /** Asks and sends. */
  STEWARD,
  /** Only sends. */
  EMITTER,
  /** Everything, keys and accounts too. */
  ADMIN;

  public String word() {
    return name().toLowerCase(Locale.ROOT);
  }

  public static Optional<Role> of(String word) {
    return Arrays.stream(values()).filter(role -> role.word().equals(word)).findFirst();
  }
}
