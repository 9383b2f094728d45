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

/** Accounts of people and keys of programs. */
@Repository
@Transactional
public interface AccessQueries {
  /** An account. */
  record Person(String name, String displayName, String passwordHash, String role) {}

  /** Who a key belongs to. */
  record Holder(String name, String role) {}

  /** A key as it is listed. */
  record Key(long id, String name, String role, Instant createdAt, @Nullable Instant revokedAt) {}

  StatelessSession session();

  @HQL("select a.name, a.displayName, a.passwordHash, a.role from Account a where a.name = :name")
  Optional<Person> account(String name);

  @HQL("select count(a) from Account a")
  long accounts();

  /** Adds an account; returns 0 if there is one of that name. */
  @SQL(
      "insert into account (name, display_name, password_hash, role)"
          + " values (:name, :displayName, :passwordHash, :role) on conflict do nothing")
  int addAccount(String name, String displayName, String passwordHash, String role);

  /** The holder of the key with this hash, unless it is revoked. */
  @HQL("select k.name, k.role from ApiKey k where k.hash = :hash and k.revokedAt is null")
  Optional<Holder> holder(byte[] hash);

  /** Adds a key; returns 0 if there is one of that name. */
  @SQL(
      "insert into api_key (name, role, hash, created_at) values (:name, :role, :hash, :at)"
          + " on conflict (name) do nothing")
  int addKey(String name, String role, byte[] hash, Instant at);

  /** Gives a key another hash and makes it good again. */
  @HQL("update ApiKey k set k.hash = :hash, k.revokedAt = null where k.name = :name")
  int replaceKey(String name, byte[] hash);

  @HQL("update ApiKey k set k.revokedAt = :at where k.name = :name")
  int revokeKey(String name, Instant at);

  @HQL("update ApiKey k set k.revokedAt = :at where k.id = :id")
  int revokeKeyById(long id, Instant at);

  @HQL("select k.id, k.name, k.role, k.createdAt, k.revokedAt from ApiKey k order by k.name")
  List<Key> keys();
}
