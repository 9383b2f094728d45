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
  record Holder(String name, String role) {}

  /** A key as it is listed. */
  record Key(long id, String name, String role, Instant createdAt, @Nullable Instant revokedAt) {}

  StatelessSession session();

  /** The holder of the key with this hash, unless it is revoked. */
  @HQL("select k.name, k.role from ApiKey k where k.hash = :hash and k.revokedAt is null")
  Optional<Holder> holder(byte[] hash);

  /** The key with this hash, revoked or not. */
  @HQL("select k.id, k.name, k.role, k.createdAt, k.revokedAt from ApiKey k where k.hash = :hash")
  Optional<Key> withHash(byte[] hash);

  /** Adds a key; returns 0 if there is one of that name or hash. */
  @SQL(
      "insert into api_key (name, role, hash, created_at) values (:name, :role, :hash, :at)"
          + " on conflict do nothing")
  int addKey(String name, String role, byte[] hash, Instant at);

  @HQL("update ApiKey k set k.revokedAt = :at where k.name = :name")
  int revokeKey(String name, Instant at);

  @HQL("update ApiKey k set k.revokedAt = :at where k.id = :id")
  int revokeKeyById(long id, Instant at);

  @HQL("select k.id, k.name, k.role, k.createdAt, k.revokedAt from ApiKey k order by k.name")
  List<Key> keys();
}
