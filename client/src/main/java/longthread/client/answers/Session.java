package longthread.client.answers;

import org.jspecify.annotations.Nullable;

/** Who calls, as the service knows the caller. */
public record Session(boolean signedIn, @Nullable String name, @Nullable String role) {}
