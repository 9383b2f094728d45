package longthread.service.web;

import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.net.URI;
import org.springframework.http.HttpStatus;
import org.springframework.http.MediaType;
import org.springframework.http.ProblemDetail;
import org.springframework.stereotype.Component;
import tools.jackson.databind.json.JsonMapper;

/** Writes problem documents for requests that are refused before they reach a controller. */
@Component
public class ProblemWriter {
  private final JsonMapper json;

  ProblemWriter(JsonMapper json) {
    this.json = json;
  }

  /** Answers a request with a problem. */
  public void write(
      HttpServletRequest request, HttpServletResponse response, ProblemException problem)
      throws IOException {
    ProblemDetail detail = problem.detail();
    try {
      detail.setInstance(URI.create(request.getRequestURI()));
    } catch (IllegalArgumentException e) {
      // A path that is no URI is not repeated.
      detail.setInstance(null);
    }
    response.setStatus(problem.status().value());
    response.setContentType(MediaType.APPLICATION_PROBLEM_JSON_VALUE);
    if (problem.status() == HttpStatus.UNAUTHORIZED) {
      response.setHeader("WWW-Authenticate", "Bearer");
    }
    if (problem.retryAfter() != null) {
      response.setHeader("Retry-After", problem.retryAfter().toString());
    }
    response.getOutputStream().write(json.writeValueAsBytes(detail));
  }
}
