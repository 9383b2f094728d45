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
  private static final long NOTED_MILLIS = 60_000;

  /** Who a key belongs to, and what it may do where. */
  record Holder(String name, Held held) {
    Role role() {
      return held.role();
    }
  }

  /**
   * A key as it is listed.
   *
   * @param expiresAt when it ends by itself; absent if never
   * @param lastUsedAt to the minute; absent if it was never used
   */
  record Listed(
      long id,
      String name,
      String role,
      Instant createdAt,
      @Nullable Instant revokedAt,
      @Nullable Instant expiresAt,
      @Nullable Instant lastUsedAt) {}

  private record Cached(Optional<Holder> holder, long until, long expires) {}

  private final KeyQueries stored;
  private final Grants grants;
  private final Clock clock;
  // A key is checked on every post; a revoked one stops to work within seconds, not at once. What
  // is too old stays, to fall back on while the database is unreachable.
  private final Cache<String, Cached> cached =
      Caffeine.newBuilder().maximumSize(MAX_CACHED).executor(Runnable::run).build();

  private final Cache<Long, Long> usedAt =
      Caffeine.newBuilder().maximumSize(MAX_CACHED).executor(Runnable::run).build();

  Keys(KeyQueries stored, Grants grants, Clock clock) {
    this.stored = stored;
    this.grants = grants;
    grants.onChange(this::forgetCached);
    this.clock = clock;
  }

  Optional<Holder> holderOf(String token) {
    long now = clock.millis();
    Cached known = cached.getIfPresent(token);
    if (known != null && known.until() > now) {
      return known.expires() > now ? known.holder() : Optional.empty();
    }
    Optional<Holder> holder;
    long expires = known == null ? Long.MAX_VALUE : known.expires();
    try {
      Optional<KeyQueries.Holder> key = stored.holder(Tokens.hash(token));
      holder =
          key.map(
              k -> new Holder(k.name(), grants.ofKey(k.name(), Role.of(k.role()).orElseThrow())));
      expires = key.map(Keys::expiry).orElse(Long.MAX_VALUE);
      if (key.isPresent() && expires > now) {
        noteUse(key.get().id(), now);
      }
    } catch (DataAccessException | TransactionException e) {
      if (known == null) {
        throw e;
      }
      // While the database is unreachable, whoever was let in before may go on asking.
      holder = known.holder();
    }
    cached.put(token, new Cached(holder, now + CACHED_MILLIS, expires));
    return expires > now ? holder : Optional.empty();
  }

  private static long expiry(KeyQueries.Holder key) {
    Instant expires = key.expiresAt();
    return expires == null ? Long.MAX_VALUE : expires.toEpochMilli();
  }

  /** Notes to the minute when a key was used: a row that each call wrote would slow down intake. */
  private void noteUse(long id, long now) {
    Long noted = usedAt.getIfPresent(id);
    if (noted == null || now - noted >= NOTED_MILLIS) {
      usedAt.put(id, now);
      Instant at = Instant.ofEpochMilli(now);
      stored.used(id, at, at.minusMillis(NOTED_MILLIS));
    }
  }

  /**
   * Makes a key and returns its token, which is not kept and cannot be shown again.
   *
   * @param expiresAt when it ends by itself; null if never
   * @param by the account that makes it, with which it ends
   * @throws ProblemException if the name cannot be one, or is in use, or it would have ended
   *     already
   */
  String make(@Nullable String given, Role role, @Nullable Instant expiresAt, String by) {
    if (expiresAt != null && !expiresAt.isAfter(clock.instant())) {
      throw ProblemException.badRequest(
          "bad-expiry", "the key would have expired " + expiresAt + "; give a future time");
    }
    String name = HolderNames.checked(given);
    String token = "lt_" + Tokens.make();
    if (stored.addKey(name, role.word(), Tokens.hash(token), clock.instant(), expiresAt, by) == 0) {
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
      boolean isFirst = stored.addKey(name, role.word(), hash, clock.instant(), null, "") > 0;
      if (!isFirst) {
        String another = name + "-" + Tokens.shortHash(token).replace("_", ".");
        stored.addKey(another, role.word(), hash, clock.instant(), null, "");
      }
      cached.invalidateAll();
    }
    return known.map(key -> key.revokedAt() == null).orElse(true);
  }

  private void forgetCached() {
    cached.invalidateAll();
  }

  void revoke(String name) {
    if (stored.revokeKey(name, clock.instant()) == 0) {
      throw new ProblemException(
          HttpStatus.NOT_FOUND,
          "unknown-key",
          "There is no such key",
          "no key is named '" + name + "'; GET /api/v1/keys lists them");
    }
    grants.endAllOf(Grants.HolderKind.KEY, name);
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
    stored.keys().stream()
        .filter(key -> key.id() == id)
        .forEach(key -> grants.endAllOf(Grants.HolderKind.KEY, key.name()));
    cached.invalidateAll();
  }

  List<Listed> list() {
    return stored.keys().stream()
        .map(
            key ->
                new Listed(
                    key.id(),
                    key.name(),
                    key.role(),
                    key.createdAt(),
                    key.revokedAt(),
                    key.expiresAt(),
                    key.lastUsedAt()))
        .toList();
  }
}
