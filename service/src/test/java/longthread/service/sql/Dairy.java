package longthread.service.sql;

import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import longthread.core.sql.KnownColumn;
import longthread.core.sql.KnownTables;
import longthread.service.testing.TestPostgres;

/**
 * A small dairy in a real database, many times over: once as it is, and once for each way of
 * changing the values of one column. What a query yields on each shows what it depends on.
 */
final class Dairy implements AutoCloseable {
  private static final int ROWS = 8;

  /**
   * A column, and how its values may look; few of them, so that joins match and groups are shared.
   */
  record Column(String table, String name, String type) {
    @Override
    public String toString() {
      return table + "." + name;
    }
  }

  private static final Map<String, List<String>> TABLES = new LinkedHashMap<>();

  static {
    table("farm", "farm_id int", "farm_name text", "iban text", "route_id int", "herd_size int");
    table(
        "pickup",
        "pickup_id bigint",
        "farm_id int",
        "tanker_id int",
        "picked_at timestamp",
        "litres numeric(8,1)",
        "temperature_c numeric(4,1)",
        "sample_no text");
    table(
        "lab",
        "sample_no text",
        "fat numeric(6,2)",
        "protein numeric(6,2)",
        "cell_count int",
        "residue boolean",
        "measured_at timestamp");
    table("route", "route_id int", "route_name text", "length_km numeric(6,1)", "closed boolean");
    table("tanker", "tanker_id int", "own boolean", "capacity int");
    table("price", "quality_class text", "cents numeric(6,2)");
    table("batch", "batch_id int", "dairy text", "kg numeric(8,1)", "started date", "ripe date");
    table("turning", "batch_id int", "turned_at timestamp", "side text");
  }

  private static void table(String name, String... columns) {
    TABLES.put(name, List.of(columns));
  }

  /** The ways to change a column: all its values, one of them, or which row has which. */
  static final int WAYS = 5;

  private final TestPostgres postgres;
  private final List<Column> columns = new ArrayList<>();

  Dairy(TestPostgres postgres, long seed) throws SQLException {
    this.postgres = postgres;
    TABLES.forEach(
        (table, definitions) ->
            definitions.forEach(
                d -> {
                  String[] words = d.split(" ", 2);
                  columns.add(new Column(table, words[0], words[1]));
                }));
    postgres.createDatabase("dairy");
    try (Connection connection = connect();
        Statement statement = connection.createStatement()) {
      statement.execute("create schema base");
      for (var table : TABLES.entrySet()) {
        create(statement, table.getKey(), table.getValue(), new Random(seed));
      }
      for (Column column : columns) {
        for (int way = 0; way < WAYS; way++) {
          changed(statement, column, way);
        }
      }
    }
  }

  Connection connect() throws SQLException {
    return DriverManager.getConnection(postgres.url("dairy"), "longthread", postgres.password());
  }

  static KnownTables known() {
    Map<String, List<KnownColumn>> known = new LinkedHashMap<>();
    TABLES.forEach(
        (table, definitions) ->
            known.put(
                table,
                definitions.stream()
                    .map(d -> d.split(" ", 2))
                    .map(words -> new KnownColumn(words[0], words[1]))
                    .toList()));
    return new KnownTables(known, List.of());
  }

  /** The columns of some tables. */
  List<Column> columnsOf(Iterable<String> tables) {
    var found = new ArrayList<Column>();
    for (String table : tables) {
      columns.stream().filter(c -> c.table().equals(table)).forEach(found::add);
    }
    return found;
  }

  static String schema(Column column, int way) {
    return "c_" + column.table() + "_" + column.name() + "_" + way;
  }

  private static void create(
      Statement statement, String table, List<String> definitions, Random random)
      throws SQLException {
    statement.execute("create table base." + table + " (" + String.join(", ", definitions) + ")");
    for (int row = 0; row < ROWS; row++) {
      var values = new ArrayList<String>();
      for (String definition : definitions) {
        String[] words = definition.split(" ", 2);
        boolean key = definition.equals(definitions.get(0)) && !table.equals("turning");
        values.add(value(words[0], words[1], key, row, random));
      }
      statement.execute(
          "insert into base." + table + " values (" + String.join(", ", values) + ")");
    }
  }

