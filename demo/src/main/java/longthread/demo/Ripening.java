package longthread.demo;

import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;

/** The cellar team's database: a real one, of which nothing reports until somebody reads it. */
final class Ripening {
  static final String DATABASE = "ripening";
  static final String READER = "ripening_reader";

  private Ripening() {}

  /**
   * Makes the database, unless it is there, with a role that can only read.
   *
   * @param url of another database on the same server
   * @param password of the owner, and of the reader
   */
  static void create(String url, String password) throws SQLException {
    try (Connection server = DriverManager.getConnection(url, "longthread", password);
        Statement statement = server.createStatement()) {
      try (ResultSet there =
          statement.executeQuery("select 1 from pg_database where datname = '" + DATABASE + "'")) {
        if (there.next()) {
          return;
        }
      }
      statement.execute("create database " + DATABASE);
      statement.execute(
          "do $$ begin if not exists (select from pg_roles where rolname = '"
              + READER
              + "') then create role "
              + READER
              + " login; end if; end $$");
      statement.execute("alter role " + READER + " password '" + password.replace("'", "''") + "'");
    }
    String own = url.substring(0, url.lastIndexOf('/') + 1) + DATABASE;
    try (Connection ripening = DriverManager.getConnection(own, "longthread", password);
        Statement statement = ripening.createStatement()) {
      statement.execute(Task.resource("ripening.sql"));
      statement.execute("grant usage on schema public to " + READER);
      statement.execute("analyze");
    }
  }
}
