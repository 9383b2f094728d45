package longthread.demo;

import java.io.IOException;
import java.io.Reader;
import java.io.Writer;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.LocalDate;
import java.time.format.DateTimeFormatter;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Random;
import org.postgresql.PGConnection;

/** The co-operative's data: a database, the laboratory's share and the lake as folders of files. */
final class Barn implements AutoCloseable {
  private static final DateTimeFormatter DAY8 = DateTimeFormatter.BASIC_ISO_DATE;
  private static final long SEED = 20_260_101L;

  private final Connection connection;
  private final Path files;

  Barn(String url, String password, Path home) throws SQLException {
    connection = DriverManager.getConnection(url, "longthread", password);
    files = home.resolve("world");
  }

  /** Makes the empty tables and what does not change from day to day. */
  void create() throws SQLException {
    run(Task.resource("sources.sql"));
    run(Task.resource("tables.sql"));
  }

  /** Makes a role that can only look at the tables. */
  void letView(String role, String password) throws SQLException {
    run(
        "do $$ begin if not exists (select from pg_roles where rolname = '"
            + role
            + "') then create role "
            + role
            + " login; end if; end $$");
    run("alter role " + role + " password '" + password.replace("'", "''") + "'");
    run("grant usage on schema collect, raw, core, mart to " + role);
    run("grant select on all tables in schema collect, raw, core, mart to " + role);
  }

  /** Lets a day happen: every farm with an odd (even) number is collected on odd (even) days. */
  void live(LocalDate day) throws SQLException {
    var random = new Random(SEED + day.toEpochDay());
    try (PreparedStatement insert =
        connection.prepareStatement(
            "insert into collect.pickup values (?, ?, ?, ?::timestamp, ?, ?, ?, ?)"
                + " on conflict do nothing")) {
      for (int farm = 1; farm <= 140; farm++) {
        if ((farm + day.toEpochDay()) % 2 != 0) {
          continue;
        }
        double litres = 400 + 25 * (farm % 40) + 60 * random.nextGaussian();
        insert.setLong(1, day.toEpochDay() * 1_000 + farm);
        insert.setInt(2, farm);
        insert.setInt(3, 1 + farm % 8);
        insert.setString(4, day + " " + (5 + farm % 12) + ":" + (10 + farm % 49));
        insert.setBigDecimal(5, decimal(Math.max(60, litres), 1));
        insert.setBigDecimal(6, decimal(3.5 + random.nextDouble(), 1));
        insert.setString(7, sample(day, farm));
        insert.setString(8, farm % 17 == 0 ? "gate was shut, waited" : null);
        insert.addBatch();
      }
      insert.executeBatch();
    }
    run(
        "insert into collect.odometer select t.tanker_id, f.route_id, date '"
            + day
            + "', round(max(r.length_km) * (0.97 + 0.01 * (t.tanker_id % 7)), 1)"
            + " from collect.pickup p join collect.farm f using (farm_id)"
            + " join collect.route r using (route_id) join collect.tanker t using (tanker_id)"
            + " where t.own and p.picked_at::date = date '"
            + day
            + "' group by t.tanker_id, f.route_id on conflict do nothing");
  }

  private static java.math.BigDecimal decimal(double value, int scale) {
    return java.math.BigDecimal.valueOf(value).setScale(scale, java.math.RoundingMode.HALF_UP);
  }

  private static String sample(LocalDate day, int farm) {
    return "S" + day.format(DAY8) + "-" + String.format("%03d", farm);
  }

  /** Lets the laboratory's instrument write its file for a day. */
  void measure(LocalDate day) throws IOException {
    measure(day, 1);
  }

  /**
   * Lets it write a file in which fat is multiplied, as where another unit is taken.
   *
   * @param factor 1 for per cent, 10 for g/kg
   */
  void measure(LocalDate day, double factor) throws IOException {
    var random = new Random(SEED * 31 + day.toEpochDay());
    Path file = readings(day);
    Files.createDirectories(file.getParent());
    try (Writer out = Files.newBufferedWriter(file, StandardCharsets.UTF_8)) {
      out.write("sample_no,measured_at,fat,protein,cell_count,residue\n");
      for (int farm = 1; farm <= 140; farm++) {
        if ((farm + day.toEpochDay()) % 2 == 0) {
          out.write(
              String.format(
                  "%s,%s 18:%02d,%.2f,%.2f,%d,%s%n",
                  sample(day, farm),
                  day,
                  farm % 60,
                  factor * (4.1 + 0.3 * random.nextGaussian()),
                  3.4 + 0.15 * random.nextGaussian(),
                  90_000 + random.nextInt(220_000),
                  random.nextInt(90) == 0));
        }
      }
    }
  }

  Path readings(LocalDate day) {
    return files.resolve("lab-drop").resolve("readings_" + day.format(DAY8) + ".csv");
  }

  Path landed(String dataset, LocalDate day) {
    return files.resolve(dataset).resolve("day=" + day + ".csv");
  }

  /** Rows and bytes of a piece of work. */
  record Amount(long rows, long bytes) {}

