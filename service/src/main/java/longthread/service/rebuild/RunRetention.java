package longthread.service.rebuild;

import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import longthread.service.storage.graph.HeadQueries;
import longthread.service.storage.runs.RunRetentionQueries;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * Drops the details of runs that are older than the setting keeps. A rebuild does the same to the
 * catalog it makes, up to the same moment, so that the two stay equal.
 */
@Component
public class RunRetention {
  private static final Logger LOG = LoggerFactory.getLogger(RunRetention.class);

  private final RunRetentionQueries runs;
  private final HeadQueries head;
  private final TransactionTemplate transactions;
  private final Clock clock;
  private final Duration keep;

  RunRetention(
      RunRetentionQueries runs,
      HeadQueries head,
      TransactionTemplate transactions,
      Clock clock,
      @Value("${longthread.keep.runs}") Duration keep) {
    this.runs = runs;
    this.head = head;
    this.transactions = transactions;
    this.clock = clock;
    this.keep = keep;
  }

  /** Since when details are kept, a whole day; null if always. */
  @Nullable Instant keptSince() {
    return keep.isZero() ? null : clock.instant().minus(keep).truncatedTo(ChronoUnit.DAYS);
  }

  /** Drops what is older from the live catalog. */
  public void dropOld() {
    Instant since = keptSince();
    if (since == null) {
      return;
    }
    int dropped = transactions.execute(status -> drop(runs, since));
    if (dropped > 0) {
      // Values may be known to whoever applies: it is kept away meanwhile, and forgets them.
      transactions.executeWithoutResult(
          status -> {
            head.lock();
            runs.dropUnusedValues();
            head.forgetApplier();
          });
      LOG.info("{} details of runs before {} were dropped", dropped, since);
    }
  }

  /** Drops the details of runs before a moment from one catalog; returns how many there were. */
  static int drop(RunRetentionQueries runs, Instant since) {
    long before = since.getEpochSecond();
    return runs.dropFacets(before) + runs.dropChecks(before) + runs.dropCounts(before);
  }
}
