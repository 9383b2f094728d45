package longthread.client.answers;

import java.time.Instant;
import org.jspecify.annotations.Nullable;

/** A run as it is listed. */
public record RunRow(
    String ref,
    String job,
    String state,
    @Nullable Instant start,
    @Nullable Double seconds,
    @Nullable Long rowsRead,
    @Nullable Long rowsWritten,
    @Nullable String error,
    boolean stalled) {}
