package longthread.service.access;

import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.security.core.Authentication;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.web.filter.OncePerRequestFilter;

/**
 * Logs who changed something, and whose calls were refused. Events sent are not logged here: the
 * intake lists them. Not a bean, see {@link BearerFilter}.
 */
final class AccessLogFilter extends OncePerRequestFilter {
  private static final Logger LOG = LoggerFactory.getLogger(AccessLogFilter.class);

  @Override
  protected void doFilterInternal(
      HttpServletRequest request, HttpServletResponse response, FilterChain chain)
      throws ServletException, IOException {
    chain.doFilter(request, response);
    int status = response.getStatus();
    String path = request.getRequestURI();
    if (status == 401 || status == 403 || status == 429) {
      LOG.warn(
          "refused with {}: {} {} by {} from {}",
          status,
          request.getMethod(),
          path,
          who(),
          request.getRemoteAddr());
    } else if (status < 400 && isChange(request.getMethod(), path)) {
      LOG.info(
          "{} {} by {} from {}: {}",
          request.getMethod(),
          path,
          who(),
          request.getRemoteAddr(),
          status);
    }
  }

  /** Whether a call changes what the service keeps; the two posts that only ask do not. */
  private static boolean isChange(String method, String path) {
    boolean asks =
        method.equals("GET")
            || method.equals("HEAD")
            || method.equals("OPTIONS")
            || path.startsWith("/api/v1/impact")
            || path.startsWith("/api/v1/sql");
    return !asks && path.startsWith("/api/") && !path.startsWith("/api/v1/lineage");
  }

  private static String who() {
    Authentication who = SecurityContextHolder.getContext().getAuthentication();
    return who == null ? "nobody signed in" : who.getName();
  }
}
