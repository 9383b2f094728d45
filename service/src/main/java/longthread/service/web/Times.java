package longthread.service.web;

import java.time.DateTimeException;
import java.time.Instant;
import java.time.OffsetDateTime;

/** Times as requests give them. */
public final class Times {
  private static final int LAST_YEAR = 9_999;

  private Times() {}

  /** Reads an RFC 3339 time with offset, of the years 1 to {@value #LAST_YEAR}. */
  public static Instant parse(String text) {
    try {
      OffsetDateTime time = OffsetDateTime.parse(text);
      if (time.getYear() >= 1 && time.getYear() <= LAST_YEAR) {
        return time.toInstant();
      }
    } catch (DateTimeException e) {
      // reported below, like a year that no calendar here has
    }
    throw ProblemException.badRequest(
        "bad-time",
        "'" + text + "' is no time; write date, time and offset, such as 2031-05-01T02:00:00Z");
  }
}
