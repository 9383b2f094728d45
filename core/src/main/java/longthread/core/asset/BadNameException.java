package longthread.core.asset;

/** A name or reference that cannot be one; the message says what is wrong with it. */
public final class BadNameException extends IllegalArgumentException {
  private static final long serialVersionUID = 1;

  public BadNameException(String message) {
    super(message);
  }
}
