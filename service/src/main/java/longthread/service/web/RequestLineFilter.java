package longthread.service.web;

import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.net.URLDecoder;
import java.nio.ByteBuffer;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.StandardCharsets;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;
import org.springframework.core.Ordered;
import org.springframework.core.annotation.Order;
import org.springframework.stereotype.Component;
import org.springframework.web.filter.OncePerRequestFilter;

/**
 * Refuses a query string that has no meaning (RFC 3986 section 2.1), before any part of the service
 * reads a parameter: the first to read it would fail, each in its own way.
 *
 * <p>Takes time linear in the length of the query string.
 */
@Component
@Order(Ordered.HIGHEST_PRECEDENCE + 10)
class RequestLineFilter extends OncePerRequestFilter {
  // The decoder would take a sign for a digit.
  private static final Pattern WELL_FORMED = Pattern.compile("(?:[^%]|%[0-9A-Fa-f]{2})*+");

  private final ProblemWriter problems;

  RequestLineFilter(ProblemWriter problems) {
    this.problems = problems;
  }

  @Override
  protected void doFilterInternal(
      HttpServletRequest request, HttpServletResponse response, FilterChain chain)
      throws ServletException, IOException {
    String fault = fault(request.getQueryString());
    if (fault == null) {
      chain.doFilter(request, response);
    } else {
      problems.write(request, response, ProblemException.badRequest("bad-query", fault));
    }
  }

  private static @Nullable String fault(@Nullable String query) {
    if (query == null || (query.indexOf('%') < 0 && query.indexOf('\0') < 0)) {
      return null;
    }
    if (!WELL_FORMED.matcher(query).matches()) {
      return "a '%' in the query string is not followed by two hexadecimal digits; write a percent"
          + " sign as %25";
    }
    String decoded;
    try {
      // As single bytes first: what is no UTF-8 must be seen, not replaced.
      decoded = URLDecoder.decode(query, StandardCharsets.ISO_8859_1);
      StandardCharsets.UTF_8
          .newDecoder()
          .decode(ByteBuffer.wrap(decoded.getBytes(StandardCharsets.ISO_8859_1)));
    } catch (CharacterCodingException e) {
      return "the query string is not UTF-8; encode its characters as UTF-8, then as %XX";
    }
    return decoded.indexOf('\0') < 0
        ? null
        : "the query string holds the character NUL (%00), which no name has; leave it out";
  }
}
