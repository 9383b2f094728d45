package longthread.service.access;

import jakarta.servlet.http.Cookie;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.time.Duration;
import java.util.Optional;
import longthread.service.web.PublicAddress;
import org.springframework.http.HttpHeaders;
import org.springframework.http.ResponseCookie;
import org.springframework.stereotype.Component;

/** The cookie of who is signed in to the console: out of reach of scripts, for this site only. */
@Component
class SessionCookie {
  private static final String NAME = "longthread_session";

  private final PublicAddress address;

  SessionCookie(PublicAddress address) {
    this.address = address;
  }

  static Optional<String> token(HttpServletRequest request) {
    if (request.getCookies() != null) {
      for (Cookie cookie : request.getCookies()) {
        if (cookie.getName().equals(NAME) && !cookie.getValue().isEmpty()) {
          return Optional.of(cookie.getValue());
        }
      }
    }
    return Optional.empty();
  }

  void give(HttpServletRequest request, HttpServletResponse response, String token) {
    write(request, response, token, Duration.ofSeconds(-1));
  }

  void takeBack(HttpServletRequest request, HttpServletResponse response) {
    write(request, response, "", Duration.ZERO);
  }

  private void write(
      HttpServletRequest request, HttpServletResponse response, String value, Duration age) {
    ResponseCookie cookie =
        ResponseCookie.from(NAME, value)
            .httpOnly(true)
            .sameSite("Strict")
            .secure(address.isSecure(request))
            .path(address.path().isEmpty() ? "/" : address.path())
            .maxAge(age)
            .build();
    response.addHeader(HttpHeaders.SET_COOKIE, cookie.toString());
  }
}
