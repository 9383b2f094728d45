package longthread.service.access;

import java.security.SecureRandom;
import java.util.HexFormat;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.boot.ApplicationArguments;
import org.springframework.boot.ApplicationRunner;
import org.springframework.security.crypto.password.PasswordEncoder;
import org.springframework.stereotype.Component;

/** Makes the first administrator, and the key that whoever starts the service may hand in. */
@Component
class FirstStart implements ApplicationRunner {
  private final Accounts accounts;
  private final Keys keys;
  private final PasswordEncoder encoder;
  private final String token;
  private final String firstPassword;

  FirstStart(
      Accounts accounts,
      Keys keys,
      PasswordEncoder encoder,
      @Value("${LONGTHREAD_ADMIN_TOKEN:}") String token,
      @Value("${LONGTHREAD_ADMIN_PASSWORD:}") String firstPassword) {
    this.accounts = accounts;
    this.keys = keys;
    this.encoder = encoder;
    this.token = token;
    this.firstPassword = firstPassword;
  }

  @Override
  public void run(ApplicationArguments args) {
    if (accounts.count() == 0) {
      String password = firstPassword;
      if (password.isEmpty()) {
        byte[] bytes = new byte[9];
        new SecureRandom().nextBytes(bytes);
        password = HexFormat.of().formatHex(bytes);
        // Printed this once, by the one who starts the service; only its hash is kept.
        System.out.println("first sign-in: admin " + password);
      }
      accounts.save(new Account("admin", "Administrator", encoder.encode(password), Role.ADMIN));
    }
    if (!token.isEmpty()) {
      keys.ensure("first-key", Role.ADMIN, token);
    }
  }
}
