package longthread.service.access;

import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.util.Optional;
import longthread.service.web.ProblemException;
import longthread.service.web.ProblemWriter;
import org.springframework.dao.DataAccessException;
import org.springframework.http.HttpHeaders;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.transaction.TransactionException;
import org.springframework.web.filter.OncePerRequestFilter;

/** Lets in whoever shows a known bearer key. Not a bean, or it would be registered twice. */
final class BearerFilter extends OncePerRequestFilter {
  private static final String PREFIX = "bearer ";

  private final Keys keys;
  private final CallerLimits limits;
  private final ProblemWriter problems;

  BearerFilter(Keys keys, CallerLimits limits, ProblemWriter problems) {
    this.keys = keys;
    this.limits = limits;
    this.problems = problems;
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
      Optional<Keys.Holder> holder;
      try {
        holder = keys.holderOf(token(request));
      } catch (DataAccessException | TransactionException e) {
        // Whether the key is good cannot be known now.
        problems.write(request, response, ProblemException.databaseUnreachable());
        return;
      }
      holder.ifPresent(
          h ->
              SecurityContextHolder.getContext()
                  .setAuthentication(Role.authentication(h.name(), h.held())));
      if (holder.isPresent()) {
        limits.apply(holder.get().held(), () -> chain.doFilter(request, response));
        return;
      }
    }
    chain.doFilter(request, response);
  }
}
