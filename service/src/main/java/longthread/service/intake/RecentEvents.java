package longthread.service.intake;

import java.util.LinkedHashMap;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Component;

/**
 * In which blocks the newest events lie. Those that wait to be applied are in no index yet, so a
 * repetition that follows at once is told by this. Safe for several threads.
 */
@Component
public class RecentEvents {
  private static final int MOST = 50_000;

  private final Map<String, Long> blocks =
      new LinkedHashMap<>() {
        @Override
        protected boolean removeEldestEntry(Map.Entry<String, Long> eldest) {
          return size() > MOST;
        }
      };

  synchronized @Nullable Long blockOf(String digest) {
    return blocks.get(digest);
  }

  synchronized void put(String digest, long block) {
    blocks.put(digest, block);
  }

  /** Forgets an event that was refused after all, so that it may come again. */
  synchronized void forget(String digest) {
    blocks.remove(digest);
  }

  /** Forgets all, after the log was emptied. */
  public synchronized void clear() {
    blocks.clear();
  }
}
