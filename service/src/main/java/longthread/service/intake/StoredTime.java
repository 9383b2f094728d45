package longthread.service.intake;

import java.sql.Timestamp;
import java.time.Instant;
import org.jspecify.annotations.Nullable;

/** Times as the catalog's columns hold them, for display and order; facts keep the nanoseconds. */
final class StoredTime {
  // The database's calendar is shorter than the standard's.
  private static final Instant LEAST = Instant.parse("0001-01-01T00:00:00Z");
  private static final Instant MOST = Instant.parse("9999-12-31T00:00:00Z");

  private StoredTime() {}

  static @Nullable Timestamp of(@Nullable Instant at) {
    if (at == null) {
      return null;
    }
    return Timestamp.from(at.isBefore(LEAST) ? LEAST : at.isAfter(MOST) ? MOST : at);
  }
}
