package longthread.service.access;

import com.github.benmanes.caffeine.cache.Cache;
import com.github.benmanes.caffeine.cache.Caffeine;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import longthread.service.storage.access.AccountQueries;
import longthread.service.storage.access.SessionQueries;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.dao.DataAccessException;
import org.springframework.http.HttpStatus;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.security.crypto.password.PasswordEncoder;
import org.springframework.stereotype.Service;
import org.springframework.transaction.TransactionException;

/**
 * Signs people in and out. Sessions are in the database, so that all replicas know them.
 *
 * <p>Guessing is slow: after {@value #FREE_TRIES} failures of an account from one address each
 * further try must wait twice as long as the one before, up to {@link #LONGEST_BLOCK}; the same
 * holds for all failures from an address, and for all of an account, after more of them. A refused
 * try costs no hash and holds no thread. Hashing itself is bounded, so that it leaves the
 * processors to others.
 */
@Service
class SignIns {
  static final int FREE_TRIES = 5;

  private static final Logger LOG = LoggerFactory.getLogger(SignIns.class);
  private static final int FREE_TRIES_OF_ADDRESS = 100;
  private static final int FREE_TRIES_OF_ACCOUNT = 100;
  private static final Duration FIRST_BLOCK = Duration.ofSeconds(30);
  private static final Duration LONGEST_BLOCK = Duration.ofMinutes(15);
  private static final int MAX_DOUBLINGS = 6;
  private static final Duration FAILURES_COUNT_FOR = Duration.ofHours(1);
  private static final Duration IDLE = Duration.ofHours(12);
  private static final Duration NOTED_AS_USED_AFTER = Duration.ofMinutes(5);
  private static final long CACHED_MILLIS = 5_000;
  private static final int MAX_CACHED = 10_000;
  private static final int HASHES_AT_ONCE =
      Math.max(1, Runtime.getRuntime().availableProcessors() / 2);
  private static final long MAX_WAIT_SECONDS = 3;
  private static final int MAX_PASSWORD_LENGTH = 1_000;

  /** Who is signed in. */
  record Person(String name, Held held) {
    Role role() {
      return held.role();
    }
  }

  private record Cached(Optional<Person> person, long until) {}

  private final AccountQueries accounts;
  private final SessionQueries sessions;
  private final Grants grants;
  private final PasswordEncoder encoder;
  private final Clock clock;
  private final Semaphore hashes = new Semaphore(HASHES_AT_ONCE);
  // Compared with when there is no such account, so that the time does not tell which names exist.
  private final String nobodysHash;
  private final Cache<String, Cached> cached =
      Caffeine.newBuilder().maximumSize(MAX_CACHED).executor(Runnable::run).build();

  SignIns(
      AccountQueries accounts,
      SessionQueries sessions,
      Grants grants,
      PasswordEncoder encoder,
      Clock clock) {
    this.accounts = accounts;
    this.grants = grants;
    grants.onChange(this::forgetCached);
    this.sessions = sessions;
    this.encoder = encoder;
    this.clock = clock;
    this.nobodysHash = encoder.encode("nobody");
  }

  /** A session that was opened: what its cookie holds, and whose it is. */
  record Opened(String token, Person person) {}

  /**
   * Signs a person in.
   *
   * @param address where the request comes from
   * @throws ProblemException with status 401 if name and password do not match, 403 if the account
   *     is disabled, 429 if too many tries failed, 503 if too many are tried at once
   */
  Opened signIn(String name, String password, String address) {
    List<String> subjects = subjects(name, address);
    refuseWhileBlocked(subjects);
    Optional<AccountQueries.Person> account = accounts.named(name);
    boolean right =
        password.length() <= MAX_PASSWORD_LENGTH
            && matches(password, account.map(AccountQueries.Person::passwordHash).orElse(null));
    if (!right || account.isEmpty()) {
      countFailure(subjects, name, address);
      throw new ProblemException(
          HttpStatus.UNAUTHORIZED,
          "wrong-sign-in",
          "Name and password do not match",
          "check both; whoever started the service has the first sign-in from its output");
    }
    sessions.forgive(subjects.subList(0, 1));
    if (account.get().disabledAt() != null) {
      LOG.warn("sign-in refused: account {} is disabled, from {}", name, address);
      throw new ProblemException(
          HttpStatus.FORBIDDEN,
          "account-disabled",
          "This account is disabled",
          "an administrator disabled it and can enable it again");
    }
    String token = open(name);
    LOG.info("signed in: {} from {}", name, address);
    return new Opened(token, person(name, account.get().role()));
  }

  /** Opens a session and returns the token of its cookie. */
  String open(String account) {
    String token = Tokens.make();
    Instant now = clock.instant();
    sessions.open(Tokens.hash(token), account, now);
    accounts.signedIn(account, now);
    return token;
  }

  /**
   * Whose session a cookie's token is.
   *
   * @throws DataAccessException or {@link TransactionException} if the database does not answer and
   *     the token was not seen before
   */
  Optional<Person> personOf(String token) {
    long now = clock.millis();
    Cached known = cached.getIfPresent(token);
    if (known != null && known.until() > now) {
      return known.person();
    }
    Optional<Person> person;
    try {
      person = stored(Tokens.hash(token));
    } catch (DataAccessException | TransactionException e) {
      if (known == null) {
        throw e;
      }
      person = known.person(); // while the database is unreachable, who was in may go on
    }
    cached.put(token, new Cached(person, now + CACHED_MILLIS));
    return person;
  }

