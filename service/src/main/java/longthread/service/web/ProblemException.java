package longthread.service.web;

import java.util.LinkedHashMap;
import java.util.Map;
import org.jspecify.annotations.Nullable;
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
  private long retryAfter = 1;

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

  /** As PostgreSQL words it, in whatever it could not write. */
  private static final String DISK_FULL = "No space left on device";

  /** Whether the database failed for want of room on its disk. */
  public static boolean isDiskFull(Throwable fault) {
    for (Throwable cause = fault; cause != null; cause = cause.getCause()) {
      if (String.valueOf(cause.getMessage()).contains(DISK_FULL)) {
        return true;
      }
    }
    return false;
  }

  /** What every call that writes gets while the database has no room. */
  public static ProblemException diskFull() {
    return new ProblemException(
        HttpStatus.SERVICE_UNAVAILABLE,
        "disk-full",
        "The disk of the database is full",
        "nothing was taken in or changed; free some room where the database keeps its data, then"
            + " send it again");
  }

  /** What a call gets that the service could answer later, but not now. */
  public static ProblemException busy(String type, String detail) {
    return new ProblemException(
        HttpStatus.SERVICE_UNAVAILABLE, type, "The service is busy", detail);
  }

  /** After how many seconds to try again, for statuses that say so; 1 unless it is set. */
  public ProblemException retryAfter(long seconds) {
    retryAfter = seconds;
    return this;
  }

  /** After how many seconds to try again; null if that would not help (RFC 9110 section 10.2.3). */
  public @Nullable Long retryAfter() {
    return status == HttpStatus.SERVICE_UNAVAILABLE || status == HttpStatus.TOO_MANY_REQUESTS
        ? retryAfter
        : null;
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
