package longthread.service.intake;

import jakarta.annotation.PreDestroy;
import jakarta.servlet.http.HttpServletRequest;
import java.security.Principal;
import java.time.Clock;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.HashMap;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import longthread.service.access.SendingKeys;
import longthread.service.log.EventLog;
import longthread.service.storage.sources.ConnectionQueries;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;

/**
 * Notes what each key sends, so that whoever connects a program sees its first events and why any
 * were refused. Counted in memory and written every second; a crash may lose the last second of the
 * counts, never an event.
 */
@Component
public class KeyActivity {
  private static final Logger LOG = LoggerFactory.getLogger(KeyActivity.class);
  private static final int NEWEST = 20;
  private static final int MAX_KEYS = 10_000;

  private static final class Count {
    private long accepted;
    private long refused;
    private Instant at = Instant.EPOCH;
    private @Nullable Instant refusedAt;
    private @Nullable String refusal;
    private final ArrayDeque<String> newest = new ArrayDeque<>();
  }

  private final ConnectionQueries stored;
  private final Clock clock;
  private Map<String, Count> counts = new HashMap<>();

  KeyActivity(ConnectionQueries stored, Clock clock) {
    this.stored = stored;
    this.clock = clock;
  }

  /** Notes what came in with a request; nothing if nobody is behind it. */
  void note(HttpServletRequest request, List<EventLog.Item> items) {
    Object holder = request.getAttribute(SendingKeys.HOLDER);
    Principal principal = request.getUserPrincipal();
    String name =
        holder instanceof String text ? text : principal == null ? null : principal.getName();
    if (name != null) {
      note(name, items);
    }
  }

  private synchronized void note(String name, List<EventLog.Item> items) {
    if (counts.size() >= MAX_KEYS && !counts.containsKey(name)) {
      return;
    }
    Count count = counts.computeIfAbsent(name, k -> new Count());
    count.at = clock.instant();
    for (EventLog.Item item : items) {
      if (item.refusal() == null) {
        count.accepted++;
        count.newest.addFirst(item.digest());
        if (count.newest.size() > NEWEST) {
          count.newest.removeLast();
        }
      } else {
        count.refused++;
        count.refusedAt = count.at;
        count.refusal = item.refusal().reason();
      }
    }
  }

  private synchronized Map<String, Count> taken() {
    Map<String, Count> taken = counts;
    counts = new HashMap<>();
    return taken;
  }

  /** Writes what was counted. */
  @PreDestroy
  @Scheduled(fixedDelay = 1_000)
  public void write() {
    for (var entry : taken().entrySet()) {
      Count count = entry.getValue();
      byte[][] newest =
          count.newest.stream()
              .map(digest -> HexFormat.of().parseHex(digest))
              .toArray(byte[][]::new);
      try {
        stored.addUse(
            entry.getKey(),
            count.at,
            count.accepted,
            count.refused,
            count.refusedAt,
            count.refusal,
            newest);
      } catch (RuntimeException e) {
        LOG.warn("what keys sent cannot be noted now: {}", e.getMessage());
      }
    }
  }
}
