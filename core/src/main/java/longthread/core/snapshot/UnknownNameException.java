package longthread.core.snapshot;

import java.util.List;

/** A name that a snapshot has nothing for, or more than one thing. */
public final class UnknownNameException extends Exception {
  private static final long serialVersionUID = 1;
  private static final int MAX_CANDIDATES = 20;

  private final boolean ambiguous;

  private UnknownNameException(boolean ambiguous, String message) {
    super(message);
    this.ambiguous = ambiguous;
  }

  static UnknownNameException unknown(String name) {
    return new UnknownNameException(false, "'" + name + "' is not in the snapshot");
  }

  static UnknownNameException unknownColumn(String asset, String column) {
    return new UnknownNameException(false, asset + " has no column '" + column + "'");
  }

  static UnknownNameException ambiguous(String name, List<String> candidates) {
    return new UnknownNameException(
        true,
        "'"
            + name
            + "' may be any of "
            + candidates.size()
            + "; write more of its beginning: "
            + String.join(
                ", ", candidates.subList(0, Math.min(MAX_CANDIDATES, candidates.size()))));
  }

  /** Whether it means several things, not none. */
  public boolean isAmbiguous() {
    return ambiguous;
  }
}
