package longthread.service.access;

import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.util.List;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.security.authentication.AuthenticationManager;
import org.springframework.security.authentication.InternalAuthenticationServiceException;
import org.springframework.security.authentication.UsernamePasswordAuthenticationToken;
import org.springframework.security.core.Authentication;
import org.springframework.security.core.AuthenticationException;
import org.springframework.security.core.context.SecurityContext;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.security.web.context.HttpSessionSecurityContextRepository;
import org.springframework.security.web.csrf.CsrfToken;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Signing in and out; keys and accounts. */
@RestController
@RequestMapping("/api/v1")
class SessionController {
  record SignIn(@Nullable String name, @Nullable String password) {}

  record Session(
      boolean signedIn,
      @Nullable String name,
      @Nullable String displayName,
      @Nullable String role) {}

  record NewKey(@Nullable String name, @Nullable String role) {}

  record MadeKey(String name, String role, String token) {}

  record NewAccount(
      @Nullable String name,
      @Nullable String displayName,
      @Nullable String password,
      @Nullable String role) {}

  private final AuthenticationManager authentication;
  private final Accounts accounts;
  private final Keys keys;
  private final HttpSessionSecurityContextRepository sessions =
      new HttpSessionSecurityContextRepository();

  SessionController(AuthenticationManager authentication, Accounts accounts, Keys keys) {
    this.authentication = authentication;
    this.accounts = accounts;
    this.keys = keys;
  }

  @GetMapping("/session")
  Session session(@Nullable Authentication who, HttpServletRequest request) {
    // Asking for the token makes the cookie be sent that the next write must repeat.
    if (request.getAttribute(CsrfToken.class.getName()) instanceof CsrfToken token) {
      token.getToken();
    }
    if (who == null
        || who.getAuthorities().stream()
            .noneMatch(
                a ->
                    a.getAuthority().startsWith("ROLE_")
                        && !a.getAuthority().equals("ROLE_ANONYMOUS"))) {
      return new Session(false, null, null, null);
    }
    String role =
        who.getAuthorities().stream()
            .map(a -> a.getAuthority())
            .filter(a -> a.startsWith("ROLE_"))
            .findFirst()
            .orElseThrow()
            .substring(5)
            .toLowerCase();
    String shown =
        accounts.named(who.getName()).map(Accounts.Account::displayName).orElse(who.getName());
    return new Session(true, who.getName(), shown, role);
  }

  @PostMapping("/session")
  Session signIn(
      @RequestBody SignIn given, HttpServletRequest request, HttpServletResponse response) {
    try {
      Authentication who =
          authentication.authenticate(
              UsernamePasswordAuthenticationToken.unauthenticated(
                  storable(given.name()), given.password()));
      // A new session id, so that one planted before the sign-in is worth nothing.
      request.getSession();
      request.changeSessionId();
      SecurityContext context = SecurityContextHolder.createEmptyContext();
      context.setAuthentication(who);
      SecurityContextHolder.setContext(context);
      sessions.saveContext(context, request, response);
      return session(who, request);
    } catch (InternalAuthenticationServiceException e) {
      throw ProblemException.databaseUnreachable(); // the password may well be right
    } catch (AuthenticationException e) {
      throw new ProblemException(
          HttpStatus.UNAUTHORIZED,
          "wrong-sign-in",
          "Name and password do not match",
          "check both; whoever started the service has the first sign-in from its output");
    }
  }

  @DeleteMapping("/session")
  Session signOut(HttpServletRequest request) {
    var session = request.getSession(false);
    if (session != null) {
      session.invalidate();
    }
    return new Session(false, null, null, null);
  }

  @GetMapping("/keys")
  List<Keys.Listed> listKeys() {
    return keys.list();
  }

  @PostMapping("/keys")
  MadeKey makeKey(@RequestBody NewKey wanted) {
    Role role = role(wanted.role());
    String token = keys.make(wanted.name(), role);
    return new MadeKey(HolderNames.checked(wanted.name()), role.word(), token);
  }

  @DeleteMapping("/keys/{name}")
  void revokeKey(@PathVariable String name) {
    keys.revoke(name);
  }

  /** Revokes a key by its number in the list, whatever its name is. */
  @DeleteMapping("/keys")
  void revokeKey(@RequestParam long id) {
    keys.revoke(id);
  }

  @PostMapping("/accounts")
  Session makeAccount(@RequestBody NewAccount wanted) {
    Role role = role(wanted.role());
    Accounts.Account made =
        accounts.add(wanted.name(), wanted.displayName(), wanted.password(), role);
    return new Session(false, made.name(), made.displayName(), role.word());
  }

  /** A name that the database can be asked for; it takes no NUL. */
  private static String storable(@Nullable String name) {
    return name == null ? "" : name.replace('\0', ' ');
  }

  private static Role role(@Nullable String word) {
    return Role.of(word == null ? "" : word)
        .orElseThrow(
            () ->
                ProblemException.badRequest(
                    "unknown-role",
                    "'" + word + "' is not a role; use reader, steward, emitter or admin"));
  }
}
