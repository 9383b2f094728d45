package longthread.reader;

/** A source that cannot be reached or read; the message says why. */
public final class UnreadableSourceException extends Exception {
  private static final long serialVersionUID = 1;

  UnreadableSourceException(String message, Throwable cause) {
    super(message, cause);
  }

  UnreadableSourceException(String message) {
    super(message);
  }
}
