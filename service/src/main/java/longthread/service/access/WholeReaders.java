package longthread.service.access;

import com.github.benmanes.caffeine.cache.Cache;
import com.github.benmanes.caffeine.cache.Caffeine;
import java.time.Duration;
import longthread.service.storage.access.AccountQueries;
import longthread.service.storage.access.KeyQueries;
import org.springframework.stereotype.Component;

/** Who may be notified of anything in the catalog: whoever sees all of it. */
@Component
public class WholeReaders {
  private static final int MAX_CACHED = 10_000;

  private final AccountQueries accounts;
  private final KeyQueries keys;
  private final Grants grants;
  private final Cache<String, Boolean> known =
      Caffeine.newBuilder()
          .maximumSize(MAX_CACHED)
          .expireAfterWrite(Duration.ofSeconds(10))
          .executor(Runnable::run)
          .build();

  WholeReaders(AccountQueries accounts, KeyQueries keys, Grants grants) {
    this.accounts = accounts;
    this.keys = keys;
    this.grants = grants;
  }

  /**
   * Whether an account or key of this name sees the whole catalog; a name that nobody has any more
   * counts as it did before.
   */
  public boolean includes(String name) {
    return known.get(name, this::seesAll);
  }

  private boolean seesAll(String name) {
    var account = accounts.named(name);
    var key = keys.keys().stream().filter(one -> one.name().equals(name)).findFirst();
    boolean isNobody = account.isEmpty() && key.isEmpty();
    return isNobody
        || account
            .map(one -> grants.ofAccount(name, Role.of(one.role()).orElseThrow()).readsAll())
            .orElse(false)
        || key.map(one -> grants.ofKey(name, Role.of(one.role()).orElseThrow()).readsAll())
            .orElse(false);
  }
}
