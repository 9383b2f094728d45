package longthread.service.web;

import jakarta.servlet.FilterChain;
import jakarta.servlet.ReadListener;
import jakarta.servlet.ServletException;
import jakarta.servlet.ServletInputStream;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletRequestWrapper;
import jakarta.servlet.http.HttpServletResponse;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.nio.charset.StandardCharsets;
import org.springframework.core.Ordered;
import org.springframework.core.annotation.Order;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Component;
import org.springframework.web.filter.OncePerRequestFilter;

/**
 * Bounds the bodies of all calls but those of the intake, which has limits of its own: in size and
 * in the time they take to arrive.
 */
@Component
@Order(Ordered.HIGHEST_PRECEDENCE + 30)
class BodyLimitFilter extends OncePerRequestFilter {
  private static final long MAX_BYTES = 8 << 20;

  private final ProblemWriter problems;

  BodyLimitFilter(ProblemWriter problems) {
    this.problems = problems;
  }

  @Override
  protected boolean shouldNotFilter(HttpServletRequest request) {
    String path = request.getRequestURI();
    return request.getMethod().equals("GET")
        || path.equals("/")
        || path.startsWith("/api/v1/lineage");
  }

  @Override
  protected void doFilterInternal(
      HttpServletRequest request, HttpServletResponse response, FilterChain chain)
      throws ServletException, IOException {
    if (request.getContentLengthLong() > MAX_BYTES) {
      problems.write(request, response, tooLarge());
    } else {
      chain.doFilter(new Limited(request), response);
    }
  }

  private static ProblemException tooLarge() {
    return new ProblemException(
        HttpStatus.CONTENT_TOO_LARGE,
        "too-large",
        "The body is too large",
        "the body has more than " + MAX_BYTES + " bytes; send less at once");
  }

  private static final class Limited extends HttpServletRequestWrapper {
    Limited(HttpServletRequest request) {
      super(request);
    }

    @Override
    public ServletInputStream getInputStream() throws IOException {
      return new LimitedStream(super.getInputStream());
    }

    @Override
    public BufferedReader getReader() throws IOException {
      return new BufferedReader(new InputStreamReader(getInputStream(), StandardCharsets.UTF_8));
    }
  }

  private static final class LimitedStream extends ServletInputStream {
    private final ServletInputStream in;
    private final SlowBody time = new SlowBody();
    private long bytes;

    LimitedStream(ServletInputStream in) {
      this.in = in;
    }

    @Override
    public int read() throws IOException {
      int one = in.read();
      arrived(one < 0 ? 0 : 1);
      return one;
    }

    @Override
    public int read(byte[] into, int from, int most) throws IOException {
      int n = in.read(into, from, most);
      arrived(Math.max(0, n));
      return n;
    }

    private void arrived(int n) {
      bytes += n;
      if (bytes > MAX_BYTES) {
        throw tooLarge();
      }
      time.check(bytes);
    }

    @Override
    public boolean isFinished() {
      return in.isFinished();
    }

    @Override
    public boolean isReady() {
      return in.isReady();
    }

    @Override
    public void setReadListener(ReadListener listener) {
      in.setReadListener(listener);
    }
  }
}
