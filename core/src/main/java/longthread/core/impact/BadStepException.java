package longthread.core.impact;

/** A planned step that cannot be judged. */
public final class BadStepException extends Exception {
  private static final long serialVersionUID = 1;

  /** What is wrong with it. */
  public enum Reason {
    UNKNOWN_CHANGE,
    NO_COLUMN_AND_TYPE,
    NO_LINEAGE
  }

  private final Reason reason;

  BadStepException(Reason reason, String message) {
    super(message);
    this.reason = reason;
  }

  public Reason reason() {
    return reason;
  }
}
