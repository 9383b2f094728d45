package longthread.client.answers;

import java.time.Instant;
import org.jspecify.annotations.Nullable;

/** A role that an account, a group or a key has on a part of the catalog. */
public record Grant(
    long id,
    String holderKind,
    String holder,
    String role,
    String scope,
    String value,
    String grantedBy,
    @Nullable Instant grantedAt,
    @Nullable Instant expiresAt) {}
