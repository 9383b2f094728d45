package longthread.client;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import picocli.CommandLine.Option;

/** Where the service is, and who calls it. */
final class Connection {
  @Option(
      names = "--url",
      paramLabel = "URL",
      description = "Address of the service; else LONGTHREAD_URL, else the demo of this checkout.")
  private @Nullable String url;

  @Option(
      names = "--token",
      paramLabel = "KEY",
      description = "The bearer key; else LONGTHREAD_TOKEN, else the one kept by login.")
  private @Nullable String token;

  /**
   * The service that is meant, with the key that belongs to its address. A key that the environment
   * names, or that the service of this checkout left in its home, goes to no other address.
   */
  ServiceClient service() {
    Named named = named();
    return new ServiceClient(named.address(), named.key());
  }

  /** The address of the service, and the key that belongs to it; an empty text for none. */
  record Named(String address, String key) {}

  /** As {@link #service}, for what sends by itself. */
  Named named() {
    return named(url, token);
  }

  /**
   * The service that is meant.
   *
   * @param url as an option names it; null for none
   * @param token as an option gives it; null for none
   */
  static Named named(@Nullable String url, @Nullable String token) {
    Map<String, String> environment = Main.environment();
    String named = environment.getOrDefault("LONGTHREAD_URL", "");
    String own = left(environment, "url");
    Logins logins = Logins.of(environment);
    String address = first(url, named, own, logins.only());
    if (address.isEmpty()) {
      throw new ServiceException(
          ServiceException.NOT_REACHABLE,
          "no service is named; start one with ./longthread demo, or name it with --url or"
              + " LONGTHREAD_URL");
    }
    String meant = Logins.spelled(address);
    String key = token;
    if (key == null && (named.isEmpty() || Logins.spelled(named).equals(meant))) {
      key = environment.get("LONGTHREAD_TOKEN");
    }
    if ((key == null || key.isEmpty()) && !own.isEmpty() && Logins.spelled(own).equals(meant)) {
      key = left(environment, "token");
    }
    if (key == null || key.isEmpty()) {
      key = logins.key(address).orElse("");
    }
    return new Named(address, key);
  }

  private static String first(@Nullable String... addresses) {
    for (String address : addresses) {
      if (address != null && !address.isEmpty()) {
        return address;
      }
    }
    return "";
  }

  /** What the service of this checkout left in its home: its address, its first key. */
  private static String left(Map<String, String> environment, String file) {
    String home = environment.getOrDefault("LONGTHREAD_HOME", "");
    Path path = Path.of(home, file);
    try {
      return !home.isEmpty() && Files.isReadable(path) ? Files.readString(path).strip() : "";
    } catch (IOException e) {
      throw new ServiceException(
          ServiceException.NOT_REACHABLE, path + " cannot be read: " + FileWords.why(e));
    }
  }
}
