package longthread.core.event;

import java.time.Instant;
import java.util.UUID;
import longthread.core.asset.JobName;
import org.jspecify.annotations.Nullable;

/**
 * What one event says about the state of a run.
 *
 * @param type the event type in the standard's words; null if the event had none
 */
public record RunFact(
    UUID run, JobName job, @Nullable String type, Instant at, boolean farFuture) {}
