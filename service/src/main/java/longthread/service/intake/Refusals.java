package longthread.service.intake;

import java.nio.charset.StandardCharsets;
import java.time.Clock;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import longthread.service.log.BlockCodec;
import longthread.service.log.EventLog;
import longthread.service.storage.log.RefusalQueries;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Service;

/** What was refused and exactly why; and trying it again, after a fix or an upgrade. */
@Service
class Refusals {
  private static final int MAX_LISTED = 5_000;
  private static final int RETRIED_AT_ONCE = 500;
  private static final long ANY_SIZE = Long.MAX_VALUE; // it was judged when the event came

  /**
   * A refusal.
   *
   * @param source the file or topic it came from; null for HTTP
   * @param outcome of the last retry: accepted, or why it is refused still; null if there was none
   */
  record Refused(
      long id,
      Instant receivedAt,
      String problem,
      String reason,
      @Nullable String source,
      @Nullable Instant retriedAt,
      @Nullable String outcome) {}

  /** A refusal with the bytes that were received; {@code body} is null once they are aged. */
  record RefusedDetail(Refused refusal, @Nullable String body, int bytes) {}

  /** What became of a retry. */
  record Retried(int tried, int accepted, List<StillRefused> refused, String receipt) {}

  record StillRefused(long id, String problem, String reason) {}

  private final RefusalQueries stored;
  private final EventLog log;
  private final Clock clock;

  Refusals(RefusalQueries stored, EventLog log, Clock clock) {
    this.stored = stored;
    this.log = log;
    this.clock = clock;
  }

  /** The newest refusals that no retry has fixed. */
  List<Refused> newestOpen(int most) {
    return stored.newest(null, null, false, most).stream().map(Refusals::refused).toList();
  }

  /** The newest refusals with a problem or from a source; null for any. */
  List<Refused> newest(@Nullable String problem, @Nullable String source, boolean fixed) {
    return stored.newest(problem, source, fixed, MAX_LISTED).stream()
        .map(Refusals::refused)
        .toList();
  }

  /** How many open refusals there are with each problem. */
  Map<String, Integer> openByProblem() {
    var problems = new LinkedHashMap<String, Integer>();
    stored.openByProblem().forEach(row -> problems.put(row.problem(), (int) row.count()));
    return problems;
  }

  /** A refusal with its bytes; empty if there is none with this number. */
  Optional<RefusedDetail> opened(long id) {
    byte[] bytes = bytes(List.of(id)).get(id);
    return stored
        .refusal(id)
        .map(
            row ->
                new RefusedDetail(
                    refused(row),
                    bytes == null ? null : new String(bytes, StandardCharsets.UTF_8),
                    bytes == null ? 0 : bytes.length));
  }

  /** Tries all open refusals with a problem or from a source again; null for any. */
  Retried retryAll(@Nullable String problem, @Nullable String source) {
    List<Long> ids = stored.openIds(problem, source);
    int accepted = 0;
    String receipt = "0";
    var refused = new ArrayList<StillRefused>();
    for (int from = 0; from < ids.size(); from += RETRIED_AT_ONCE) {
      Retried some = retry(ids.subList(from, Math.min(ids.size(), from + RETRIED_AT_ONCE)));
      accepted += some.accepted();
      refused.addAll(some.refused());
      receipt = some.receipt().equals("0") ? receipt : some.receipt();
    }
    return new Retried(ids.size(), accepted, refused, receipt);
  }

  /** Tries refused events again, by the rules that hold now. */
  Retried retry(List<Long> ids) {
    Map<Long, byte[]> bytes = bytes(ids);
    var good = new ArrayList<EventLog.Item>();
    var refused = new ArrayList<StillRefused>();
    var outcomes = new ArrayList<RefusalQueries.Outcome>();
    for (long id : ids) {
      EventLog.Item item = bytes.containsKey(id) ? log.item(bytes.get(id), ANY_SIZE) : null;
      if (item == null) {
        refused.add(new StillRefused(id, "aged", "its bytes are no longer kept"));
      } else if (item.refusal() != null) {
        refused.add(new StillRefused(id, item.refusal().problem(), item.refusal().reason()));
      } else {
        good.add(item);
        outcomes.add(new RefusalQueries.Outcome(id, "accepted"));
      }
    }
    long block = good.isEmpty() ? 0 : log.append(good, "retry").block();
    refused.forEach(still -> outcomes.add(new RefusalQueries.Outcome(still.id(), still.reason())));
    stored.retried(clock.instant(), outcomes);
    return new Retried(ids.size(), good.size(), refused, "" + block);
  }

  /** The bytes of refused events as received, by id; without those that are aged. */
  private Map<Long, byte[]> bytes(List<Long> ids) {
    var bytes = new HashMap<Long, byte[]>();
    var opened = new HashMap<Long, List<BlockCodec.Entry>>();
    for (RefusalQueries.Place place : stored.places(ids.toArray(Long[]::new))) {
      List<BlockCodec.Entry> entries =
          opened.computeIfAbsent(place.block(), block -> BlockCodec.entries(place.body()));
      bytes.put(place.id(), entries.get(place.position()).bytes());
    }
    return bytes;
  }

  private static Refused refused(RefusalQueries.Stored row) {
    return new Refused(
        row.id(),
        row.receivedAt(),
        row.problem(),
        row.reason(),
        row.source(),
        row.retriedAt(),
        row.outcome());
  }
}