  private static String value(String name, String type, boolean key, int row, Random random) {
    int some = key ? row : random.nextInt(8);
    if (!key && random.nextInt(14) == 0) {
      return "null";
    }
    return switch (type.replaceAll("\\(.*", "")) {
      case "int", "bigint" ->
          name.equals("cell_count")
              ? String.valueOf(150_000 + some * 25_000)
              : String.valueOf(some + 1);
      case "numeric" -> name.equals("litres") ? (some * 37 + 11) + ".5" : (some + 1) + ".25";
      case "boolean" -> String.valueOf(some % 2 == 0);
      case "date" -> "date '2026-10-0" + (some % 9 + 1) + "'";
      case "timestamp" -> "timestamp '2026-10-0" + (some % 9 + 1) + " 0" + some + ":15:00'";
      default -> "'" + prefix(name) + (some + 1) + "'";
    };
  }

  private static String prefix(String name) {
    return name.equals("quality_class") ? "" : name.substring(0, 1).toUpperCase();
  }

  /** A schema in which everything is as it was but the values of one column. */
  private static void changed(Statement statement, Column column, int way) throws SQLException {
    String schema = schema(column, way);
    statement.execute("create schema " + schema);
    for (var table : TABLES.entrySet()) {
      if (!table.getKey().equals(column.table())) {
        statement.execute(
            "create view "
                + schema
                + "."
                + table.getKey()
                + " as select * from base."
                + table.getKey());
        continue;
      }
      var list = new ArrayList<String>();
      for (String definition : table.getValue()) {
        String name = definition.split(" ", 2)[0];
        list.add(name.equals(column.name()) ? expression(column, way) + " as " + name : name);
      }
      statement.execute(
          "create table "
              + schema
              + "."
              + column.table()
              + " as select "
              + String.join(", ", list)
              + " from (select *, row_number() over () as row_of from base."
              + column.table()
              + ") t order by row_of");
    }
  }

  private static String expression(Column column, int way) {
    String name = column.name();
    String type = column.type().replaceAll("\\(.*", "");
    String other =
        switch (type) {
          case "int", "bigint" -> name + (name.equals("cell_count") ? " + 60000" : " + 2");
          case "numeric" -> name + " * 1.5 + 3";
          case "boolean" -> "not " + name;
          case "date" -> name + " + 2";
          case "timestamp" -> name + " + interval '26 hours 20 minutes'";
          default -> name + " || 'x'";
        };
    String full = "(" + other + ")::" + column.type();
    return switch (way) {
      case 0 -> full;
      case 1 -> "case when row_of = 3 then " + full + " else " + name + " end";
      case 2 -> "case when row_of % 2 = 0 then null else " + name + " end";
      // Each row gets the value of the one before it: the same values at other rows.
      case 3 ->
          "coalesce(lag("
              + name
              + ") over (order by row_of), last_value("
              + name
              + ") over (order by row_of rows between unbounded preceding and unbounded following))";
      default ->
          "(select min(" + name + "::text) from base." + column.table() + ")::" + column.type();
    };
  }

  /**
   * What a query yields in several schemas, in one round trip; rows as sorted lists of texts.
   *
   * @param millis after how long the database gives up one run of it
   */
  static List<List<List<String>>> yields(
      Connection connection, String query, List<String> schemas, int millis) throws SQLException {
    var text = new StringBuilder("set statement_timeout = " + millis + ";\n");
    for (String schema : schemas) {
      text.append("set search_path to ").append(schema).append(";\n").append(query).append(";\n");
    }
    var results = new ArrayList<List<List<String>>>();
    try (Statement statement = connection.createStatement()) {
      statement.setEscapeProcessing(false);
      boolean rows = statement.execute(text.toString());
      while (rows || statement.getUpdateCount() != -1) {
        if (rows) {
          try (ResultSet result = statement.getResultSet()) {
            results.add(read(result));
          }
        }
        rows = statement.getMoreResults();
      }
    }
    return results;
  }

  private static List<List<String>> read(ResultSet result) throws SQLException {
    int width = result.getMetaData().getColumnCount();
    var rows = new ArrayList<List<String>>();
    while (result.next()) {
      var row = new ArrayList<String>();
      for (int i = 1; i <= width; i++) {
        row.add(String.valueOf(result.getString(i)));
      }
      rows.add(row);
    }
    rows.sort((one, other) -> String.join("\t", one).compareTo(String.join("\t", other)));
    return rows;
  }

  /** The values of one output, sorted. */
  static List<String> values(List<List<String>> rows, int output) {
    var values = new ArrayList<String>();
    rows.forEach(row -> values.add(row.get(output)));
    Collections.sort(values);
    return values;
  }

  @Override
  public void close() {
    postgres.close();
  }
}
