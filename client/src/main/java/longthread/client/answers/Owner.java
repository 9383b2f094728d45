package longthread.client.answers;

import org.jspecify.annotations.Nullable;

/** Somebody to turn to. */
public record Owner(String name, @Nullable String address) {}
