package longthread.client.answers;

import org.jspecify.annotations.Nullable;

/** One link of a thread; {@code how} says in words how it works. */
public record Hop(
    String from, String to, String flow, String how, boolean masking, @Nullable String job) {}
