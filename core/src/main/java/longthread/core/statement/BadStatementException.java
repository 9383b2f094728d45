package longthread.core.statement;

import java.util.List;

/** A statement that cannot be taken in; carries every fault that was found. */
public final class BadStatementException extends Exception {
  private static final long serialVersionUID = 1;

  /**
   * One thing that is wrong.
   *
   * @param pointer where it stands (RFC 6901)
   * @param detail what is wrong and what to do
   */
  public record Fault(String pointer, String detail) {}

  private final transient List<Fault> faults;

  BadStatementException(List<Fault> faults) {
    super(words(faults));
    this.faults = List.copyOf(faults);
  }

  private static String words(List<Fault> faults) {
    Fault first = faults.get(0);
    String more = faults.size() == 1 ? "" : " (and " + (faults.size() - 1) + " more faults)";
    return (first.pointer().isEmpty() ? "" : first.pointer() + ": ") + first.detail() + more;
  }

  public List<Fault> faults() {
    return faults;
  }
}
