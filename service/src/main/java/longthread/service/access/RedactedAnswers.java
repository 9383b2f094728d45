package longthread.service.access;

import longthread.service.live.Sight;
import org.jspecify.annotations.Nullable;
import org.springframework.core.MethodParameter;
import org.springframework.core.io.Resource;
import org.springframework.http.MediaType;
import org.springframework.http.ProblemDetail;
import org.springframework.http.converter.HttpMessageConverter;
import org.springframework.http.server.ServerHttpRequest;
import org.springframework.http.server.ServerHttpResponse;
import org.springframework.web.bind.annotation.RestControllerAdvice;
import org.springframework.web.servlet.mvc.method.annotation.ResponseBodyAdvice;
import tools.jackson.databind.json.JsonMapper;

/** Every answer to somebody who does not see everything is redacted before it is written. */
@RestControllerAdvice
class RedactedAnswers implements ResponseBodyAdvice<Object> {
  private final Redaction redaction;
  private final JsonMapper json;

  RedactedAnswers(Redaction redaction, JsonMapper json) {
    this.redaction = redaction;
    this.json = json;
  }

  @Override
  public boolean supports(
      MethodParameter returned, Class<? extends HttpMessageConverter<?>> converter) {
    return true;
  }

  @Override
  public @Nullable Object beforeBodyWrite(
      @Nullable Object body,
      MethodParameter returned,
      MediaType type,
      Class<? extends HttpMessageConverter<?>> converter,
      ServerHttpRequest request,
      ServerHttpResponse response) {
    boolean isNeutral =
        LimitedCalls.of(request.getMethod().name(), request.getURI().getPath())
            .filter(rule -> rule == LimitedCalls.Rule.NEUTRAL)
            .isPresent();
    // A problem names what the caller named: were a hidden name replaced in it and an unknown one
    // not, the caller could try which names there are.
    boolean isProblem = body instanceof ProblemDetail;
    if (body == null
        || Sight.now().isWhole()
        || isNeutral
        || isProblem
        || body instanceof Resource) {
      return body;
    }
    if (body instanceof String text) {
      return redaction.redact(text);
    }
    if (body instanceof byte[]) {
      throw new IllegalStateException("bytes cannot be redacted: " + returned);
    }
    return redaction.redact(json.valueToTree(body));
  }
}
