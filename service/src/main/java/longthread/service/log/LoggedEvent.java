package longthread.service.log;

import java.time.Instant;

/** An accepted event as the log keeps it. */
public record LoggedEvent(long block, int position, Instant receivedAt, byte[] bytes) {}
