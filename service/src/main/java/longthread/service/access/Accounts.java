package longthread.service.access;

import java.nio.charset.StandardCharsets;
import java.time.Clock;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import longthread.service.storage.access.AccountQueries;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.security.crypto.password.PasswordEncoder;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/**
 * The accounts of the people who sign in to the console.
 *
 * <p>At least one account that is not disabled is an administrator's: a change that would leave
 * none is refused. Whoever is disabled, removed, or gets another password is signed out everywhere.
 */
@Service
class Accounts {
  private static final int MIN_PASSWORD_LENGTH = 10;

  /** More bytes than these do not count in the hash (bcrypt), so they are refused. */
  private static final int MAX_PASSWORD_BYTES = 72;

  private static final int MAX_DISPLAY_NAME = 200;

  /**
   * An account; only the hash of its password is kept.
   *
   * @param issuer the provider at which its owner signs in; null for a local account
   */
  record Account(
      String name,
      String displayName,
      String passwordHash,
      Role role,
      Instant createdAt,
      @Nullable Instant disabledAt,
      @Nullable Instant lastSignInAt,
      @Nullable String issuer) {}

  private final AccountQueries stored;
  private final SignIns signIns;
  private final Grants grants;
  private final PasswordEncoder encoder;
  private final Clock clock;

  Accounts(
      AccountQueries stored, SignIns signIns, Grants grants, PasswordEncoder encoder, Clock clock) {
    this.stored = stored;
    this.grants = grants;
    this.signIns = signIns;
    this.encoder = encoder;
    this.clock = clock;
  }

  Optional<Account> named(String name) {
    return stored.named(name).map(Accounts::account);
  }

  List<Account> list() {
    return stored.all().stream().map(Accounts::account).toList();
  }

  boolean isEmpty() {
    return stored.count() == 0;
  }

  private static Account account(AccountQueries.Person person) {
    return new Account(
        person.name(),
        person.displayName(),
        person.passwordHash(),
        Role.of(person.role()).orElseThrow(),
        person.createdAt(),
        person.disabledAt(),
        person.lastSignInAt(),
        person.issuer());
  }

  /**
   * Adds an account.
   *
   * @param displayName what people call its owner; the name if it is null
   * @throws ProblemException if the password is too short or too long, or the name cannot be one or
   *     is in use
   */
  Account add(
      @Nullable String given, @Nullable String displayName, @Nullable String password, Role role) {
    String hash = encoder.encode(checkedPassword(password));
    String name = HolderNames.checked(given);
    if (stored.add(name, shown(displayName, name), hash, role.word(), clock.instant()) == 0) {
      throw new ProblemException(
          HttpStatus.CONFLICT,
          "account-exists",
          "There is an account of that name",
          "an account named '" + name + "' exists; choose another name");
    }
    return existing(name);
  }

  /**
   * Adds the first administrator, whose password the one who starts the service chooses; returns
   * false if another service on this database was first.
   */
  boolean addFirst(String password) {
    return stored.add(
            "admin", "Administrator", encoder.encode(password), Role.ADMIN.word(), clock.instant())
        > 0;
  }

  /** Whether a password is that of an account. */
  boolean matches(String name, String password) {
    return named(name).filter(a -> encoder.matches(password, a.passwordHash())).isPresent();
  }

  /**
   * Changes what is given of an account; null leaves it.
   *
   * @throws ProblemException if there is no such account, or no administrator would be left
   */
  @Transactional
  Account change(
      String name, @Nullable String displayName, @Nullable Role role, @Nullable Boolean disabled) {
    List<String> admins = stored.lockAdmins();
    Account now = existing(name);
    Role nextRole = role == null ? now.role() : role;
    boolean nextDisabled = disabled == null ? now.disabledAt() != null : disabled;
    if (nextRole != Role.ADMIN || nextDisabled) {
      keepAnAdministrator(admins, name);
    }
    Instant disabledAt =
        !nextDisabled ? null : now.disabledAt() != null ? now.disabledAt() : clock.instant();
    stored.change(
        name,
        displayName == null ? now.displayName() : shown(displayName, name),
        nextRole.word(),
        disabledAt);
    if (nextDisabled) {
      signIns.signOutEverywhere(name);
    }
    signIns.forgetCached();
    return existing(name);
  }

  /** Gives an account another password and ends all its sessions. */
  @Transactional
  void changePassword(String name, @Nullable String password) {
    String hash = encoder.encode(checkedPassword(password));
    if (existing(name).issuer() != null) {
      throw new ProblemException(
          HttpStatus.CONFLICT,
          "provider-account",
          "This account has no password here",
          "'" + name + "' signs in at the provider; change the password there");
    }
    stored.changePassword(name, hash);
    signIns.signOutEverywhere(name);
  }

  /**
   * Removes an account with its sessions, keys, watches and shared links; what it did stays under
   * its name.
   *
   * @throws ProblemException if there is no such account, or no administrator would be left
   */
  @Transactional
  void delete(String name) {
    List<String> admins = stored.lockAdmins();
    existing(name);
    keepAnAdministrator(admins, name);
    signIns.signOutEverywhere(name);
    grants.endAllOf(Grants.HolderKind.ACCOUNT, name); // another may get that name one day
    stored.endKeysOf(name, clock.instant());
    stored.endLinksOf(name, clock.instant());
    stored.endWatchesOf(name);
    stored.delete(name);
  }

  /**
   * The account of this name.
   *
   * @throws ProblemException if there is none
   */
  private Account existing(String name) {
    return named(name)
        .orElseThrow(
            () ->
                new ProblemException(
                    HttpStatus.NOT_FOUND,
                    "unknown-account",
                    "There is no such account",
                    "no account is named '" + name + "'; GET /api/v1/accounts lists them"));
  }

  private static void keepAnAdministrator(List<String> admins, String name) {
    if (admins.size() == 1 && admins.contains(name)) {
      throw new ProblemException(
          HttpStatus.CONFLICT,
          "last-administrator",
          "No administrator would be left",
          "'" + name + "' is the only administrator; make another account one first");
    }
  }

  private static String checkedPassword(@Nullable String password) {
    if (password == null || password.length() < MIN_PASSWORD_LENGTH) {
      throw ProblemException.badRequest(
          "short-password",
          "the password has fewer than "
              + MIN_PASSWORD_LENGTH
              + " characters; choose a longer one");
    }
    if (password.getBytes(StandardCharsets.UTF_8).length > MAX_PASSWORD_BYTES) {
      throw ProblemException.badRequest(
          "long-password",
          "the password has more than "
              + MAX_PASSWORD_BYTES
              + " bytes as UTF-8; choose a shorter one");
    }
    return password;
  }

  private static String shown(@Nullable String displayName, String name) {
    if (displayName == null || displayName.isBlank()) {
      return name;
    }
    if (displayName.length() > MAX_DISPLAY_NAME
        || displayName.chars().anyMatch(c -> c < ' ' || c == 0x7F)) {
      throw ProblemException.badRequest(
          "bad-name",
          "a display name has at most "
              + MAX_DISPLAY_NAME
              + " characters and no control characters; give such a name");
    }
    return displayName;
  }
}
