package longthread.service.access;

import java.util.Arrays;
import java.util.Collection;
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
  ADMIN,
  /** Only what its grants say. */
  LIMITED;

  private static final List<Role> STRONGEST_FIRST =
      List.of(ADMIN, STEWARD, AUDITOR, READER, EMITTER, LIMITED);

  public String word() {
    return name().toLowerCase(Locale.ROOT);
  }

  /** Whether it may send events. */
  boolean sends() {
    return this == EMITTER || this == STEWARD || this == ADMIN;
  }

  public static Optional<Role> of(String word) {
    return Arrays.stream(values()).filter(role -> role.word().equals(word)).findFirst();
  }

  /** Who sent a request, in the form that Spring Security checks; its sight are the details. */
  static Authentication authentication(String name, Held held) {
    var who =
        UsernamePasswordAuthenticationToken.authenticated(
            name,
            "",
            held.roles().stream()
                .map(role -> new SimpleGrantedAuthority("ROLE_" + role.name()))
                .toList());
    who.setDetails(held);
    return who;
  }

  /** The strongest of some roles. */
  static Optional<Role> strongest(Collection<Role> roles) {
    return STRONGEST_FIRST.stream().filter(roles::contains).findFirst();
  }

  /** The role that a request has, if it has one. */
  static Optional<Role> of(Authentication who) {
    List<String> theirs =
        who.getAuthorities().stream().map(GrantedAuthority::getAuthority).toList();
    return STRONGEST_FIRST.stream().filter(r -> theirs.contains("ROLE_" + r.name())).findFirst();
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
                        + "' is not a role; use reader, auditor, steward, emitter, admin or limited"));
  }
}
