package longthread.core.trust;

import java.util.Arrays;
import java.util.List;
import java.util.Locale;

/** How an asset or job does, the worst last. */
public enum HealthState {
  /** Too little is known to say anything: no run, no check, no figure. */
  UNKNOWN,
  /** Nothing deviates from what is usual. */
  HEALTHY,
  /** A figure, an amount or a duration is not as usual. */
  UNUSUAL,
  /** It is behind its time. */
  LATE,
  /** It is so far behind that waiting is no use. */
  OVERDUE,
  /** A check of its data fails. */
  CHECK_FAILED,
  /** Its last run failed. */
  FAILED;

  public String word() {
    return name().toLowerCase(Locale.ROOT).replace('_', '-');
  }

  /** The words there are. */
  public static List<String> words() {
    return Arrays.stream(values()).map(HealthState::word).toList();
  }

  /** Whether somebody should look at it. */
  public boolean isBad() {
    return compareTo(HEALTHY) > 0;
  }
}
