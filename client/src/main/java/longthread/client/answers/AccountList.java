package longthread.client.answers;

import java.util.List;
import org.jspecify.annotations.Nullable;

/** A page of the accounts. */
public record AccountList(List<Account> items, int total, @Nullable String cursor) {}
