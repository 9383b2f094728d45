package longthread.service.access;

import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.security.authentication.UsernamePasswordAuthenticationToken;
import org.springframework.security.core.Authentication;
import org.springframework.security.core.GrantedAuthority;
import org.springframework.security.core.authority.SimpleGrantedAuthority;

/** What a key or an account may do. */
public enum Role {
  /** Asks. */
  READER,
  /** Asks and sends. */
  STEWARD,
  /** Asks, and reads the audit log. */
  AUDITOR,
  /** Only sends. */
  EMITTER,
  /** Everything, keys and accounts too. */
  ADMIN;

  public String word() {
    return name().toLowerCase(Locale.ROOT);
  }

  /** Whether it may send events. */
  boolean sends() {
    return this != READER && this != AUDITOR;
  }

  public static Optional<Role> of(String word) {
    return Arrays.stream(values()).filter(role -> role.word().equals(word)).findFirst();
  }

  /** Who sent a request, in the form that Spring Security checks. */
  static Authentication authentication(String name, Role role) {
    return UsernamePasswordAuthenticationToken.authenticated(
        name, "", List.of(new SimpleGrantedAuthority("ROLE_" + role.name())));
  }

  /** The role that a request has, if it has one. */
  static Optional<Role> of(Authentication who) {
    return who.getAuthorities().stream()
        .map(GrantedAuthority::getAuthority)
        .flatMap(
            authority ->
                Arrays.stream(values()).filter(r -> ("ROLE_" + r.name()).equals(authority)))
        .findFirst();
  }

  /**
   * The role of this word.
   *
   * @throws ProblemException if there is none
   */
  static Role checked(@Nullable String word) {
    return of(word == null ? "" : word)
        .orElseThrow(
            () ->
                ProblemException.badRequest(
                    "unknown-role",
                    "'"
                        + word
                        + "' is not a role; use reader, auditor, steward, emitter or admin"));
  }
}