  private Optional<Person> stored(byte[] hash) {
    Instant now = clock.instant();
    Optional<SessionQueries.Open> open = sessions.find(hash, now.minus(IDLE));
    if (open.filter(s -> s.seenAt().plus(NOTED_AS_USED_AFTER).isBefore(now)).isPresent()) {
      sessions.seen(hash, now);
    }
    return open.map(s -> person(s.account(), s.role()));
  }

  /** Somebody with a role of their own, and what is granted to them. */
  Person person(String account, String role) {
    return new Person(account, grants.ofAccount(account, Role.of(role).orElseThrow()));
  }

  /** Ends one session. */
  void signOut(String token) {
    sessions.close(Tokens.hash(token));
    cached.invalidate(token);
  }

  /** Ends all sessions of an account; other replicas notice within five seconds. */
  void signOutEverywhere(String account) {
    sessions.closeAllOf(account);
    forgetCached();
  }

  void forgetCached() {
    cached.invalidateAll();
  }

  /** Checks a password again, of who is signed in; failures count like those of a sign-in. */
  void confirm(String name, String password, String address) {
    List<String> subjects = subjects(name, address);
    refuseWhileBlocked(subjects);
    String hash = accounts.named(name).map(AccountQueries.Person::passwordHash).orElse(null);
    if (password.length() > MAX_PASSWORD_LENGTH || !matches(password, hash)) {
      countFailure(subjects, name, address);
      throw new ProblemException(
          HttpStatus.FORBIDDEN,
          "wrong-password",
          "That is not the present password",
          "give the password you signed in with as 'current'");
    }
  }

  /** Forgets sessions that ended and failures that no longer count. */
  @Scheduled(fixedDelayString = "PT10M", initialDelayString = "PT1M")
  void sweep() {
    Instant now = clock.instant();
    try {
      sessions.deleteUnusedSince(now.minus(IDLE));
      sessions.deleteFailuresBefore(now.minus(FAILURES_COUNT_FOR));
    } catch (DataAccessException | TransactionException e) {
      LOG.debug("ended sessions are removed later", e);
    }
  }

  private boolean matches(String password, @Nullable String hash) {
    if (!awaitTurn()) {
      throw ProblemException.busy(
          "sign-ins-busy", "too many people sign in at this moment; try again in a second");
    }
    try {
      boolean right = encoder.matches(password, hash == null ? nobodysHash : hash);
      return right && hash != null;
    } finally {
      hashes.release();
    }
  }

  private boolean awaitTurn() {
    try {
      return hashes.tryAcquire(MAX_WAIT_SECONDS, TimeUnit.SECONDS);
    } catch (InterruptedException e) {
      Thread.currentThread().interrupt();
      return false;
    }
  }

  /** What failures are counted of: the account from this address, the address, the account. */
  private static List<String> subjects(String name, String address) {
    String account = name.length() <= 100 ? name : Tokens.shortHash(name);
    return List.of(
        "account and address: " + account + " " + address,
        "address: " + address,
        "account: " + account);
  }

  private void refuseWhileBlocked(List<String> subjects) {
    Instant now = clock.instant();
    Instant until =
        sessions.failures(subjects).stream()
            .map(SessionQueries.Failures::blockedUntil)
            .max(Instant::compareTo)
            .orElse(now);
    if (until.isAfter(now)) {
      long seconds = Math.max(1, Duration.between(now, until).toSeconds());
      throw new ProblemException(
              HttpStatus.TOO_MANY_REQUESTS,
              "too-many-sign-ins",
              "Too many sign-ins failed",
              "the next one is possible in " + seconds + " seconds")
          .retryAfter(seconds);
    }
  }

  private void countFailure(List<String> subjects, String name, String address) {
    int[] free = {FREE_TRIES, FREE_TRIES_OF_ADDRESS, FREE_TRIES_OF_ACCOUNT};
    Instant now = clock.instant();
    int failures = 0;
    Duration longest = Duration.ZERO;
    for (int i = 0; i < free.length; i++) {
      int count = sessions.countFailure(subjects.get(i), now, now.minus(FAILURES_COUNT_FOR));
      failures = i == 0 ? count : failures;
      Duration block = block(count, free[i]);
      if (!block.isZero()) {
        sessions.block(subjects.get(i), now.plus(block));
        longest = block.compareTo(longest) > 0 ? block : longest;
      }
    }
    LOG.warn(
        "sign-in failed: {} from {}, {} in a row{}",
        printable(name),
        address,
        failures,
        longest.isZero() ? "" : "; refused for " + longest.toSeconds() + " seconds");
  }

  /** For how long the next try is refused after so many failures. */
  private static Duration block(int failures, int free) {
    if (failures < free) {
      return Duration.ZERO;
    }
    Duration block = FIRST_BLOCK.multipliedBy(1L << Math.min(failures - free, MAX_DOUBLINGS));
    return block.compareTo(LONGEST_BLOCK) > 0 ? LONGEST_BLOCK : block;
  }

  /** A name as anybody may send it, fit for a line of the log. */
  private static String printable(String name) {
    String line = name.replaceAll("[\\p{Cntrl}\\u2028\\u2029]", "?");
    return line.length() <= 100 ? line : line.substring(0, 100) + "…";
  }
}
