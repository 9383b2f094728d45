package longthread.service.access;

import java.security.SecureRandom;
import java.util.HexFormat;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.boot.ApplicationArguments;
import org.springframework.boot.ApplicationRunner;
import org.springframework.stereotype.Component;

/** Makes the first administrator, and the key that whoever starts the service may give. */
@Component
class FirstStart implements ApplicationRunner {
  private final Accounts accounts;
  private final Keys keys;
  private final String token;
  private final String firstPassword;

  FirstStart(
      Accounts accounts,
      Keys keys,
      @Value("${LONGTHREAD_ADMIN_TOKEN:}") String token,
      @Value("${LONGTHREAD_ADMIN_PASSWORD:}") String firstPassword) {
    this.accounts = accounts;
    this.keys = keys;
    this.token = token;
    this.firstPassword = firstPassword;
  }

  @Override
  public void run(ApplicationArguments args) {
    if (accounts.isEmpty()) {
      String password = firstPassword;
      if (password.isEmpty()) {
        byte[] bytes = new byte[9];
        new SecureRandom().nextBytes(bytes);
        password = HexFormat.of().formatHex(bytes);
        // Printed this once, by the one who starts the service; only its hash is kept.
        System.out.println("first sign-in: admin " + password);
      }
      accounts.addFirst(password);
    }
    if (!token.isEmpty()) {
      keys.ensure("first-key", Role.ADMIN, token);
    }
  }
}
