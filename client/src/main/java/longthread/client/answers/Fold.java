package longthread.client.answers;

import org.jspecify.annotations.Nullable;

/** What the folding rules make of a name. */
public record Fold(
    String name, boolean folds, String whole, @Nullable String part, @Nullable String rule) {}
