package longthread.client;

import org.jspecify.annotations.Nullable;
import tools.jackson.databind.JsonNode;

/** The service did not do what was asked; carries the exit code that the case has. */
public final class ServiceException extends RuntimeException {
  private static final long serialVersionUID = 1;

  public static final int FINDING = 1;
  public static final int WRONG_USAGE = 2;
  public static final int NOT_FOUND = 3;
  public static final int REFUSED = 4;
  public static final int NOT_REACHABLE = 5;

  private static final int TOO_MANY = 429;
  private static final int BUSY = 503;

  private final int exitCode;
  private final boolean retryable;
  private final boolean ambiguous;
  private final String type;

  public ServiceException(int exitCode, String message) {
    this(exitCode, message, exitCode == NOT_REACHABLE, false, "");
  }

  private ServiceException(
      int exitCode, String message, boolean retryable, boolean ambiguous, String type) {
    super(message);
    this.type = type;
    this.ambiguous = ambiguous;
    this.exitCode = exitCode;
    this.retryable = retryable;
  }

  /** What a status and its problem document amount to. */
  static ServiceException of(int status, @Nullable JsonNode problem) {
    String detail = problem == null ? "" : problem.path("detail").stringValue("");
    String message =
        (detail.isEmpty() ? "the service answered " + status : detail) + faults(problem);
    // A conflict with several candidates is a name in doubt; any other is a refusal.
    boolean isAmbiguous = status == 409 && problem != null && problem.has("candidates");
    int code = status == 404 || isAmbiguous ? NOT_FOUND : REFUSED;
    String type = problem == null ? "" : problem.path("type").stringValue("");
    return new ServiceException(
        code,
        message,
        status == BUSY || status == TOO_MANY,
        isAmbiguous,
        type.substring(type.lastIndexOf('/') + 1));
  }

  /** Each fault of a document that was sent, with its place in it. */
  private static String faults(@Nullable JsonNode problem) {
    var text = new StringBuilder();
    if (problem != null) {
      for (JsonNode fault : problem.path("faults")) {
        text.append("\n  ").append(fault.path("pointer").stringValue(""));
        text.append("  ").append(fault.path("detail").stringValue(""));
      }
    }
    return text.toString();
  }

  /** Whether the same request may well succeed in a moment. */
  boolean isRetryable() {
    return retryable;
  }

  /** Whether a name may mean several things. */
  boolean isAmbiguous() {
    return ambiguous;
  }

  /** The last word of the type of the service's problem, such as no-lineage; empty without one. */
  String type() {
    return type;
  }

  public int exitCode() {
    return exitCode;
  }
}
