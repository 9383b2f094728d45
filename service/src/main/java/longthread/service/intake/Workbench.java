package longthread.service.intake;

import io.micrometer.core.instrument.MeterRegistry;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.Properties;
import longthread.core.sql.SqlReader;
import org.postgresql.Driver;
import org.springframework.jdbc.core.JdbcTemplate;
import org.springframework.jdbc.datasource.SingleConnectionDataSource;
import org.springframework.jdbc.support.JdbcTransactionManager;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * One connection of its own to the database, and all that works events into the catalog over it.
 * What it holds as a session, such as an advisory lock, is lost together with the connection.
 */
final class Workbench implements AutoCloseable {
  /** The address of the database and who asks. */
  record Address(String url, String user, String password) {}

  private static final int LONGEST_STATEMENT_SECONDS = 300;

  private final SingleConnectionDataSource source;
  final JdbcTemplate jdbc;
  final TransactionTemplate transactions;
  final CatalogWriter catalog;
  final EmitterWriter emitters;
  final Stages stages;

  private Workbench(Connection connection, SqlReader reader, MeterRegistry meters) {
    source = new SingleConnectionDataSource(connection, true);
    jdbc = new JdbcTemplate(source);
    transactions = new TransactionTemplate(new JdbcTransactionManager(source));
    stages = new Stages(meters);
    catalog = new CatalogWriter(jdbc, reader, stages);
    emitters = new EmitterWriter(jdbc);
  }

  /**
   * Connects.
   *
   * @param schema the schema whose catalog it works on
   * @throws SQLException if the database cannot be reached
   */
  static Workbench open(Address address, String schema, SqlReader reader, MeterRegistry meters)
      throws SQLException {
    var properties = new Properties();
    properties.setProperty("user", address.user());
    properties.setProperty("password", address.password());
    properties.setProperty("reWriteBatchedInserts", "true");
    properties.setProperty("tcpKeepAlive", "true");
    properties.setProperty("connectTimeout", "4");
    properties.setProperty("socketTimeout", String.valueOf(LONGEST_STATEMENT_SECONDS));
    properties.setProperty("ApplicationName", "longthread applier");
    Connection connection = new Driver().connect(address.url(), properties);
    if (connection == null) {
      throw new SQLException("the address " + address.url() + " is not one of PostgreSQL");
    }
    var bench = new Workbench(connection, reader, meters);
    bench.jdbc.execute("set search_path to " + schema + ", public");
    // A server that lost this client's machine gives its lock free within about three seconds.
    bench.jdbc.execute("set tcp_keepalives_idle = 1");
    bench.jdbc.execute("set tcp_keepalives_interval = 1");
    bench.jdbc.execute("set tcp_keepalives_count = 2");
    return bench;
  }

  @Override
  public void close() {
    source.destroy();
  }
}
