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
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.transaction.TransactionException;
import org.springframework.web.filter.OncePerRequestFilter;

/** Lets in whoever shows the cookie of an open session. Not a bean, see {@link BearerFilter}. */
final class SessionFilter extends OncePerRequestFilter {
  private final SignIns signIns;
  private final CallerLimits limits;
  private final ProblemWriter problems;

  SessionFilter(SignIns signIns, CallerLimits limits, ProblemWriter problems) {
    this.signIns = signIns;
    this.limits = limits;
    this.problems = problems;
  }

  /** The console's own files are for everybody, so nothing is looked up for them. */
  @Override
  protected boolean shouldNotFilter(HttpServletRequest request) {
    String path = request.getRequestURI();
    return !path.startsWith("/api/") && !path.startsWith("/metrics");
  }

  @Override
  protected void doFilterInternal(
      HttpServletRequest request, HttpServletResponse response, FilterChain chain)
      throws ServletException, IOException {
    Optional<String> token = SessionCookie.token(request);
    if (token.isPresent()) {
      Optional<SignIns.Person> person;
      try {
        person = signIns.personOf(token.get());
      } catch (DataAccessException | TransactionException e) {
        // Whether the session is open cannot be known now.
        problems.write(request, response, ProblemException.databaseUnreachable());
        return;
      }
      person.ifPresent(
          p ->
              SecurityContextHolder.getContext()
                  .setAuthentication(Role.authentication(p.name(), p.held())));
      if (person.isPresent()) {
        limits.apply(person.get().held(), () -> chain.doFilter(request, response));
        return;
      }
    }
    chain.doFilter(request, response);
  }
}
