package longthread.client.answers;

import java.util.List;
import org.jspecify.annotations.Nullable;

/** A page of the grants. */
public record GrantList(List<Grant> items, int total, @Nullable String cursor) {}
