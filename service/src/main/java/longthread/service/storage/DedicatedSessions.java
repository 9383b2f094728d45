package longthread.service.storage;

import jakarta.persistence.EntityManagerFactory;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.List;
import java.util.Properties;
import org.hibernate.SessionFactory;
import org.hibernate.StatelessSession;
import org.postgresql.Driver;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.dao.DataAccessResourceFailureException;
import org.springframework.stereotype.Component;

/**
 * Opens sessions on connections of their own, outside the pool: for what must hold its connection,
 * such as a lock, or must not wait behind queries.
 */
@Component
public class DedicatedSessions {
  private static final int MAX_STATEMENT_SECONDS = 300;

  private final SessionFactory factory;
  private final String url;
  private final String user;
  private final String password;

  DedicatedSessions(
      EntityManagerFactory factory,
      @Value("${spring.datasource.url}") String url,
      @Value("${spring.datasource.username}") String user,
      @Value("${spring.datasource.password}") String password) {
    this.factory = factory.unwrap(SessionFactory.class);
    this.url = url;
    this.user = user;
    this.password = password;
  }

  /**
   * Connects for work on a catalog: statements may take minutes, and a server that lost this
   * client's machine frees its locks within about three seconds.
   *
   * @param schema whose catalog it works on
   * @throws DataAccessResourceFailureException if the database cannot be reached
   */
  public DedicatedSession forCatalog(String schema) {
    return open(
        "longthread applier",
        MAX_STATEMENT_SECONDS,
        List.of(
            "set search_path to " + schema + ", public",
            "set tcp_keepalives_idle = 1",
            "set tcp_keepalives_interval = 1",
            "set tcp_keepalives_count = 2"));
  }

  /**
   * Connects for the log, where somebody waits for each commit.
   *
   * @throws DataAccessResourceFailureException if the database cannot be reached
   */
  public DedicatedSession forLog() {
    return open("longthread log", 10, List.of());
  }

  private DedicatedSession open(String application, int statementSeconds, List<String> settings) {
    var properties = new Properties();
    properties.setProperty("user", user);
    properties.setProperty("password", password);
    properties.setProperty("tcpKeepAlive", "true");
    properties.setProperty("connectTimeout", "4");
    properties.setProperty("socketTimeout", String.valueOf(statementSeconds));
    properties.setProperty("ApplicationName", application);
    try {
      Connection connection = new Driver().connect(url, properties);
      if (connection == null) {
        throw new DataAccessResourceFailureException(
            "the address " + url + " is not one of PostgreSQL; it begins with jdbc:postgresql://");
      }
      StatelessSession session = factory.openStatelessSession(connection);
      var dedicated = new DedicatedSession(connection, session);
      settings.forEach(dedicated::set);
      return dedicated;
    } catch (SQLException e) {
      throw new DataAccessResourceFailureException(e.getMessage(), e);
    }
  }
}
