package longthread.service.access;

import com.github.benmanes.caffeine.cache.Cache;
import com.github.benmanes.caffeine.cache.Caffeine;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.security.SecureRandom;
import java.time.Clock;
import java.time.Instant;
import java.util.Base64;
import java.util.List;
import java.util.Optional;
import longthread.service.storage.access.AccessQueries;
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
  private static final int TOKEN_BYTES = 32;

  /** Who a key belongs to. */
  record Holder(String name, Role role) {}

  /** A key as it is listed. */
  record Listed(
      long id, String name, String role, Instant createdAt, @Nullable Instant revokedAt) {}

  private record Cached(Optional<Holder> holder, long until) {}

  private final AccessQueries stored;
  private final Clock clock;
  private final SecureRandom random = new SecureRandom();
  // A key is checked on every post; a revoked one stops to work within seconds, not at once. What
  // is too old stays, to fall back on while the database is unreachable.
  private final Cache<String, Cached> cached =
      Caffeine.newBuilder().maximumSize(MAX_CACHED).executor(Runnable::run).build();

  Keys(AccessQueries stored, Clock clock) {
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
              .holder(hash(token))
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
    byte[] bytes = new byte[TOKEN_BYTES];
    random.nextBytes(bytes);
    String token = "lt_" + Base64.getUrlEncoder().withoutPadding().encodeToString(bytes);
    if (stored.addKey(name, role.word(), hash(token), clock.instant()) == 0) {
      throw new ProblemException(
          HttpStatus.CONFLICT,
          "key-exists",
          "There is a key of that name",
          "a key named '" + name + "' exists; choose another name or revoke it first");
    }
    return token;
  }

  /** Makes sure that the token, chosen by whoever set the service up, works. */
  void ensure(String name, Role role, String token) {
    if (stored.addKey(name, role.word(), hash(token), clock.instant()) == 0) {
      stored.replaceKey(name, hash(token));
    }
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

  private static byte[] hash(String token) {
    try {
      // A token has 256 random bits, so a fast hash gives nothing away.
      return MessageDigest.getInstance("SHA-256").digest(token.getBytes(StandardCharsets.UTF_8));
    } catch (NoSuchAlgorithmException e) {
      throw new IllegalStateException("every Java has SHA-256", e);
    }
  }
}
