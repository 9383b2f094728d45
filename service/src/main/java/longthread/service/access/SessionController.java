package longthread.service.access;

import io.swagger.v3.oas.annotations.Operation;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.util.List;
import longthread.service.audit.AuditNote;
import longthread.service.web.ProblemException;
import longthread.service.web.PublicAddress;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.security.core.Authentication;
import org.springframework.security.web.csrf.CsrfToken;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;

/** Signing in to the console and out of it. */
@RestController
@RequestMapping("/api/v1/session")
class SessionController {
  /** Name and password of an account. */
  record SignIn(@Nullable String name, @Nullable String password) {}

  /** The present password and the one to have from now on. */
  record OwnPassword(@Nullable String current, @Nullable String password) {}

  /**
   * Who the caller is; name and role are missing for who is not signed in.
   *
   * @param grants what the account, itself or by a group, may do on parts of the catalog beside
   * @param provider what the provider is called at which people may sign in; absent if there is
   *     none
   * @param continueAt where to go on to be signed out at the provider too; absent if it is over
   */
  record Session(
      boolean signedIn,
      @Nullable String name,
      @Nullable String displayName,
      @Nullable String role,
      List<Grants.GrantRow> grants,
      @Nullable String provider,
      @Nullable String continueAt) {}

  private final SignIns signIns;
  private final Accounts accounts;
  private final SessionCookie cookie;
  private final FirstSignIn firstSignIn;
  private final ProviderSignIns provider;
  private final PublicAddress address;
  private final Grants grants;

  SessionController(
      SignIns signIns,
      Accounts accounts,
      SessionCookie cookie,
      FirstSignIn firstSignIn,
      ProviderSignIns provider,
      PublicAddress address,
      Grants grants) {
    this.grants = grants;
    this.provider = provider;
    this.address = address;
    this.signIns = signIns;
    this.accounts = accounts;
    this.cookie = cookie;
    this.firstSignIn = firstSignIn;
  }

  @GetMapping
  @Operation(operationId = "getSession", summary = "Show who is signed in")
  Session session(@Nullable Authentication who, HttpServletRequest request) {
    // Asking for the token makes the cookie be sent that the next write must repeat.
    if (request.getAttribute(CsrfToken.class.getName()) instanceof CsrfToken token) {
      token.getToken();
    }
    Role role = who == null ? null : Role.of(who).orElse(null);
    return role == null
        ? nobody(null)
        : session(who.getName(), role, BearerFilter.carriesKey(request));
  }

  private Session session(String name, Role role, boolean byKey) {
    String shown = accounts.named(name).map(Accounts.Account::displayName).orElse(name);
    return new Session(true, name, shown, role.word(), grants.heldBy(name, byKey), null, null);
  }

  private Session nobody(@Nullable String continueAt) {
    return new Session(false, null, null, null, List.of(), provider.title(), continueAt);
  }

  @PostMapping
  @Operation(operationId = "signIn", summary = "Sign in to the console")
  Session signIn(
      @RequestBody SignIn given, HttpServletRequest request, HttpServletResponse response) {
    AuditNote.about(given.name());
    SignIns.Opened opened =
        signIns.signIn(storable(given.name()), storable(given.password()), request.getRemoteAddr());
    AuditNote.who(opened.person().name(), opened.person().role().word());
    cookie.give(request, response, opened.token());
    return session(opened.person().name(), opened.person().role(), false);
  }

  @DeleteMapping
  @Operation(operationId = "signOut", summary = "Sign out")
  Session signOut(HttpServletRequest request, HttpServletResponse response) {
    String continueAt =
        SessionCookie.token(request)
            .flatMap(token -> provider.endSession(token, address.base(request)))
            .orElse(null);
    SessionCookie.token(request).ifPresent(signIns::signOut);
    cookie.takeBack(request, response);
    return nobody(continueAt);
  }

  /** Changes the password of who is signed in; other sessions of the account end. */
  @PutMapping("/password")
  @Operation(
      operationId = "changeOwnPassword",
      summary = "Change the own password; other sessions end")
  Session changePassword(
      @RequestBody OwnPassword given, HttpServletRequest request, HttpServletResponse response) {
    // Whose session it is, not which key came along.
    SignIns.Person person =
        SessionCookie.token(request)
            .flatMap(signIns::personOf)
            .orElseThrow(
                () ->
                    new ProblemException(
                        HttpStatus.UNAUTHORIZED,
                        "not-signed-in",
                        "Authentication required",
                        "only a person who is signed in has a password to change; sign in first"));
    AuditNote.about(person.name());
    signIns.confirm(person.name(), storable(given.current()), request.getRemoteAddr());
    accounts.changePassword(person.name(), given.password());
    firstSignIn.passwordChanged(person.name());
    cookie.give(request, response, signIns.open(person.name()));
    return session(person.name(), person.role(), false);
  }

  /** A text that the database can be asked for; it takes no NUL. */
  private static String storable(@Nullable String text) {
    return text == null ? "" : text.replace('\0', ' ');
  }
}
