package longthread.core.change;

import java.util.List;

/** A document that cannot be read; each fault says where and what. */
public final class BadDocumentException extends Exception {
  private static final long serialVersionUID = 1;

  private final transient List<String> faults;

  public BadDocumentException(List<String> faults) {
    super(String.join("; ", faults));
    this.faults = List.copyOf(faults);
  }

  public List<String> faults() {
    return faults;
  }
}
