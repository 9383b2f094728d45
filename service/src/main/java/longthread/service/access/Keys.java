package longthread.service.access;

import com.github.benmanes.caffeine.cache.Cache;
import com.github.benmanes.caffeine.cache.Caffeine;
import java.time.Clock;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import longthread.service.storage.access.KeyQueries;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.dao.DataAccessException;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Service;
import org.springframework.transaction.TransactionException;

/** Makes, checks and revokes the bearer keys of programs. */
@Service
class Keys {
  private static final long CACHED_MILLIS = 5_000;
  private static final int MAX_CACHED = 10_000;

  /** Who a key belongs to. */
  record Holder(String name, Role role) {}

  /** A key as it is listed. */
  record Listed(
      long id, String name, String role, Instant createdAt, @Nullable Instant revokedAt) {}

  private record Cached(Optional<Holder> holder, long until) {}

  private final KeyQueries stored;
  private final Clock clock;
  // A key is checked on every post; a revoked one stops to work within seconds, not at once. What
  // is too old stays, to fall back on while the database is unreachable.
  private final Cache<String, Cached> cached =
      Caffeine.newBuilder().maximumSize(MAX_CACHED).executor(Runnable::run).build();

  Keys(KeyQueries stored, Clock clock) {
    this.stored = stored;
    this.clock = clock;
  }

  Optional<Holder> holderOf(String token) {
    long now = clock.millis();
    Cached known = cached.getIfPresent(token);
    if (known != null && known.until() > now) {
      return known.holder();
    }
    Optional<Holder> holder;
    try {
      holder =
          stored
              .holder(Tokens.hash(token))
              .map(key -> new Holder(key.name(), Role.of(key.role()).orElseThrow()));
    } catch (DataAccessException | TransactionException e) {
      if (known == null) {
        throw e;
      }
      // While the database is unreachable, whoever was let in before may go on asking.
      holder = known.holder();
    }
    cached.put(token, new Cached(holder, now + CACHED_MILLIS));
    return holder;
  }

  /**
   * Makes a key and returns its token, which is not kept and cannot be shown again.
   *
   * @throws ProblemException if the name cannot be one, or is in use
   */
  String make(@Nullable String given, Role role) {
    String name = HolderNames.checked(given);
    String token = "lt_" + Tokens.make();
    if (stored.addKey(name, role.word(), Tokens.hash(token), clock.instant()) == 0) {
      throw new ProblemException(
          HttpStatus.CONFLICT,
          "key-exists",
          "There is a key of that name",
          "a key named '" + name + "' exists; choose another name or revoke it first");
    }
    return token;
  }

  /**
   * Makes sure that a token chosen by whoever starts a service is a key, beside those that others
   * who start one on this database chose. One that was revoked stays revoked.
   *
   * @return whether the token works
   */
  boolean ensure(String name, Role role, String token) {
    byte[] hash = Tokens.hash(token);
    Optional<KeyQueries.Key> known = stored.withHash(hash);
    if (known.isEmpty()) {
      boolean isFirst = stored.addKey(name, role.word(), hash, clock.instant()) > 0;
      if (!isFirst) {
        String another = name + "-" + Tokens.shortHash(token).replace("_", ".");
        stored.addKey(another, role.word(), hash, clock.instant());
      }
      cached.invalidateAll();
    }
    return known.map(key -> key.revokedAt() == null).orElse(true);
  }

  void revoke(String name) {
    if (stored.revokeKey(name, clock.instant()) == 0) {
      throw new ProblemException(
          HttpStatus.NOT_FOUND,
          "unknown-key",
          "There is no such key",
          "no key is named '" + name + "'; GET /api/v1/keys lists them");
    }
    cached.invalidateAll();
  }

  /** Revokes the key of this number, whatever its name is. */
  void revoke(long id) {
    if (stored.revokeKeyById(id, clock.instant()) == 0) {
      throw new ProblemException(
          HttpStatus.NOT_FOUND,
          "unknown-key",
          "There is no such key",
          "no key has the id " + id + "; GET /api/v1/keys lists them");
    }
    cached.invalidateAll();
  }

  List<Listed> list() {
    return stored.keys().stream()
        .map(key -> new Listed(key.id(), key.name(), key.role(), key.createdAt(), key.revokedAt()))
        .toList();
  }
}
