package longthread.service.intake;

import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.util.Set;
import longthread.service.access.SendingKeys;
import org.springframework.beans.factory.annotation.Qualifier;
import org.springframework.core.Ordered;
import org.springframework.core.annotation.Order;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.stereotype.Component;
import org.springframework.web.filter.OncePerRequestFilter;
import org.springframework.web.filter.ServerHttpObservationFilter;
import org.springframework.web.servlet.HandlerExceptionResolver;
import tools.jackson.databind.json.JsonMapper;

/**
 * Hands a post with a key that may send to the intake, before the chain of filters and handlers
 * that every other request passes: that chain costs more than taking the event in. Whatever is not
 * plainly such a post takes the usual way and gets its error there.
 */
@Component
@Order(Ordered.HIGHEST_PRECEDENCE + 20)
class IntakeFastPathFilter extends OncePerRequestFilter {
  private static final Set<String> SINGLE = Set.of("/api/v1/lineage", "/api/v1/lineage/", "/");
  private static final Set<String> BATCH =
      Set.of("/api/v1/lineage/batch", "/api/v1/lineage/batch/");

  private final IntakeController intake;
  private final SendingKeys keys;
  private final JsonMapper json;
  private final HandlerExceptionResolver problems;

  IntakeFastPathFilter(
      IntakeController intake,
      SendingKeys keys,
      JsonMapper json,
      @Qualifier("handlerExceptionResolver") HandlerExceptionResolver problems) {
    this.intake = intake;
    this.keys = keys;
    this.json = json;
    this.problems = problems;
  }

  @Override
  protected boolean shouldNotFilter(HttpServletRequest request) {
    String path = request.getRequestURI();
    return !request.getMethod().equals("POST")
        || !(SINGLE.contains(path) || BATCH.contains(path))
        || !keys.admits(request);
  }

  @Override
  protected void doFilterInternal(
      HttpServletRequest request, HttpServletResponse response, FilterChain chain)
      throws ServletException, IOException {
    boolean isSingle = SINGLE.contains(request.getRequestURI());
    // Else the metrics of requests would not know which call this is.
    ServerHttpObservationFilter.findObservationContext(request)
        .ifPresent(c -> c.setPathPattern(isSingle ? "/api/v1/lineage" : "/api/v1/lineage/batch"));
    try {
      write(isSingle ? intake.one(request) : intake.batch(request), response);
    } catch (RuntimeException e) {
      problems.resolveException(request, response, null, e);
    }
  }

  private void write(ResponseEntity<?> answer, HttpServletResponse response) throws IOException {
    byte[] body = json.writeValueAsBytes(answer.getBody());
    response.setStatus(answer.getStatusCode().value());
    answer.getHeaders().forEach((name, values) -> response.setHeader(name, values.get(0)));
    response.setContentType(MediaType.APPLICATION_JSON_VALUE);
    response.setContentLength(body.length);
    response.getOutputStream().write(body);
  }
}
