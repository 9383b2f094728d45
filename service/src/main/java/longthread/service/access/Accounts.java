package longthread.service.access;

import java.nio.charset.StandardCharsets;
import java.util.Optional;
import longthread.service.storage.access.AccessQueries;
import longthread.service.web.ProblemException;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpStatus;
import org.springframework.security.crypto.password.PasswordEncoder;
import org.springframework.stereotype.Service;

/** The accounts of the people who sign in to the console. */
@Service
class Accounts {
  private static final int MIN_PASSWORD_LENGTH = 10;

  /** More bytes than these do not count in the hash (bcrypt), so they are refused. */
  private static final int MAX_PASSWORD_BYTES = 72;

  /** An account; only the hash of its password is kept. */
  record Account(String name, String displayName, String passwordHash, Role role) {}

  private final AccessQueries stored;
  private final PasswordEncoder encoder;

  Accounts(AccessQueries stored, PasswordEncoder encoder) {
    this.stored = stored;
    this.encoder = encoder;
  }

  Optional<Account> named(String name) {
    return stored
        .account(name)
        .map(
            person ->
                new Account(
                    person.name(),
                    person.displayName(),
                    person.passwordHash(),
                    Role.of(person.role()).orElseThrow()));
  }

  boolean isEmpty() {
    return stored.accounts() == 0;
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
    String name = HolderNames.checked(given);
    return insert(
        name,
        displayName == null || displayName.isBlank() ? name : displayName.replace('\0', ' '),
        password,
        role);
  }

  /** Adds the first administrator, whose password the one who starts the service chooses. */
  void addFirst(String password) {
    insert("admin", "Administrator", password, Role.ADMIN);
  }

  private Account insert(String name, String displayName, String password, Role role) {
    var account = new Account(name, displayName, encoder.encode(password), role);
    if (stored.addAccount(name, displayName, account.passwordHash(), role.word()) == 0) {
      throw new ProblemException(
          HttpStatus.CONFLICT,
          "account-exists",
          "There is an account of that name",
          "an account named '" + name + "' exists; choose another name");
    }
    return account;
  }
}
