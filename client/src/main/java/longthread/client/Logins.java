package longthread.client;

import java.io.IOException;
import java.net.URI;
import java.net.URISyntaxException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.attribute.FileAttribute;
import java.nio.file.attribute.PosixFilePermissions;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;
import tools.jackson.core.JacksonException;
import tools.jackson.core.type.TypeReference;

/**
 * The keys that {@code longthread login} keeps, one for each address, in a file only its owner can
 * read. A key is never given to another address than the one it was kept for.
 */
final class Logins {
  private final Path file;

  private Logins(Path file) {
    this.file = file;
  }

  /** Those of the user whom the environment names: below XDG_CONFIG_HOME, else HOME. */
  static Logins of(Map<String, String> environment) {
    String configured = environment.getOrDefault("XDG_CONFIG_HOME", "");
    String home = environment.getOrDefault("HOME", System.getProperty("user.home"));
    Path folder = configured.isEmpty() ? Path.of(home, ".config") : Path.of(configured);
    return new Logins(folder.resolve("longthread").resolve("logins.json"));
  }

  /**
   * An address in the one spelling that addresses are compared in: scheme and host in small
   * letters, the port written out, no slash at the end; localhost is 127.0.0.1.
   */
  static String spelled(String address) {
    try {
      URI uri = new URI(address.strip());
      String scheme = uri.getScheme() == null ? "" : uri.getScheme().toLowerCase(Locale.ROOT);
      String host = uri.getHost();
      if (host == null || !(scheme.equals("http") || scheme.equals("https"))) {
        throw notAnAddress(address);
      }
      host = host.toLowerCase(Locale.ROOT);
      host = host.equals("localhost") ? "127.0.0.1" : host;
      int usual = scheme.equals("https") ? 443 : 80;
      String path = uri.getRawPath() == null ? "" : uri.getRawPath().replaceAll("/+$", "");
      return scheme + "://" + host + ":" + (uri.getPort() < 0 ? usual : uri.getPort()) + path;
    } catch (URISyntaxException e) {
      throw notAnAddress(address);
    }
  }

  private static ServiceException notAnAddress(String address) {
    return new ServiceException(
        ServiceException.WRONG_USAGE,
        "'" + address + "' is not an address; write it like https://catalog.example:8443");
  }

  /** The key kept for an address. */
  Optional<String> key(String address) {
    return Optional.ofNullable(read().get(spelled(address)));
  }

  /** The one address that a key is kept for; null if there are none or several. */
  @Nullable String only() {
    Map<String, String> kept = read();
    return kept.size() == 1 ? kept.keySet().iterator().next() : null;
  }

  void keep(String address, String key) {
    Map<String, String> kept = read();
    kept.put(spelled(address), key);
    write(kept);
  }

  /** Forgets the key of an address; false if there is none. */
  boolean forget(String address) {
    Map<String, String> kept = read();
    boolean had = kept.remove(spelled(address)) != null;
    if (had) {
      write(kept);
    }
    return had;
  }

  private Map<String, String> read() {
    try {
      return Files.exists(file)
          ? ServiceClient.MAPPER.readValue(
              Files.readString(file), new TypeReference<TreeMap<String, String>>() {})
          : new TreeMap<>();
    } catch (IOException | JacksonException e) {
      throw new ServiceException(
          ServiceException.WRONG_USAGE,
          file + " cannot be read as kept logins; mend it, or delete it and log in again");
    }
  }

  private void write(Map<String, String> kept) {
    try {
      Files.createDirectories(file.getParent(), permissions("rwx------"));
      // Made unreadable for others before anything is in it, then moved to its place whole.
      Path beside =
          Files.createTempFile(file.getParent(), "logins", ".json", permissions("rw-------"));
      Files.write(
          beside, ServiceClient.MAPPER.writeValueAsString(kept).getBytes(StandardCharsets.UTF_8));
      Files.move(beside, file, StandardCopyOption.REPLACE_EXISTING, StandardCopyOption.ATOMIC_MOVE);
    } catch (IOException e) {
      throw new ServiceException(
          ServiceException.WRONG_USAGE, file + " cannot be written: " + FileWords.why(e));
    }
  }

  private static FileAttribute<?> permissions(String letters) {
    return PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString(letters));
  }
}
