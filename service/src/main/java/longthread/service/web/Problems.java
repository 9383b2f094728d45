package longthread.service.web;

import jakarta.servlet.http.HttpServletRequest;
import java.net.URI;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import longthread.core.asset.BadNameException;
import org.apache.tomcat.util.http.InvalidParameterException;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.slf4j.MDC;
import org.springframework.dao.DataAccessResourceFailureException;
import org.springframework.dao.RecoverableDataAccessException;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpStatus;
import org.springframework.http.HttpStatusCode;
import org.springframework.http.MediaType;
import org.springframework.http.ProblemDetail;
import org.springframework.http.ResponseEntity;
import org.springframework.http.converter.HttpMessageNotReadableException;
import org.springframework.transaction.CannotCreateTransactionException;
import org.springframework.web.bind.MissingServletRequestParameterException;
import org.springframework.web.bind.annotation.ExceptionHandler;
import org.springframework.web.bind.annotation.RestControllerAdvice;
import org.springframework.web.context.request.WebRequest;
import org.springframework.web.method.annotation.MethodArgumentTypeMismatchException;
import org.springframework.web.servlet.mvc.method.annotation.ResponseEntityExceptionHandler;

/** Turns whatever goes wrong into problem documents. */
@RestControllerAdvice
class Problems extends ResponseEntityExceptionHandler {
  private static final Logger LOG = LoggerFactory.getLogger(Problems.class);

  /** As the pool of connections words it when it had none to give: all that it has are active. */
  private static final Pattern POOL_STATE = Pattern.compile("total=(\\d+), active=\\1\\b");

  @ExceptionHandler
  ResponseEntity<ProblemDetail> problem(ProblemException e, HttpServletRequest request) {
    ProblemDetail detail = e.detail();
    detail.setInstance(URI.create(request.getRequestURI()));
    var answer = ResponseEntity.status(e.status()).contentType(MediaType.APPLICATION_PROBLEM_JSON);
    if (e.retryAfter() != null) {
      answer.header(HttpHeaders.RETRY_AFTER, e.retryAfter().toString());
    }
    return answer.body(detail);
  }

  @ExceptionHandler
  ResponseEntity<ProblemDetail> badName(BadNameException e, HttpServletRequest request) {
    return problem(ProblemException.badRequest("bad-reference", e.getMessage()), request);
  }

  @ExceptionHandler({
    CannotCreateTransactionException.class,
    DataAccessResourceFailureException.class,
    RecoverableDataAccessException.class
  })
  ResponseEntity<ProblemDetail> databaseUnreachable(Exception e, HttpServletRequest request) {
    if (ProblemException.isDiskFull(e)) {
      LOG.error("the disk of the database is full");
      return problem(ProblemException.diskFull(), request);
    }
    if (isPoolInUse(e)) {
      LOG.warn("all connections to the database are in use");
      return problem(
          ProblemException.busy(
              "connections-busy",
              "all connections to the database are in use; try again in a moment, with fewer"
                  + " calls at once"),
          request);
    }
    LOG.warn("the database did not answer: {}", String.valueOf(e.getMessage()));
    return problem(ProblemException.databaseUnreachable(), request);
  }

  /** Whether no connection was free, while all of them were in use: the database is there. */
  private static boolean isPoolInUse(Throwable e) {
    for (Throwable cause = e; cause != null; cause = cause.getCause()) {
      Matcher state = POOL_STATE.matcher(String.valueOf(cause.getMessage()));
      if (state.find()) {
        return !state.group(1).equals("0");
      }
    }
    return false;
  }

  @ExceptionHandler
  ResponseEntity<ProblemDetail> badParameter(
      InvalidParameterException e, HttpServletRequest request) {
    return problem(
        ProblemException.badRequest(
            "bad-query", "a parameter is not well encoded; encode it as UTF-8, then as %XX"),
        request);
  }

  @ExceptionHandler
  ResponseEntity<ProblemDetail> unexpected(Exception e, HttpServletRequest request) {
    if (ProblemException.isDiskFull(e)) {
      LOG.error("the disk of the database is full");
      return problem(ProblemException.diskFull(), request);
    }
    String id = String.valueOf(MDC.get(RequestIdFilter.KEY));
    LOG.error("request {} {} failed", request.getMethod(), request.getRequestURI(), e);
    return problem(
        new ProblemException(
                HttpStatus.INTERNAL_SERVER_ERROR,
                "unexpected",
                "The service failed on this request",
                "this is a fault of the service; its log has the reason under the request id " + id)
            .with("requestId", id),
        request);
  }

  @Override
  protected ResponseEntity<Object> handleMissingServletRequestParameter(
      MissingServletRequestParameterException e,
      HttpHeaders headers,
      HttpStatusCode status,
      WebRequest request) {
    String detail = "the query parameter '" + e.getParameterName() + "' is missing; add it";
    return plain(ProblemException.badRequest("missing-parameter", detail));
  }

  @Override
  protected ResponseEntity<Object> handleTypeMismatch(
      org.springframework.beans.TypeMismatchException e,
      HttpHeaders headers,
      HttpStatusCode status,
      WebRequest request) {
    String name = e instanceof MethodArgumentTypeMismatchException m ? m.getName() : "a value";
    Class<?> wanted = e.getRequiredType();
    String detail =
        "'"
            + e.getValue()
            + "' cannot be used for the parameter '"
            + name
            + "'; it takes "
            + (wanted == null ? "another type" : wanted.getSimpleName().toLowerCase());
    return plain(ProblemException.badRequest("bad-parameter", detail));
  }

  @Override
  protected ResponseEntity<Object> handleHttpMessageNotReadable(
      HttpMessageNotReadableException e,
      HttpHeaders headers,
      HttpStatusCode status,
      WebRequest request) {
    return plain(
        ProblemException.badRequest(
            "bad-body", "the body is not the JSON this call takes; see /api/v1/openapi.json"));
  }

  private static ResponseEntity<Object> plain(ProblemException e) {
    return ResponseEntity.status(e.status())
        .contentType(MediaType.APPLICATION_PROBLEM_JSON)
        .body(e.detail());
  }
}
