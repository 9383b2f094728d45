package longthread.core.snapshot;

/** A file that is no snapshot, or one that this version cannot read. */
public final class BadSnapshotException extends Exception {
  private static final long serialVersionUID = 1;

  BadSnapshotException(String message) {
    super(message);
  }
}
