package longthread.reader;

import java.time.Duration;
import java.util.List;
import java.util.Locale;
import java.util.Properties;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/**
 * What to read of which PostgreSQL database.
 *
 * @param namespace under which its tables are reported; {@code postgres://host:port} as the
 *     standard names them
 * @param schemas which of its schemas, by name; empty for all but those of the system
 * @param statementTime how long one statement may take
 */
public record PostgresSettings(
    String host,
    int port,
    String database,
    String user,
    @Nullable String password,
    String namespace,
    List<String> schemas,
    Duration statementTime) {
  private static final Pattern URL =
      Pattern.compile(
          "(?:jdbc:)?postgres(?:ql)?://(?:([^@/]+)@)?([^:/?@]+|\\[[^]]+])(?::(\\d+))?/([^?/]+)(?:\\?.*)?");
  private static final int DEFAULT_PORT = 5432;

  public PostgresSettings {
    schemas = List.copyOf(schemas);
  }

  /**
   * Reads an address.
   *
   * @param url {@code postgres://user@host:port/database}
   * @param user where the address has none; null for the one in it
   * @throws IllegalArgumentException if it cannot be read or carries a password
   */
  public static PostgresSettings of(
      String url, @Nullable String user, @Nullable String password, List<String> schemas) {
    Matcher parts = URL.matcher(url.strip());
    if (!parts.matches()) {
      throw new IllegalArgumentException(
          "'"
              + withoutPassword(url)
              + "' is no address of a PostgreSQL database; write"
              + " postgres://user@host:5432/database");
    }
    String inUrl = parts.group(1);
    if (inUrl != null && inUrl.indexOf(':') >= 0) {
      throw new IllegalArgumentException(
          "the address has a password in it, which would be seen by others; give it in a file or an"
              + " environment variable");
    }
    String name = user != null ? user : inUrl;
    if (name == null) {
      throw new IllegalArgumentException(
          "the address names no user; write postgres://user@host:5432/database");
    }
    String host = parts.group(2).toLowerCase(Locale.ROOT);
    int port = parts.group(3) == null ? DEFAULT_PORT : Integer.parseInt(parts.group(3));
    return new PostgresSettings(
        host,
        port,
        parts.group(4),
        name,
        password,
        "postgres://" + host + ":" + port,
        schemas,
        Duration.ofSeconds(30));
  }

  private static String withoutPassword(String url) {
    return url.replaceAll(":[^:@/]*@", ":…@");
  }

  /** The same under another namespace: that by which other programs know the database. */
  public PostgresSettings under(String other) {
    return new PostgresSettings(
        host, port, database, user, password, other, schemas, statementTime);
  }

  String jdbcUrl() {
    return "jdbc:postgresql://" + host + ":" + port + "/" + database;
  }

  Properties login() {
    var login = new Properties();
    login.setProperty("user", user);
    if (password != null) {
      login.setProperty("password", password);
    }
    login.setProperty("ApplicationName", "longthread reader");
    login.setProperty("connectTimeout", "10");
    login.setProperty("socketTimeout", "" + (statementTime.toSeconds() + 30));
    login.setProperty("readOnly", "true");
    // Named in full, so that definitions come out with the schema of every table.
    login.setProperty(
        "options",
        "-c default_transaction_read_only=on -c search_path=pg_catalog -c lock_timeout=2000"
            + " -c statement_timeout="
            + statementTime.toMillis());
    return login;
  }

  @Override
  public String toString() {
    return "postgres://" + user + "@" + host + ":" + port + "/" + database;
  }
}
