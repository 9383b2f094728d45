package longthread.service.access;

import io.swagger.v3.oas.annotations.Operation;
import jakarta.servlet.http.Cookie;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.net.URI;
import java.time.Duration;
import longthread.service.access.ProviderClient.ProviderException;
import longthread.service.audit.AuditLog;
import longthread.service.web.ProblemException;
import longthread.service.web.PublicAddress;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpStatus;
import org.springframework.http.ResponseCookie;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/**
 * Signing in at an OpenID Connect provider: the browser goes there and comes back; and the provider
 * says when it ended a session.
 */
@RestController
class ProviderController {
  static final String START = "/api/v1/session/provider";
  static final String BACK = "/api/v1/session/provider/back";
  static final String ENDED = "/api/v1/session/provider/ended";

  private static final Logger LOG = LoggerFactory.getLogger(ProviderController.class);
  private static final String COOKIE = "longthread_sign_in";
  private static final int MAX_TARGET = 2_000;

  private final ProviderSettings settings;
  private final ProviderSignIns signIns;
  private final SessionCookie cookie;
  private final PublicAddress address;
  private final AuditLog audit;

  ProviderController(
      ProviderSettings settings,
      ProviderSignIns signIns,
      SessionCookie cookie,
      PublicAddress address,
      AuditLog audit) {
    this.settings = settings;
    this.signIns = signIns;
    this.cookie = cookie;
    this.address = address;
    this.audit = audit;
  }

  private void checkIsSet() {
    if (!settings.isSet()) {
      throw new ProblemException(
          HttpStatus.NOT_FOUND,
          "no-provider",
          "No provider is set up",
          "people sign in with name and password here; see docs/access.md to set up a provider");
    }
  }

  private URI backAt(HttpServletRequest request) {
    return URI.create(address.base(request) + BACK);
  }

  @GetMapping(START)
  @Operation(
      operationId = "signInAtProvider",
      summary = "Send the browser to the OpenID Connect provider to sign in")
  void start(
      HttpServletRequest request,
      HttpServletResponse response,
      @RequestParam(defaultValue = "/") String target)
      throws IOException {
    checkIsSet();
    try {
      ProviderSignIns.Sent sent =
          signIns.start(backAt(request), within(target), request.getRemoteAddr());
      remember(request, response, sent.browser(), Duration.ofMinutes(10));
      response.sendRedirect(sent.to().toString());
    } catch (ProviderException e) {
      LOG.warn("{}", e.getMessage());
      refuse(request, response, ProviderSignIns.Refusal.FAILED, "");
    }
  }

  /** A page of this console; whatever leads elsewhere is its first page. */
  private static String within(String target) {
    boolean isHere =
        target.startsWith("/")
            && !target.startsWith("//")
            && !target.startsWith("/\\")
            && target.length() <= MAX_TARGET
            && target.chars().noneMatch(c -> c < ' ');
    return isHere ? target : "/";
  }

  @GetMapping(BACK)
  @Operation(
      operationId = "backFromProvider",
      summary = "Come back from the provider; opens a session and goes on to the console")
  void back(
      HttpServletRequest request,
      HttpServletResponse response,
      @RequestParam(required = false) @Nullable String code,
      @RequestParam(required = false) @Nullable String state,
      @RequestParam(required = false) @Nullable String error)
      throws IOException {
    checkIsSet();
    String browser = remembered(request);
    remember(request, response, "", Duration.ZERO);
    if (error != null) {
      refuse(request, response, ProviderSignIns.Refusal.CANCELLED, "");
      return;
    }
    try {
      ProviderSignIns.Back back =
          signIns.back(
              code == null ? "" : code, state == null ? "" : state, browser, backAt(request));
      SignIns.Person person = back.opened().person();
      audit.done(
          new AuditLog.Caller(person.name(), person.role().word(), false, request.getRemoteAddr()),
          "signIn",
          person.name(),
          "at the provider " + settings.issuer());
      cookie.give(request, response, back.opened().token());
      response.sendRedirect(address.base(request) + back.target());
    } catch (ProviderSignIns.RefusedException e) {
      refuse(request, response, e.refusal(), e.who());
    }
  }

  private void refuse(
      HttpServletRequest request,
      HttpServletResponse response,
      ProviderSignIns.Refusal refusal,
      String who)
      throws IOException {
    audit.refused(
        new AuditLog.Caller("", "", false, request.getRemoteAddr()),
        "signIn",
        who,
        "at the provider: " + refusal.word());
    response.sendRedirect(address.base(request) + "/?refused=" + refusal.word());
  }

  @PostMapping(path = ENDED, consumes = "application/x-www-form-urlencoded")
  @Operation(
      operationId = "endedAtProvider",
      summary = "Take the provider's signed word that sessions ended (back-channel logout)")
  void ended(
      HttpServletResponse response,
      @RequestParam(name = "logout_token", defaultValue = "") String token) {
    checkIsSet();
    response.setHeader("Cache-Control", "no-store");
    try {
      signIns.ended(token);
    } catch (ProviderException e) {
      LOG.warn("{}", e.getMessage());
      throw ProblemException.badRequest(
          "bad-logout-token", "the logout token is not one that this provider signed for us");
    }
  }

  /** Strict would not be sent when the provider leads back here. */
  private void remember(
      HttpServletRequest request, HttpServletResponse response, String value, Duration age) {
    ResponseCookie kept =
        ResponseCookie.from(COOKIE, value)
            .httpOnly(true)
            .sameSite("Lax")
            .secure(address.isSecure(request))
            .path(address.path() + START)
            .maxAge(age)
            .build();
    response.addHeader(HttpHeaders.SET_COOKIE, kept.toString());
  }

  private static String remembered(HttpServletRequest request) {
    if (request.getCookies() != null) {
      for (Cookie kept : request.getCookies()) {
        if (kept.getName().equals(COOKIE)) {
          return kept.getValue();
        }
      }
    }
    return "";
  }
}
