package longthread.service.truth;

import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Savepoint;
import java.sql.Statement;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Collectors;

/**
 * An estate in a database as it stands after one night. The next night can be run any number of
 * times, each with another change before it, and is undone after it was looked at.
 */
final class World {
  private static final int FIRST_ROWS = 12;
  private static final int NEW_ROWS = 5;

  /**
   * How a night ended.
   *
   * @param failed the references of jobs and views that failed
   * @param contents rows of the tables and views by their reference, sorted; those of failed views
   *     are missing
   */
  record Night(Set<String> failed, Map<String, List<List<String>>> contents) {}

  /** What happens to a source, or which job does not run. */
  record Step(String sqlBefore, String sqlAfter, String lateSource, String absentJob) {
    static final Step NONE = new Step("", "", "", "");

    static Step before(String sql) {
      return new Step(sql, "", "", "");
    }

    static Step after(String sql) {
      return new Step("", sql, "", "");
    }

    static Step late(String source) {
      return new Step("", "", source, "");
    }

    static Step without(String job) {
      return new Step("", "", "", job);
    }
  }

  private final Connection connection;
  private final RandomEstate estate;
  private final long seed;

  World(Connection connection, RandomEstate estate, long seed) throws SQLException {
    this.connection = connection;
    this.estate = estate;
    this.seed = seed;
    connection.setAutoCommit(false);
    try (Statement statement = connection.createStatement()) {
      statement.execute("drop schema if exists w cascade; create schema w; set search_path to w");
      var data = new Random(seed);
      for (String source : estate.sources()) {
        statement.execute("create table " + source + " " + RandomEstate.DEFINITION);
        rows(statement, source, 1, FIRST_ROWS, data);
      }
      for (String table : estate.tables()) {
        statement.execute("create table " + table + " " + RandomEstate.DEFINITION);
      }
      for (RandomEstate.Maker maker : estate.makers()) {
        statement.execute(maker.isView() ? view(maker) : maker.sql());
      }
    }
    connection.commit();
  }

  private static String view(RandomEstate.Maker maker) {
    return "create view " + maker.target() + " as " + maker.sql();
  }

  private static void rows(Statement statement, String source, int from, int count, Random random)
      throws SQLException {
    var values = new ArrayList<String>();
    for (int i = 0; i < count; i++) {
      String text = random.nextInt(9) == 0 ? "null" : "'" + (char) ('a' + random.nextInt(4)) + "'";
      values.add(
          "("
              + (from + (random.nextInt(5) == 0 ? random.nextInt(count) : i))
              + ", "
              + text
              + ", "
              + (random.nextInt(80) + 1)
              + ", "
              + (random.nextInt(10) == 0 ? "null" : random.nextInt(5))
              + ")");
    }
    statement.execute("insert into " + source + " values " + String.join(", ", values));
  }

  /** Runs the next night with a step before it, and undoes it. */
  Night night(Step step) throws SQLException {
    try (Statement statement = connection.createStatement()) {
      Set<String> failed = new TreeSet<>();
      for (int i = estate.makers().size() - 1; i >= 0; i--) {
        if (estate.makers().get(i).isView()) {
          statement.execute("drop view " + estate.makers().get(i).target());
        }
      }
      var data = new Random(seed + 1);
      for (String source : estate.sources()) {
        if (source.equals(step.lateSource())) {
          statement.execute("create table aside as table " + source);
        }
        rows(statement, source, FIRST_ROWS / 2, NEW_ROWS, data);
        if (source.equals(step.lateSource())) {
          statement.execute("truncate " + source + "; insert into " + source + " table aside");
        }
      }
      run(statement, step.sqlAfter());
      run(statement, step.sqlBefore());
      for (RandomEstate.Maker maker : estate.makers()) {
        if (maker.name().equals(step.absentJob())) {
          continue;
        }
        Savepoint before = connection.setSavepoint();
        try {
          statement.execute(maker.isView() ? view(maker) : maker.sql());
        } catch (SQLException e) {
          connection.rollback(before);
          failed.add(maker.ref());
        }
      }
      Map<String, List<List<String>>> contents = new LinkedHashMap<>();
      for (String table : estate.tables()) {
        contents.put(RandomEstate.reference(table), contents(statement, table));
      }
      for (RandomEstate.Maker maker : estate.makers()) {
        if (maker.isView() && !failed.contains(maker.ref())) {
          contents.put(maker.ref(), contents(statement, maker.target()));
        }
      }
      return new Night(failed, contents);
    } finally {
      connection.rollback();
    }
  }

  private static void run(Statement statement, String sql) throws SQLException {
    if (!sql.isEmpty()) {
      statement.execute(sql);
    }
  }

  private static List<List<String>> contents(Statement statement, String table)
      throws SQLException {
    var rows = new ArrayList<List<String>>();
    try (ResultSet found =
        statement.executeQuery("select k, c, v, n from " + table + " order by 1, 2, 3, 4")) {
      while (found.next()) {
        var row = new ArrayList<String>();
        for (int column = 1; column <= RandomEstate.COLUMNS.size(); column++) {
          row.add(String.valueOf(found.getObject(column)));
        }
        rows.add(row);
      }
    }
    return rows.stream()
        .sorted((a, b) -> a.toString().compareTo(b.toString()))
        .collect(Collectors.toList());
  }
}
