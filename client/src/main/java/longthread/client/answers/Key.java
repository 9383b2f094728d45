package longthread.client.answers;

import java.time.Instant;
import org.jspecify.annotations.Nullable;

/** A key of a program; the token is given only when it is made. */
public record Key(
    @Nullable Long id,
    String name,
    String role,
    @Nullable Instant createdAt,
    @Nullable Instant revokedAt,
    @Nullable Instant expiresAt,
    @Nullable Instant lastUsedAt,
    @Nullable String token) {}
