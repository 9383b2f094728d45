package longthread.core.cause;

import java.time.Duration;
import java.time.Instant;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.util.Locale;

/** Figures as a sentence has them. */
final class Words {
  private static final DateTimeFormatter TIME =
      DateTimeFormatter.ofPattern("yyyy-MM-dd HH:mm 'UTC'", Locale.ROOT).withZone(ZoneOffset.UTC);

  private Words() {}

  static String at(Instant moment) {
    return TIME.format(moment);
  }

  static String of(Duration duration) {
    if (duration.toMinutes() < 2) {
      return duration.toSeconds() + " s";
    }
    if (duration.toHours() < 2) {
      return duration.toMinutes() + " min";
    }
    return duration.toHours() < 72 ? duration.toHours() + " h" : duration.toDays() + " days";
  }

  /** With as many digits as can matter. */
  static String number(double value) {
    double size = Math.abs(value);
    if (size >= 100 || value == Math.rint(value)) {
      return String.format(Locale.ROOT, "%,d", Math.round(value));
    }
    return String.format(Locale.ROOT, size >= 10 ? "%.1f" : size >= 0.1 ? "%.2f" : "%.4f", value);
  }
}
