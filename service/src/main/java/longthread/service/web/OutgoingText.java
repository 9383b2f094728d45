package longthread.service.web;

import java.util.function.UnaryOperator;

/** What happens to every text of a file before it leaves the service, for the caller who asks. */
public final class OutgoingText {
  private static final ThreadLocal<UnaryOperator<String>> CURRENT = new ThreadLocal<>();

  private OutgoingText() {}

  /** Sets what happens to the texts of this thread's answer; it is to be cleared behind it. */
  public static void set(UnaryOperator<String> change) {
    CURRENT.set(change);
  }

  public static void clear() {
    CURRENT.remove();
  }

  /** A text as it may leave the service. */
  public static String of(String text) {
    UnaryOperator<String> change = CURRENT.get();
    return change == null ? text : change.apply(text);
  }
}
