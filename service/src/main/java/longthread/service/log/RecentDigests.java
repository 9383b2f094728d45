package longthread.service.log;

import com.github.benmanes.caffeine.cache.Cache;
import com.github.benmanes.caffeine.cache.Caffeine;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Component;

/**
 * In which blocks the newest events lie. Those that wait to be applied are in no index yet, so a
 * repetition that follows at once is recognised by this. Safe for several threads.
 */
@Component
public class RecentDigests {
  private static final int MAX_DIGESTS = 50_000;

  private final Cache<String, Long> blocks =
      Caffeine.newBuilder().maximumSize(MAX_DIGESTS).executor(Runnable::run).build();

  @Nullable Long blockOf(String digest) {
    return blocks.getIfPresent(digest);
  }

  void put(String digest, long block) {
    blocks.put(digest, block);
  }

  /** Forgets an event that was refused after all, so that it may come again. */
  public void forget(String digest) {
    blocks.invalidate(digest);
  }

  /** Forgets all, after the log was emptied. */
  public void clear() {
    blocks.invalidateAll();
  }
}
