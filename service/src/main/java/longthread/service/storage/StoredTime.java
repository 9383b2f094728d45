package longthread.service.storage;

import java.time.Instant;
import java.time.temporal.ChronoUnit;
import org.jspecify.annotations.Nullable;

/** Times as the catalog's columns hold them, for display and order; facts keep the nanoseconds. */
public final class StoredTime {
  // The database's calendar is shorter than the standard's.
  private static final Instant LEAST = Instant.parse("0001-01-01T00:00:00Z");
  private static final Instant MAX = Instant.parse("9999-12-31T00:00:00Z");

  private StoredTime() {}

  /** The time itself, or the nearest that a column can hold. */
  public static @Nullable Instant of(@Nullable Instant at) {
    return at == null ? null : clamped(at);
  }

  /** The time as a column holds it, to the microsecond. */
  public static Instant micros(Instant at) {
    return clamped(at).truncatedTo(ChronoUnit.MICROS);
  }

  /** The time itself, or the nearest that a column can hold. */
  public static Instant clamped(Instant at) {
    return at.isBefore(LEAST) ? LEAST : at.isAfter(MAX) ? MAX : at;
  }
}
