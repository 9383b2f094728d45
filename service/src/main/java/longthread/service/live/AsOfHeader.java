package longthread.service.live;

import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import org.springframework.stereotype.Component;
import org.springframework.web.filter.OncePerRequestFilter;

/**
 * Says on every answer to a question how old what it rests on is: the moment at which the database
 * was last asked for changes. While the database is away, answers go on from memory and this time
 * stands still.
 */
@Component
class AsOfHeader extends OncePerRequestFilter {
  static final String NAME = "Longthread-As-Of";

  private final GraphFollower follower;

  AsOfHeader(GraphFollower follower) {
    this.follower = follower;
  }

  @Override
  protected boolean shouldNotFilter(HttpServletRequest request) {
    return !request.getMethod().equals("GET") || !request.getRequestURI().startsWith("/api/v1/");
  }

  @Override
  protected void doFilterInternal(
      HttpServletRequest request, HttpServletResponse response, FilterChain chain)
      throws ServletException, IOException {
    response.setHeader(NAME, follower.followedAt().toString());
    chain.doFilter(request, response);
  }
}
