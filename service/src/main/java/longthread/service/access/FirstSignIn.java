package longthread.service.access;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.stereotype.Component;

/**
 * Whether the first sign-in that a home keeps still works, as a file in that home: whoever starts
 * the service shows that sign-in only while the file is there.
 */
@Component
class FirstSignIn {
  /** The account that a new service has. */
  static final String NAME = "admin";

  private static final Logger LOG = LoggerFactory.getLogger(FirstSignIn.class);

  private final @Nullable Path file;

  FirstSignIn(@Value("${longthread.home}") String home) {
    file = home.isEmpty() ? null : Path.of(home, "first-sign-in.works");
  }

  void works(boolean works) {
    if (file == null) {
      return;
    }
    try {
      if (works) {
        Files.writeString(file, NAME + "\n");
      } else {
        Files.deleteIfExists(file);
      }
    } catch (IOException e) {
      LOG.warn("{} could not be written: {}", file, e.getMessage());
    }
  }

  void passwordChanged(String name) {
    if (name.equals(NAME)) {
      works(false);
    }
  }
}
