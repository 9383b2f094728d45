package longthread.service.intake;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.concurrent.TimeUnit;
import longthread.service.log.BlockCodec;
import longthread.service.rebuild.RunRetention;
import longthread.service.storage.graph.HeadQueries;
import longthread.service.storage.log.BlockQueries;
import longthread.service.storage.log.RecentEventQueries;
import longthread.service.storage.log.RefusalQueries;
import longthread.service.storage.sources.EmitterQueries;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;

/**
 * Removes what only serves the near past, and what is older than the settings keep: the bodies of
 * events (the facts they gave stay), refusals, the details of runs, and which events came long ago.
 * A period of zero keeps them without limit.
 */
@Component
class Retention {
  private static final Logger LOG = LoggerFactory.getLogger(Retention.class);
  private static final int EVENTS_LISTED = 10_000;
  private static final int BLOCKS_AT_ONCE = 20;
  private static final Duration CHANGES = Duration.ofHours(24);
  private static final Duration MINUTES = Duration.ofDays(2);
  private static final Duration HOURS = Duration.ofDays(120);

  private final HeadQueries head;
  private final EmitterQueries emitters;
  private final RecentEventQueries recent;
  private final BlockQueries blocks;
  private final RefusalQueries refusals;
  private final Clock clock;
  private final Duration keepBodies;
  private final Duration keepRefused;
  private final Duration keepDigests;
  private final RunRetention runs;

  Retention(
      HeadQueries head,
      EmitterQueries emitters,
      RecentEventQueries recent,
      BlockQueries blocks,
      RefusalQueries refusals,
      Clock clock,
      @Value("${longthread.keep.bodies:0d}") Duration keepBodies,
      @Value("${longthread.keep.refused:0d}") Duration keepRefused,
      @Value("${longthread.keep.digests:0d}") Duration keepDigests,
      RunRetention runs) {
    this.keepDigests = keepDigests;
    this.runs = runs;
    this.head = head;
    this.emitters = emitters;
    this.recent = recent;
    this.blocks = blocks;
    this.refusals = refusals;
    this.clock = clock;
    this.keepBodies = keepBodies;
    this.keepRefused = keepRefused;
  }

  /** A follower that was away for longer than changes are kept loads everything anew. */
  @Scheduled(fixedDelay = 1, initialDelay = 1, timeUnit = TimeUnit.HOURS)
  void tidy() {
    Instant now = clock.instant();
    head.deleteChangesBefore(now.minus(CHANGES));
    emitters.deleteMinutes(now.minus(MINUTES));
    emitters.deleteHours(now.minus(HOURS));
    recent.keepNewest(EVENTS_LISTED);
    if (!keepBodies.isZero()) {
      LOG.info("the bodies of {} blocks were aged", age(now.minus(keepBodies)));
    }
    if (!keepDigests.isZero()) {
      blocks.forgetSeenBefore(now.minus(keepDigests));
    }
    runs.dropOld();
    if (!keepRefused.isZero()) {
      refusals.deleteBefore(now.minus(keepRefused));
    }
  }

  /** Drops the bytes of accepted events; of blocks in which some are refused, all but those. */
  private int age(Instant before) {
    int aged = blocks.age(before);
    List<BlockQueries.Body> some = blocks.notAged(before, BLOCKS_AT_ONCE);
    while (!some.isEmpty()) {
      for (BlockQueries.Body block : some) {
        blocks.ageTo(block.id(), BlockCodec.only(block.body(), blocks.openRefusals(block.id())));
      }
      aged += some.size();
      some = blocks.notAged(before, BLOCKS_AT_ONCE);
    }
    return aged;
  }
}
