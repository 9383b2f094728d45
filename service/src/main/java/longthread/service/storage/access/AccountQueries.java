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

/** Accounts of people. */
@Repository
@Transactional
public interface AccountQueries {
  /** An account. */
  record Person(
      String name,
      String displayName,
      String passwordHash,
      String role,
      Instant createdAt,
      @Nullable Instant disabledAt,
      @Nullable Instant lastSignInAt,
      @Nullable String issuer) {}

  StatelessSession session();

  @HQL(
      "select a.name, a.displayName, a.passwordHash, a.role, a.createdAt, a.disabledAt,"
          + " a.lastSignInAt, a.issuer from Account a where a.name = :name")
  Optional<Person> named(String name);

  @HQL(
      "select a.name, a.displayName, a.passwordHash, a.role, a.createdAt, a.disabledAt,"
          + " a.lastSignInAt, a.issuer from Account a order by a.name")
  List<Person> all();

  @HQL("select count(a) from Account a")
  long count();

  /** Adds an account; returns 0 if there is one of that name. */
  @SQL(
      "insert into account (name, display_name, password_hash, role, created_at)"
          + " values (:name, :displayName, :passwordHash, :role, :at) on conflict do nothing")
  int add(String name, String displayName, String passwordHash, String role, Instant at);

  /** Locks the accounts that administer, so that two changes cannot each remove the other's. */
  @SQL(
      "select name from account where role = 'admin' and disabled_at is null order by name"
          + " for update")
  List<String> lockAdmins();

  @HQL(
      "update Account a set a.displayName = :displayName, a.role = :role, a.disabledAt = :disabledAt"
          + " where a.name = :name")
  int change(String name, String displayName, String role, @Nullable Instant disabledAt);

  @HQL("update Account a set a.passwordHash = :passwordHash where a.name = :name")
  int changePassword(String name, String passwordHash);

  @HQL("update Account a set a.lastSignInAt = :at where a.name = :name")
  int signedIn(String name, Instant at);

  @HQL("delete from Account a where a.name = :name")
  int delete(String name);

  /** Ends what an account made that would go on without it: its keys. */
  @SQL("update api_key set revoked_at = :at where made_by = :name and revoked_at is null")
  int endKeysOf(String name, Instant at);

  /** Ends the links that an account shared. */
  @SQL("update share_link set revoked_at = :at where made_by = :name and revoked_at is null")
  int endLinksOf(String name, Instant at);

  @SQL("delete from watch where owner = :name")
  int endWatchesOf(String name);
}
