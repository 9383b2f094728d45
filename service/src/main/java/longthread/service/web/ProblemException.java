package longthread.service.web;

import java.util.LinkedHashMap;
import java.util.Map;
import org.springframework.http.HttpStatus;
import org.springframework.http.ProblemDetail;

/**
 * A request that cannot be answered, as the problem document the caller gets (RFC 9457).
 *
 * <p>The type is stable; the detail says what to do.
 */
public final class ProblemException extends RuntimeException {
  private static final long serialVersionUID = 1;

  private final HttpStatus status;
  private final String type;
  private final String title;
  private final transient Map<String, Object> members = new LinkedHashMap<>();

  public ProblemException(HttpStatus status, String type, String title, String detail) {
    super(detail);
    this.status = status;
    this.type = type;
    this.title = title;
  }

  /** A request whose parameters or body cannot be used. */
  public static ProblemException badRequest(String type, String detail) {
    return new ProblemException(
        HttpStatus.BAD_REQUEST, type, "The request cannot be understood", detail);
  }

  /** What every call that needs the database gets while it does not answer. */
  public static ProblemException databaseUnreachable() {
    return new ProblemException(
        HttpStatus.SERVICE_UNAVAILABLE,
        "database-unreachable",
        "The database does not answer",
        "nothing was taken in or changed; try again in a moment");
  }

  /** Adds a member beside the standard ones (RFC 9457 section 3.2). */
  public ProblemException with(String member, Object value) {
    members.put(member, value);
    return this;
  }

  public HttpStatus status() {
    return status;
  }

  /** The problem as the body of an answer. */
  public ProblemDetail detail() {
    ProblemDetail detail = ProblemDetail.forStatusAndDetail(status, getMessage());
    detail.setType(java.net.URI.create("/problems/" + type));
    detail.setTitle(title);
    members.forEach(detail::setProperty);
    return detail;
  }
}
