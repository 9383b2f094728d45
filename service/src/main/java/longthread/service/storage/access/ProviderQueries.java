package longthread.service.storage.access;

import java.time.Instant;
import java.util.Optional;
import org.hibernate.StatelessSession;
import org.hibernate.annotations.processing.HQL;
import org.hibernate.annotations.processing.SQL;
import org.jspecify.annotations.Nullable;
import org.springframework.stereotype.Repository;
import org.springframework.transaction.annotation.Transactional;

/** Sign-ins at an OpenID Connect provider, and the accounts and sessions that they opened. */
@Repository
@Transactional
public interface ProviderQueries {
  /** What is needed when somebody comes back from the provider. */
  record Started(String nonce, String verifier, String target) {}

  /** The account of somebody whom a provider knows. */
  record Known(String name, @Nullable Instant disabledAt) {}

  StatelessSession session();

  @SQL(
      "insert into provider_sign_in (state, browser, nonce, verifier, target, started_at)"
          + " values (:state, :browser, :nonce, :verifier, :target, :at)")
  int start(byte[] state, byte[] browser, String nonce, String verifier, String target, Instant at);

  /** How many are at the provider and not back yet. */
  @HQL("select count(p) from ProviderSignIn p")
  long waiting();

  /** What was started with this state by this browser since a time; it can be taken once. */
  @SQL(
      "with taken as (delete from provider_sign_in where state = :state and browser = :browser"
          + " and started_at >= :since returning nonce, verifier, target)"
          + " select nonce, verifier, target from taken")
  Optional<Started> take(byte[] state, byte[] browser, Instant since);

  @HQL("delete from ProviderSignIn p where p.startedAt < :before")
  int deleteBefore(Instant before);

  @HQL(
      "select a.name, a.disabledAt from Account a where a.issuer = :issuer and a.subject = :subject")
  Optional<Known> account(String issuer, String subject);

  /** Adds an account; returns 0 if there is one of that name, or of that subject. */
  @SQL(
      "insert into account (name, display_name, password_hash, role, created_at, issuer, subject)"
          + " values (:name, :displayName, :passwordHash, :role, :at, :issuer, :subject)"
          + " on conflict do nothing")
  int add(
      String name,
      String displayName,
      String passwordHash,
      String role,
      Instant at,
      String issuer,
      String subject);

  /** Sets what the provider says of an account. */
  @HQL(
      "update Account a set a.displayName = :displayName, a.role = :role where a.issuer = :issuer"
          + " and a.subject = :subject")
  int update(String issuer, String subject, String displayName, String role);

  /** Notes by what a session is known to the provider. */
  @SQL(
      "update sign_in_session set id_token = :idToken,"
          + " provider_session = nullif(:providerSession, '') where hash = :hash")
  int mark(byte[] hash, String idToken, String providerSession);

  /** The token by which a session is ended at the provider. */
  @SQL("select id_token from sign_in_session where hash = :hash and id_token is not null")
  Optional<String> idToken(byte[] hash);

  /** Ends the sessions that the provider names so. */
  @SQL("delete from sign_in_session where provider_session = :providerSession")
  int endSession(String providerSession);

  /** Ends all sessions of whom the provider names so. */
  @SQL(
      "delete from sign_in_session where account in"
          + " (select name from account where issuer = :issuer and subject = :subject)")
  int endAllOf(String issuer, String subject);
}
