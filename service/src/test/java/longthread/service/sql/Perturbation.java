package longthread.service.sql;

import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.TreeSet;
import longthread.core.sql.Dialect;
import longthread.core.sql.SqlReader;
import longthread.core.sql.SqlStatement;
import longthread.core.sql.SqlStatement.Output;
import longthread.core.sql.SqlStatement.Source;
import longthread.service.sql.Dairy.Column;

/**
 * Holds what is claimed of a query against what a database does when one source column at a time is
 * changed.
 *
 * <p>A change of the number of rows must be claimed by the rows; a change of the values of an
 * output by that output or by the rows. Nothing that was observed may be missing; what is claimed
 * and never observed is listed, since on small data it may just not show.
 */
final class Perturbation {
  /**
   * What came of one query.
   *
   * @param missing dependences that were observed and are not claimed
   * @param claims how many dependences are claimed
   * @param refuted those of the claims that were never observed
   * @param empty whether the query yields no row, so that nothing can be observed of its values
   */
  record Outcome(
      String query,
      SqlStatement claimed,
      int observed,
      List<String> missing,
      int claims,
      List<String> refuted,
      boolean empty) {
    String brief() {
      return missing + " " + claimed.problems() + " in: " + query;
    }
  }

  private final Dairy dairy;
  private final SqlReader reader;
  private final int millis;

  /**
   * @param millis after how long the database gives up one run of a query
   */
  Perturbation(Dairy dairy, SqlReader reader, int millis) {
    this.dairy = dairy;
    this.reader = reader;
    this.millis = millis;
  }

  Outcome of(Connection connection, String query) throws SQLException {
    List<SqlStatement> statements = reader.read(query, Dialect.POSTGRES, Dairy.known());
    if (statements.size() != 1) {
      throw new IllegalStateException("not one statement but " + statements.size() + ": " + query);
    }
    SqlStatement claimed = statements.get(0);
    List<Column> columns = dairy.columnsOf(claimed.reads());
    var schemas = new ArrayList<String>(List.of("base"));
    for (Column column : columns) {
      for (int way = 0; way < Dairy.WAYS; way++) {
        schemas.add(Dairy.schema(column, way));
      }
    }
    List<List<List<String>>> all = Dairy.yields(connection, query, schemas, millis);
    var missing = new ArrayList<String>();
    var refuted = new ArrayList<String>();
    int observed = 0;
    int claims = 0;
    int at = 1;
    for (Column column : columns) {
      List<List<List<String>>> changed = all.subList(at, at + Dairy.WAYS);
      at += Dairy.WAYS;
      boolean rows = claims(claimed.rows(), column);
      boolean any = changed.stream().anyMatch(result -> !result.equals(all.get(0)));
      if (rows) {
        claims++;
        if (!any) {
          refuted.add(column + " -> rows");
        }
      }
      boolean count = changed.stream().anyMatch(r -> r.size() != all.get(0).size());
      if (count) {
        observed++;
        if (!rows) {
          missing.add(column + " -> rows");
        }
      }
      for (int output = 0; output < claimed.outputs().size(); output++) {
        Output one = claimed.outputs().get(output);
        boolean seen = changes(all.get(0), changed, output);
        boolean value = claims(one.direct(), column) || claims(one.indirect(), column);
        if (seen) {
          observed++;
          if (!value && !rows) {
            missing.add(column + " -> " + one.name());
          }
        }
        if (value) {
          claims++;
          if (!seen) {
            refuted.add(column + " -> " + one.name());
          }
        }
      }
    }
    boolean empty = all.get(0).isEmpty();
    // Of a query without rows only what brings rows in can be observed: its values prove nothing.
    return empty
        ? new Outcome(query, claimed, observed, missing, 0, List.of(), true)
        : new Outcome(query, claimed, observed, missing, claims, refuted, false);
  }

  /**
   * Holds what is claimed of a script against what stands in a table after it, when one source
   * column at a time is changed before. What the table held depends on itself.
   *
   * @return the dependences that were observed and are not claimed
   */
  List<String> missingOfWrite(Connection connection, String script, String target)
      throws SQLException {
    List<SqlStatement> statements = reader.read(script, Dialect.POSTGRES, Dairy.known());
    var reads = new TreeSet<String>(List.of(target));
    statements.forEach(statement -> reads.addAll(statement.reads()));
    List<Column> columns = dairy.columnsOf(reads);
    var schemas = new ArrayList<String>(List.of("base"));
    for (Column column : columns) {
      for (int way = 0; way < Dairy.WAYS; way++) {
        schemas.add(Dairy.schema(column, way));
      }
    }
    String copy = "create temp table " + target + " as table " + target; // views take no MERGE
    String whole =
        "begin;\n" + copy + ";\n" + script + ";\nselect * from " + target + ";\nrollback";
    List<List<List<String>>> all = Dairy.yields(connection, whole, schemas, millis);
    List<Column> written = dairy.columnsOf(List.of(target));
    var missing = new ArrayList<String>();
    int at = 1;
    for (Column column : columns) {
      List<List<List<String>>> changed = all.subList(at, at + Dairy.WAYS);
      at += Dairy.WAYS;
      boolean rows = statements.stream().anyMatch(s -> !s.temporary() && claims(s.rows(), column));
      if (!rows && changed.stream().anyMatch(result -> result.size() != all.get(0).size())) {
        missing.add(column + " -> rows");
      }
      for (int output = 0; output < written.size(); output++) {
        Column one = written.get(output);
        boolean claimed =
            rows || one.equals(column) || statements.stream().anyMatch(s -> feeds(s, column, one));
        if (!claimed && changes(all.get(0), changed, output)) {
          missing.add(column + " -> " + one);
        }
      }
    }
    return missing;
  }

  private static boolean feeds(SqlStatement statement, Column from, Column to) {
    return to.table().equals(statement.target())
        && statement.outputs().stream()
            .filter(output -> output.name().equals(to.name()))
            .anyMatch(output -> claims(output.direct(), from) || claims(output.indirect(), from));
  }

  private static boolean changes(
      List<List<String>> base, List<List<List<String>>> changed, int output) {
    List<String> values = Dairy.values(base, output);
    return changed.stream().anyMatch(result -> !Dairy.values(result, output).equals(values));
  }

  private static boolean claims(List<Source> sources, Column column) {
    return sources.stream()
        .anyMatch(s -> s.table().equals(column.table()) && s.column().equals(column.name()));
  }
}
