package longthread.service.storage.access;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.HQL;
import org.hibernate.annotations.processing.SQL;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** Keys of programs. */
@Repository
@Transactional
public interface KeyQueries {
  /** Who a key belongs to. */
  record Holder(long id, String name, String role, @Nullable Instant expiresAt) {}

  /** A key as it is listed; when it was last used is known to the minute. */
  record Key(
      long id,
      String name,
      String role,
      Instant createdAt,
      @Nullable Instant revokedAt,
      @Nullable Instant expiresAt,
      @Nullable Instant lastUsedAt) {}

  StatelessSession session();

  /** The holder of the key with this hash, unless it is revoked or its maker is disabled. */
  @HQL(
      "select k.id, k.name, k.role, k.expiresAt from ApiKey k where k.hash = :hash"
          + " and k.revokedAt is null and not exists (select a.name from Account a"
          + " where a.name = k.madeBy and a.disabledAt is not null)")
  Optional<Holder> holder(byte[] hash);

  /** Notes that a key was used, unless that was noted since a time. */
  @HQL(
      "update ApiKey k set k.lastUsedAt = :at where k.id = :id"
          + " and (k.lastUsedAt is null or k.lastUsedAt < :before)")
  int used(long id, Instant at, Instant before);

  /** The key with this hash, revoked or not. */
  @HQL(
      "select k.id, k.name, k.role, k.createdAt, k.revokedAt, k.expiresAt, k.lastUsedAt"
          + " from ApiKey k where k.hash = :hash")
  Optional<Key> withHash(byte[] hash);

  /** Adds a key; returns 0 if there is one of that name or hash. */
  @SQL(
      "insert into api_key (name, role, hash, created_at, expires_at, made_by)"
          + " values (:name, :role, :hash, :at, cast(:expiresAt as timestamptz), :by)"
          + " on conflict do nothing")
  int addKey(
      String name, String role, byte[] hash, Instant at, @Nullable Instant expiresAt, String by);

  @HQL("update ApiKey k set k.revokedAt = :at where k.name = :name")
  int revokeKey(String name, Instant at);

  @HQL("update ApiKey k set k.revokedAt = :at where k.id = :id")
  int revokeKeyById(long id, Instant at);

  @HQL(
      "select k.id, k.name, k.role, k.createdAt, k.revokedAt, k.expiresAt, k.lastUsedAt"
          + " from ApiKey k order by k.name")
  List<Key> keys();
}
