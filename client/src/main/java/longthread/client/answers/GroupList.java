package longthread.client.answers;

import java.util.List;
import org.jspecify.annotations.Nullable;

/** A page of the groups. */
public record GroupList(List<Group> items, int total, @Nullable String cursor) {}
