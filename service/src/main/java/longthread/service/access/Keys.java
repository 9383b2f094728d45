package longthread.service.access;

import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.security.SecureRandom;
import java.time.Clock;
import java.time.Instant;
import java.util.Base64;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.dao.DataAccessException;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Service;
import org.springframework.transaction.TransactionException;
import org.springframework.transaction.annotation.Transactional;

/** Makes, checks and revokes the bearer keys of programs. */
@Service
class Keys {
  private static final long REMEMBERED_MILLIS = 5_000;

  /** Who a key belongs to. */
  record Holder(String name, Role role) {}

  private record Remembered(Optional<Holder> holder, long until) {}

  private final ApiKeys keys;
  private final Clock clock;
  private final SecureRandom random = new SecureRandom();
  // A key is checked on every post; a revoked one stops to work within seconds, not at once.
  private final Map<String, Remembered> remembered = new ConcurrentHashMap<>();

  Keys(ApiKeys keys, Clock clock) {
    this.keys = keys;
    this.clock = clock;
  }

  Optional<Holder> holderOf(String token) {
    long now = clock.millis();
    Remembered known = remembered.get(token);
    if (known != null && known.until() > now) {
      return known.holder();
    }
    Optional<Holder> holder;
    try {
      holder =
          keys.findByHashAndRevokedAtIsNull(hash(token))
              .map(key -> new Holder(key.name(), key.role()));
    } catch (DataAccessException | TransactionException e) {
      if (known == null) {
        throw e;
      }
      // While the database is away, whoever was let in before may go on asking.
      holder = known.holder();
    }
    if (remembered.size() > 10_000) {
      remembered.clear();
    }
    remembered.put(token, new Remembered(holder, now + REMEMBERED_MILLIS));
    return holder;
  }

  /** Makes a key and returns its token, which is not kept and cannot be shown again. */
  @Transactional
  String make(String name, Role role) {
    if (keys.findByName(name).isPresent()) {
      throw new ProblemException(
          HttpStatus.CONFLICT,
          "key-exists",
          "There is a key of that name",
          "a key named '" + name + "' exists; choose another name or revoke it first");
    }
    byte[] bytes = new byte[32];
    random.nextBytes(bytes);
    String token = "lt_" + Base64.getUrlEncoder().withoutPadding().encodeToString(bytes);
    keys.save(new ApiKey(name, role, hash(token), clock.instant()));
    return token;
  }

  /** Makes sure that the token, chosen by whoever set the service up, works. */
  @Transactional
  void ensure(String name, Role role, String token) {
    keys.findByName(name)
        .ifPresentOrElse(
            key -> key.replaceHash(hash(token)),
            () -> keys.save(new ApiKey(name, role, hash(token), clock.instant())));
    remembered.clear();
  }

  @Transactional
  void revoke(String name) {
    ApiKey key =
        keys.findByName(name)
            .orElseThrow(
                () ->
                    new ProblemException(
                        HttpStatus.NOT_FOUND,
                        "unknown-key",
                        "There is no such key",
                        "no key is named '" + name + "'; GET /api/v1/keys lists them"));
    key.revoke(clock.instant());
    remembered.clear();
  }

  /** A key as it is listed. */
  record Listed(String name, String role, Instant createdAt, @Nullable Instant revokedAt) {}

  List<Listed> list() {
    return keys.findAllByOrderByName().stream()
        .map(key -> new Listed(key.name(), key.role().word(), key.createdAt(), key.revokedAt()))
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