  /** Writes a query's rows to a landed file. */
  Amount unload(String query, String dataset, LocalDate day) throws SQLException, IOException {
    Path file = landed(dataset, day);
    Files.createDirectories(file.getParent());
    try (Writer out = Files.newBufferedWriter(file, StandardCharsets.UTF_8)) {
      long rows =
          connection
              .unwrap(PGConnection.class)
              .getCopyAPI()
              .copyOut("copy (" + query + ") to stdout with (format csv, header)", out);
      return new Amount(rows, Files.size(file));
    }
  }

  /** Copies the laboratory's file of a day into the lake; it must be there. */
  Amount fetch(String dataset, LocalDate day) throws IOException {
    Path file = landed(dataset, day);
    Files.createDirectories(file.getParent());
    Files.copy(readings(day), file, java.nio.file.StandardCopyOption.REPLACE_EXISTING);
    try (var lines = Files.lines(file)) {
      return new Amount(lines.count() - 1, Files.size(file));
    }
  }

  /** Loads a landed file into a table by the given COPY statement. */
  Amount load(String copy, String dataset, LocalDate day, boolean replace)
      throws SQLException, IOException {
    Path file = landed(dataset, day);
    if (replace) {
      run("truncate raw.farm");
    }
    try (Reader in = Files.newBufferedReader(file, StandardCharsets.UTF_8)) {
      long rows = connection.unwrap(PGConnection.class).getCopyAPI().copyIn(copy, in);
      return new Amount(rows, Files.size(file));
    }
  }

  /** Runs statements; returns the rows that the last of them touched. */
  long run(String sql) throws SQLException {
    try (Statement statement = connection.createStatement()) {
      statement.execute(sql);
      long rows = Math.max(0, statement.getUpdateCount());
      while (statement.getMoreResults() || statement.getUpdateCount() != -1) {
        rows = Math.max(0, statement.getUpdateCount());
      }
      return rows;
    }
  }

  /** The single value of a query, as text. */
  String value(String query) throws SQLException {
    try (Statement statement = connection.createStatement();
        ResultSet result = statement.executeQuery(query)) {
      result.next();
      return String.valueOf(result.getString(1));
    }
  }

  /** The columns of a table with their types, in order. */
  Map<String, String> columns(String table) throws SQLException {
    var columns = new LinkedHashMap<String, String>();
    int dot = table.indexOf('.');
    try (PreparedStatement query =
        connection.prepareStatement(
            "select a.attname, format_type(a.atttypid, a.atttypmod) from pg_attribute a"
                + " where a.attrelid = to_regclass(? || '.' || ?) and a.attnum > 0"
                + " and not a.attisdropped order by a.attnum")) {
      query.setString(1, table.substring(0, dot));
      query.setString(2, table.substring(dot + 1));
      try (ResultSet result = query.executeQuery()) {
        while (result.next()) {
          columns.put(result.getString(1), result.getString(2));
        }
      }
    }
    return columns;
  }

  /**
   * What is known of the values of a column: how many, how many missing, and their sum and ends.
   */
  record Measure(long count, long nulls, double sum, double min, double max) {}

  /** Measures the numeric columns of the rows of a table for which a condition holds. */
  Map<String, Measure> measures(String table, String condition) throws SQLException {
    var measures = new LinkedHashMap<String, Measure>();
    for (var column : columns(table).entrySet()) {
      String name = column.getKey();
      if (!column.getValue().startsWith("numeric") && !name.equals("cell_count")) {
        continue;
      }
      String query =
          "select count(%1$s), count(*) - count(%1$s), coalesce(sum(%1$s), 0),"
              + " coalesce(min(%1$s), 0), coalesce(max(%1$s), 0) from %2$s where %3$s";
      try (Statement statement = connection.createStatement();
          ResultSet result = statement.executeQuery(String.format(query, name, table, condition))) {
        result.next();
        if (result.getLong(1) > 0) {
          measures.put(
              name,
              new Measure(
                  result.getLong(1),
                  result.getLong(2),
                  result.getDouble(3),
                  result.getDouble(4),
                  result.getDouble(5)));
        }
      }
    }
    return measures;
  }

  /** Measures the numeric columns of the laboratory's file of a day. */
  Map<String, Measure> measuresOfReadings(LocalDate day) throws IOException {
    java.util.List<String> lines = Files.readAllLines(readings(day));
    String[] names = lines.get(0).split(",");
    var measures = new LinkedHashMap<String, Measure>();
    for (int at = 2; at < names.length - 1; at++) { // between the time and the residue
      int column = at;
      var figures =
          lines.stream()
              .skip(1)
              .mapToDouble(line -> Double.parseDouble(line.split(",")[column]))
              .summaryStatistics();
      measures.put(
          names[at],
          new Measure(figures.getCount(), 0, figures.getSum(), figures.getMin(), figures.getMax()));
    }
    return measures;
  }

  long count(String table) throws SQLException {
    return Long.parseLong(value("select count(*) from " + table));
  }

  @Override
  public void close() throws SQLException {
    connection.close();
  }
}
