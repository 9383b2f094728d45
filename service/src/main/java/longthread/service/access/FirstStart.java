package longthread.service.access;

import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.boot.ApplicationArguments;
import org.springframework.boot.ApplicationRunner;
import org.springframework.stereotype.Component;

/**
 * Makes the first administrator of a database, and a key of the token that whoever starts the
 * service may give. Several services may share a database: what another made is left alone.
 */
@Component
class FirstStart implements ApplicationRunner {
  private static final Logger LOG = LoggerFactory.getLogger(FirstStart.class);

  private final Accounts accounts;
  private final Keys keys;
  private final FirstSignIn firstSignIn;
  private final String token;
  private final String firstPassword;

  FirstStart(
      Accounts accounts,
      Keys keys,
      FirstSignIn firstSignIn,
      @Value("${LONGTHREAD_ADMIN_TOKEN:}") String token,
      @Value("${LONGTHREAD_ADMIN_PASSWORD:}") String firstPassword) {
    this.accounts = accounts;
    this.keys = keys;
    this.firstSignIn = firstSignIn;
    this.token = token;
    this.firstPassword = firstPassword;
  }

  @Override
  public void run(ApplicationArguments args) {
    if (accounts.isEmpty()) {
      String password = firstPassword.isEmpty() ? Tokens.make() : firstPassword;
      if (accounts.addFirst(password) && firstPassword.isEmpty()) {
        // Printed this once, for the one who starts the service; only its hash is kept.
        System.out.println("first sign-in: " + FirstSignIn.NAME + " " + password);
      }
    }
    firstSignIn.works(
        !firstPassword.isEmpty() && accounts.matches(FirstSignIn.NAME, firstPassword));
    if (!token.isEmpty() && !keys.ensure("first-key", Role.ADMIN, token)) {
      LOG.warn(
          "the key given to this service at its start is revoked; to get another, remove the file"
              + " 'token' of its home and start it again");
    }
  }
}
