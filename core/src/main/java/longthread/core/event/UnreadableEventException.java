package longthread.core.event;

/** An event that cannot be taken in; carries a stable word for the reason and what to do. */
public final class UnreadableEventException extends Exception {
  private static final long serialVersionUID = 1;

  private final String problem;

  /**
   * @param problem a stable word, such as {@code missing-member}
   * @param reason what is wrong and what to do, for a person
   */
  public UnreadableEventException(String problem, String reason) {
    super(reason);
    this.problem = problem;
  }

  public String problem() {
    return problem;
  }

  public String reason() {
    return getMessage();
  }
}
