package longthread.service.watches;

import java.time.Instant;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.time.temporal.ChronoUnit;
import longthread.service.storage.watches.WatchQueries;
import org.jspecify.annotations.Nullable;

/** When a watch may send: at once, each hour or once a day, and never in its quiet hours. */
record Hours(
    String digest,
    @Nullable LocalTime digestAt,
    @Nullable LocalTime quietFrom,
    @Nullable LocalTime quietUntil,
    ZoneId zone) {
  static Hours of(WatchQueries.Watch watch) {
    return new Hours(
        watch.digest(),
        time(watch.digestAt()),
        time(watch.quietFrom()),
        time(watch.quietUntil()),
        ZoneId.of(watch.zone()));
  }

  private static @Nullable LocalTime time(@Nullable String text) {
    return text == null ? null : LocalTime.parse(text);
  }

  /** The first moment from {@code now} on at which a message may be sent. */
  Instant dueAfter(Instant now) {
    ZonedDateTime local = now.atZone(zone);
    ZonedDateTime due =
        switch (digest) {
          case "hourly" -> local.truncatedTo(ChronoUnit.HOURS).plusHours(1);
          case "daily" -> next(local, digestAt == null ? LocalTime.of(7, 0) : digestAt);
          default -> local;
        };
    return afterQuiet(due).toInstant();
  }

  private ZonedDateTime afterQuiet(ZonedDateTime moment) {
    if (quietFrom == null || quietUntil == null || quietFrom.equals(quietUntil)) {
      return moment;
    }
    LocalTime time = moment.toLocalTime();
    boolean overMidnight = quietFrom.isAfter(quietUntil);
    boolean isQuiet =
        overMidnight
            ? !time.isBefore(quietFrom) || time.isBefore(quietUntil)
            : !time.isBefore(quietFrom) && time.isBefore(quietUntil);
    return isQuiet ? next(moment, quietUntil) : moment;
  }

  private static ZonedDateTime next(ZonedDateTime from, LocalTime time) {
    ZonedDateTime today = from.with(time);
    return today.isAfter(from) ? today : from.plusDays(1).with(time);
  }
}
