package longthread.service.intake;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import longthread.service.apply.Applier;
import longthread.service.live.GraphFollower;
import longthread.service.log.EventLog;
import longthread.service.storage.log.RecentEventQueries;
import longthread.service.storage.sources.EmitterQueries;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** What came in so far, and how far it is applied. */
@Service
public class IntakeStatus {
  private static final double MILLIS = 1_000.0;

  /**
   * What came in so far.
   *
   * @param lagSeconds how long the oldest event that waits has waited
   * @param unreachableSince since when the database does not answer; null while it does
   * @param minutes how many events were received in each of the last sixty minutes that had any
   */
  record Intake(
      long received,
      long applied,
      long duplicates,
      long refused,
      long waiting,
      double lagSeconds,
      long graphChange,
      @Nullable Instant newest,
      boolean applying,
      @Nullable Instant unreachableSince,
      List<Minute> minutes,
      List<Recent> recent,
      List<Refusals.Refused> refusals) {}

  record Minute(Instant minute, String emitter, long events) {}

  /**
   * An event as it is listed.
   *
   * @param id by which it can be opened
   * @param changed what of the catalog it changed, in words
   */
  record Recent(
      String id,
      Instant receivedAt,
      Instant eventTime,
      String type,
      String about,
      String producer,
      List<String> changed) {}

  /** The intake in a few figures. */
  public record Brief(
      boolean applying, double lagSeconds, long waiting, long refused, @Nullable Instant newest) {}

  private final EventLog log;
  private final Applier applier;
  private final GraphFollower follower;
  private final RecentEventQueries recent;
  private final EmitterQueries emitters;
  private final Refusals refusals;
  private final Clock clock;

  IntakeStatus(
      EventLog log,
      Applier applier,
      GraphFollower follower,
      RecentEventQueries recent,
      EmitterQueries emitters,
      Refusals refusals,
      Clock clock) {
    this.log = log;
    this.applier = applier;
    this.follower = follower;
    this.recent = recent;
    this.emitters = emitters;
    this.refusals = refusals;
    this.clock = clock;
  }

  /**
   * The state of the intake.
   *
   * @param about lists only events whose subject or producer contains this text; null for all
   * @param most how many events and refusals to list
   */
  @Transactional(readOnly = true)
  Intake now(@Nullable String about, int most) {
    RecentEventQueries.Totals totals = recent.totals();
    Instant now = clock.instant();
    Instant oldest = totals.oldest();
    return new Intake(
        totals.received() + totals.waiting(),
        totals.applied(),
        totals.duplicates(),
        totals.refused(),
        totals.waiting(),
        oldest == null ? 0 : Duration.between(oldest, now).toMillis() / MILLIS,
        follower.number(),
        totals.newest(),
        applier.isApplying(),
        log.unreachableSince(),
        emitters.minutes(now.minus(Duration.ofHours(1))).stream()
            .map(minute -> new Minute(minute.minute(), minute.namespace(), minute.events()))
            .toList(),
        newest(about, most),
        refusals.newestOpen(most));
  }

  /** The intake in a few figures. */
  @Transactional(readOnly = true)
  public Brief brief() {
    RecentEventQueries.Totals totals = recent.totals();
    Instant oldest = totals.oldest();
    double lag = oldest == null ? 0 : Duration.between(oldest, clock.instant()).toMillis() / MILLIS;
    return new Brief(
        applier.isApplying(), lag, totals.waiting(), totals.refused(), totals.newest());
  }

  private List<Recent> newest(@Nullable String about, int most) {
    String wanted = about == null || about.isBlank() ? null : about.strip();
    return recent.newest(wanted, most).stream()
        .map(
            event ->
                new Recent(
                    event.block() + "." + event.position(),
                    event.receivedAt(),
                    event.eventTime(),
                    event.type(),
                    event.about(),
                    event.producer(),
                    List.of(event.changed())))
        .toList();
  }
}
