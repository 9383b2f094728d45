package longthread.reader;

/** A source that cannot be reached or read; the message says why. */
public final class UnreadableSourceException extends Exception {
  private static final long serialVersionUID = 1;

  public UnreadableSourceException(String message, Throwable cause) {
    super(message, cause);
  }

  public UnreadableSourceException(String message) {
    super(message);
  }
}
