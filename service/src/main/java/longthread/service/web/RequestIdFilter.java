package longthread.service.web;

import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.util.HexFormat;
import java.util.concurrent.ThreadLocalRandom;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;
import org.slf4j.MDC;
import org.springframework.core.Ordered;
import org.springframework.core.annotation.Order;
import org.springframework.stereotype.Component;
import org.springframework.web.filter.OncePerRequestFilter;

/**
 * Gives each request an id, that of its caller if it brings a usable one: it is in every line of
 * the log that the request leads to, and in the answer.
 */
@Component
@Order(Ordered.HIGHEST_PRECEDENCE)
class RequestIdFilter extends OncePerRequestFilter {
  /** The header of requests and answers. */
  static final String HEADER = "X-Request-Id";

  /** The word under which lines of the log carry it. */
  static final String KEY = "request";

  private static final Pattern USABLE = Pattern.compile("[A-Za-z0-9._:-]{1,64}");

  @Override
  protected void doFilterInternal(
      HttpServletRequest request, HttpServletResponse response, FilterChain chain)
      throws ServletException, IOException {
    String id = id(request.getHeader(HEADER));
    MDC.put(KEY, id);
    response.setHeader(HEADER, id);
    try {
      chain.doFilter(request, response);
    } finally {
      MDC.remove(KEY);
    }
  }

  private static String id(@Nullable String theirs) {
    return theirs != null && USABLE.matcher(theirs).matches()
        ? theirs
        : HexFormat.of().toHexDigits(ThreadLocalRandom.current().nextLong());
  }
}
