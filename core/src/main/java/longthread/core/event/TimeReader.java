package longthread.core.event;

import java.time.DateTimeException;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.OffsetDateTime;
import java.time.ZoneOffset;
import org.jspecify.annotations.Nullable;

/** Reads the times of events. */
final class TimeReader {
  private static final int SECONDS_END = "2031-05-01T02:00:00".length();
  private static final int NANO_DIGITS = 9;

  /**
   * The usual spelling, {@code 2031-05-01T02:00:00.123Z}, read directly: every event is checked for
   * its time, and the general reader takes a tenth of the whole check. Null for any other spelling.
   */
  static @Nullable Instant plainTime(String text) {
    int length = text.length();
    if (length <= SECONDS_END
        || length > SECONDS_END + 1 + NANO_DIGITS + 1
        || text.charAt(length - 1) != 'Z'
        || text.charAt(4) != '-'
        || text.charAt(7) != '-'
        || text.charAt(10) != 'T'
        || text.charAt(13) != ':'
        || text.charAt(16) != ':') {
      return null;
    }
    int nano = 0;
    if (length > SECONDS_END + 1) {
      int digits = length - SECONDS_END - 2;
      int fraction = text.charAt(SECONDS_END) == '.' ? number(text, SECONDS_END + 1, digits) : -1;
      if (digits == 0 || fraction < 0) {
        return null;
      }
      nano = fraction;
      for (int digit = digits; digit < NANO_DIGITS; digit++) {
        nano *= 10;
      }
    }
    int[] parts = {
      number(text, 0, 4),
      number(text, 5, 2),
      number(text, 8, 2),
      number(text, 11, 2),
      number(text, 14, 2),
      number(text, 17, 2)
    };
    for (int part : parts) {
      if (part < 0) {
        return null;
      }
    }
    return LocalDateTime.of(parts[0], parts[1], parts[2], parts[3], parts[4], parts[5], nano)
        .toInstant(ZoneOffset.UTC);
  }

  /** The number that so many digits spell; -1 if they are not all digits. */
  private static int number(String text, int from, int digits) {
    int number = 0;
    for (int at = from; at < from + digits; at++) {
      char c = text.charAt(at);
      if (c < '0' || c > '9') {
        return -1;
      }
      number = number * 10 + c - '0';
    }
    return number;
  }

  /**
   * The moment that a member spells.
   *
   * @throws UnreadableEventException if it is no date, time and offset
   */
  static Instant read(String text, String member) throws UnreadableEventException {
    try {
      Instant plain = plainTime(text);
      return plain != null ? plain : OffsetDateTime.parse(text).toInstant();
    } catch (DateTimeException e) {
      throw new UnreadableEventException(
          "bad-time",
          member
              + " is '"
              + EventReader.shortened(text)
              + "'; write a date, a time and an offset, such as 2031-05-01T02:00:00+02:00");
    }
  }

  private TimeReader() {}
}
