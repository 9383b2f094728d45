package longthread.core.trust;

import java.util.Locale;

/** Whether something came when it was due. */
public enum Timeliness {
  /** It came, or is not due yet. */
  ON_TIME,
  /** It is behind its time by more than its own spread. */
  LATE,
  /** It is so far behind that it will not come by waiting. */
  OVERDUE;

  public String word() {
    return name().toLowerCase(Locale.ROOT).replace('_', '-');
  }
}
