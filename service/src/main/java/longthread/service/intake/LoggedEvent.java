package longthread.service.intake;

import java.time.Instant;

/** An accepted event as the log keeps it. */
record LoggedEvent(long block, int position, Instant receivedAt, byte[] bytes) {}
