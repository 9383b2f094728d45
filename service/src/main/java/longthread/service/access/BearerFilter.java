package longthread.service.access;

import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.util.List;
import java.util.Optional;
import org.springframework.http.HttpHeaders;
import org.springframework.security.authentication.UsernamePasswordAuthenticationToken;
import org.springframework.security.core.authority.SimpleGrantedAuthority;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.web.filter.OncePerRequestFilter;

/** Lets in whoever shows a known bearer key. Not a bean, or it would be registered twice. */
final class BearerFilter extends OncePerRequestFilter {
  private static final String PREFIX = "bearer ";

  private final Keys keys;

  BearerFilter(Keys keys) {
    this.keys = keys;
  }

  static boolean carriesKey(HttpServletRequest request) {
    String header = request.getHeader(HttpHeaders.AUTHORIZATION);
    return header != null && header.regionMatches(true, 0, PREFIX, 0, PREFIX.length());
  }

  /** The key that a request carries. */
  static String token(HttpServletRequest request) {
    return request.getHeader(HttpHeaders.AUTHORIZATION).substring(PREFIX.length()).strip();
  }

  @Override
  protected void doFilterInternal(
      HttpServletRequest request, HttpServletResponse response, FilterChain chain)
      throws ServletException, IOException {
    if (carriesKey(request)) {
      Optional<Keys.Holder> holder = keys.holderOf(token(request));
      holder.ifPresent(
          h ->
              SecurityContextHolder.getContext()
                  .setAuthentication(
                      UsernamePasswordAuthenticationToken.authenticated(
                          h.name(),
                          "",
                          List.of(new SimpleGrantedAuthority("ROLE_" + h.role().name())))));
    }
    chain.doFilter(request, response);
  }
}
