package longthread.reader;

import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * Reads a few rows of a table or view of PostgreSQL, in a transaction that can change nothing and
 * ends by itself. Only the columns that are asked for leave the database.
 */
public final class PostgresPreview {
  /** Types whose text says nothing to a person. */
  private static final List<String> WITHOUT_TEXT = List.of("bytea");

  private record Column(String name, String type) {}

  private PostgresPreview() {}

  /**
   * Reads rows, in no order.
   *
   * @param wanted names of columns, in any case; those that the table does not have are left out
   * @throws UnreadableSourceException if there is no such table, or it cannot be read in time
   */
  public static Preview read(
      PostgresSettings settings,
      String schema,
      String table,
      List<String> wanted,
      Preview.Bounds bounds)
      throws UnreadableSourceException {
    try (Connection connection =
        DriverManager.getConnection(settings.jdbcUrl(), settings.login())) {
      connection.setAutoCommit(false);
      connection.setReadOnly(true);
      List<Column> columns = columns(connection, schema, table, wanted);
      if (columns.isEmpty()) {
        throw new UnreadableSourceException(
            "the database has no table "
                + schema
                + "."
                + table
                + " with any of these columns that "
                + settings.user()
                + " may read");
      }
      return rows(connection, schema, table, columns, bounds);
    } catch (SQLException e) {
      throw new UnreadableSourceException(
          "the database cannot be read: "
              + String.valueOf(e.getMessage()).lines().findFirst().orElse(""),
          e);
    }
  }

  private static List<Column> columns(
      Connection connection, String schema, String table, List<String> wanted) throws SQLException {
    Map<String, Column> exact = new HashMap<>();
    Map<String, Column> anyCase = new HashMap<>();
    try (PreparedStatement statement =
        connection.prepareStatement(
            "select a.attname, format_type(a.atttypid, null) from pg_attribute a"
                + " join pg_class c on c.oid = a.attrelid join pg_namespace n on n.oid ="
                + " c.relnamespace where n.nspname = ? and c.relname = ? and a.attnum > 0"
                + " and not a.attisdropped and c.relkind in ('r', 'p', 'v', 'm', 'f')"
                + " and has_schema_privilege(n.oid, 'usage')"
                + " and has_column_privilege(c.oid, a.attnum, 'select')")) {
      statement.setString(1, schema);
      statement.setString(2, table);
      try (ResultSet row = statement.executeQuery()) {
        while (row.next()) {
          var column = new Column(row.getString(1), row.getString(2));
          exact.put(column.name(), column);
          anyCase.put(column.name().toLowerCase(java.util.Locale.ROOT), column);
        }
      }
    }
    var found = new ArrayList<Column>();
    for (String name : wanted) {
      Column column =
          exact.getOrDefault(name, anyCase.get(name.toLowerCase(java.util.Locale.ROOT)));
      if (column != null && !found.contains(column)) {
        found.add(column);
      }
    }
    return found;
  }

  private static Preview rows(
      Connection connection,
      String schema,
      String table,
      List<Column> columns,
      Preview.Bounds bounds)
      throws SQLException {
    var values = new ArrayList<String>();
    for (Column column : columns) {
      String name = "t." + quoted(column.name());
      // One letter more than is shown, so that it is known whether anything was cut.
      values.add(
          WITHOUT_TEXT.contains(column.type())
              ? "case when " + name + " is not null then length(" + name + ") || ' bytes' end"
              : "left(" + name + "::text, " + (bounds.value() + 1) + ")");
    }
    String query =
        "select "
            + String.join(", ", values)
            + " from "
            + quoted(schema)
            + "."
            + quoted(table)
            + " t limit "
            + (bounds.rows() + 1);
    var collector = new Preview.Collector(bounds);
    try (Statement statement = connection.createStatement()) {
      statement.setFetchSize(bounds.rows() + 1);
      try (ResultSet row = statement.executeQuery(query)) {
        boolean isRoom = true;
        while (isRoom && row.next()) {
          var texts = new ArrayList<@Nullable String>();
          for (int i = 1; i <= columns.size(); i++) {
            texts.add(row.getString(i));
          }
          isRoom = collector.add(texts);
        }
      }
    }
    return collector.of(columns.stream().map(Column::name).toList());
  }

  private static String quoted(String name) {
    return "\"" + name.replace("\"", "\"\"") + "\"";
  }
}
