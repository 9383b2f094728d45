package longthread.service.storage.access;

import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.HQL;
import org.hibernate.annotations.processing.SQL;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** Who is signed in, and whose sign-ins failed. */
@Repository
@Transactional
public interface SessionQueries {
  /** Whose session it is, and when it was last used. */
  record Open(String account, String role, Instant seenAt) {}

  /** So many failures in a row, the last at a time, and until when the next try is refused. */
  record Failures(String subject, int failures, Instant lastAt, Instant blockedUntil) {}

  StatelessSession session();

  @SQL(
      "insert into sign_in_session (hash, account, opened_at, seen_at)"
          + " values (:hash, :account, :at, :at)")
  int open(byte[] hash, String account, Instant at);

  /** The session of this hash, if it was used since a time and its account may sign in. */
  @HQL(
      "select a.name, a.role, s.seenAt from SignInSession s join Account a on a.name = s.account"
          + " where s.hash = :hash and s.seenAt >= :since and a.disabledAt is null")
  Optional<Open> find(byte[] hash, Instant since);

  @HQL("update SignInSession s set s.seenAt = :at where s.hash = :hash")
  int seen(byte[] hash, Instant at);

  @HQL("delete from SignInSession s where s.hash = :hash")
  int close(byte[] hash);

  @HQL("delete from SignInSession s where s.account = :account")
  int closeAllOf(String account);

  @HQL("delete from SignInSession s where s.seenAt < :before")
  int deleteUnusedSince(Instant before);

  @HQL(
      "select f.subject, f.failures, f.lastAt, f.blockedUntil from FailedSignIn f"
          + " where f.subject in :subjects")
  List<Failures> failures(List<String> subjects);

  /** Counts one more failure, from one again if the last is older than {@code forgotten}. */
  @SQL(
      "with counted as (insert into failed_sign_in as f (subject, failures, last_at, blocked_until)"
          + " values (:subject, 1, :at, :at) on conflict (subject) do update set last_at = :at,"
          + " failures = case when f.last_at < :forgotten then 1 else f.failures + 1 end"
          + " returning failures) select failures from counted")
  int countFailure(String subject, Instant at, Instant forgotten);

  @HQL("update FailedSignIn f set f.blockedUntil = :until where f.subject = :subject")
  int block(String subject, Instant until);

  @HQL("delete from FailedSignIn f where f.subject in :subjects")
  int forgive(List<String> subjects);

  @HQL("delete from FailedSignIn f where f.lastAt < :before")
  int deleteFailuresBefore(Instant before);
}
