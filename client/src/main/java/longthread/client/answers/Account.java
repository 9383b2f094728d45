package longthread.client.answers;

import java.time.Instant;
import org.jspecify.annotations.Nullable;

/** The account of a person. */
public record Account(
    String name,
    String displayName,
    String role,
    @Nullable Instant createdAt,
    @Nullable Instant lastSignInAt,
    @Nullable Instant disabledAt) {}
