package longthread.core.gate;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import longthread.core.sql.Dialect;
import longthread.core.sql.KnownColumn;
import longthread.core.sql.KnownTables;
import longthread.core.sql.SqlReader;
import longthread.core.sql.SqlStatement;
import longthread.core.sql.TableChange;
import longthread.core.sql.TableDefinitions;

/**
 * What changes between two versions of DDL and SQL files.
 *
 * <p>Tables: dropped, renamed and retyped columns and tables, by ALTER TABLE or, where a CREATE
 * TABLE was edited, by name, position and type. Statements that write: an expression of a column
 * that reads otherwise changes its values; any other difference of the text (a filter, a join, a
 * grouping) changes the rows, and so does another order of them; spacing, comments, and dates in
 * literals do not count.
 */
public final class SqlChanges {
  /**
   * What was found.
   *
   * @param changes by file and line
   * @param notes what could not be read closely, in words
   */
  public record Found(List<FoundChange> changes, List<String> notes) {}

  private final Dialect dialect;
  private final SqlReader reader;
  private final List<FoundChange> changes = new ArrayList<>();
  private final Set<String> notes = new TreeSet<>();
  private final TableComparison tables = new TableComparison(changes);
  private final StatementComparison statements = new StatementComparison(changes, notes);

  private SqlChanges(Dialect dialect, SqlReader reader) {
    this.dialect = dialect;
    this.reader = reader;
  }

  /**
   * Returns what changes, in time linear in the files.
   *
   * @param before texts by path; they are read in the order of their paths, as migrations are
   */
  public static Found between(
      Map<String, String> before, Map<String, String> after, Dialect dialect, SqlReader reader) {
    var found = new SqlChanges(dialect, reader);
    TableDefinitions definedThen = found.definitions(before);
    TableDefinitions definedNow = found.definitions(after);
    Map<String, TableDefinitions.Table> then = definedThen.tables();
    Map<String, TableDefinitions.Table> now = definedNow.tables();
    Map<String, List<Written>> written = found.written(after, now);
    found.tables.tables(then, now);
    found.tables.loose(definedThen.loose(), definedNow.loose(), written.keySet());
    found.compareStatements(found.written(before, then), written);
    found.compareTruncations(found.truncations(before), found.truncations(after));
    found.changes.sort(
        java.util.Comparator.comparing(FoundChange::file)
            .thenComparing(FoundChange::line)
            .thenComparing(FoundChange::of));
    return new Found(found.changes.stream().distinct().toList(), List.copyOf(found.notes));
  }

  private TableDefinitions definitions(Map<String, String> files) {
    var definitions = new TableDefinitions(dialect);
    new TreeMap<>(files).forEach(definitions::apply);
    return definitions;
  }

  // ------------------------------------------------------------------ statements that write

  private void compareStatements(Map<String, List<Written>> then, Map<String, List<Written>> now) {
    then.forEach(
        (target, old) -> {
          List<Written> fresh = now.getOrDefault(target, List.of());
          Pairing pairs = Pairing.of(old, fresh);
          pairs.edited().forEach(pair -> statements.compare(pair.before(), pair.after()));
          pairs.moved().stream().limit(1).forEach(this::moved);
          pairs.gone().forEach(one -> statements.gone(one, fresh.isEmpty()));
          pairs.added().forEach(one -> added(one, false));
        });
    now.forEach(
        (target, fresh) -> {
          if (!then.containsKey(target)) {
            fresh.forEach(one -> added(one, true));
          }
        });
  }

  private void moved(Written one) {
    String why = "the statements that write " + one.targetName() + " run in another order";
    changes.add(found("rows", one, why, false));
  }

  /** A statement that writes a table beside the others, or as the first of these files. */
  private void added(Written one, boolean isFirst) {
    boolean isDefinition =
        one.statement().kind().equals("alter") && !Written.key(one.own()).contains("partition");
    if (isDefinition) {
      return; // what it does to columns is compared with the tables
    }
    String why =
        isFirst
            ? one.targetName() + " is written by a statement, and was by none of these files before"
            : "one more statement writes " + one.targetName();
    boolean changesValues = one.creates() || one.statement().kind().startsWith("update");
    if (changesValues) {
      changes.add(found("values", one, why, isFirst));
    }
    if (!changesValues || one.creates()) {
      changes.add(found("rows", one, why, isFirst));
    }
  }

  private static FoundChange found(String change, Written one, String why, boolean mayBeNew) {
    return new FoundChange(
        change, one.targetName(), null, null, one.file(), one.line(), why, mayBeNew);
  }

  /**
   * The statements that write, by their targets.
   *
   * @param defined the tables that the same files define, so that names and columns are understood
   */
  private Map<String, List<Written>> written(
      Map<String, String> files, Map<String, TableDefinitions.Table> defined) {
    var columns = new LinkedHashMap<String, List<KnownColumn>>();
    defined.forEach(
        (name, table) ->
            columns.put(
                name,
                table.columns().stream()
                    .map(column -> new KnownColumn(column.name(), column.type()))
                    .toList()));
    var known = new KnownTables(columns, List.of());
    var byTarget = new LinkedHashMap<String, List<Written>>();
    new TreeMap<>(files)
        .forEach(
            (file, text) -> {
              for (SqlStatement statement : reader.read(text, dialect, known)) {
                boolean writes =
                    statement.target() != null
                        && !statement.temporary()
                        && !(statement.kind().equals("create-table")
                            && statement.reads().isEmpty());
                if (writes) {
                  var one = new Written(file, text, statement);
                  byTarget.computeIfAbsent(one.key(), k -> new ArrayList<>()).add(one);
                }
              }
            });
    return byTarget;
  }

  // ------------------------------------------------------------------ truncations

  /** A statement that truncates a table. */
  private record Truncated(String table, String file, int line) {}

  private Map<String, List<Truncated>> truncations(Map<String, String> files) {
    var byTable = new LinkedHashMap<String, List<Truncated>>();
    new TreeMap<>(files)
        .forEach(
            (file, text) -> {
              for (TableChange.Truncation one : TableChange.truncations(text, dialect)) {
                byTable
                    .computeIfAbsent(Written.key(one.table()), k -> new ArrayList<>())
                    .add(
                        new Truncated(one.table(), file, Written.lineAt(text, one.span().start())));
              }
            });
    return byTable;
  }

  private void compareTruncations(
      Map<String, List<Truncated>> then, Map<String, List<Truncated>> now) {
    then.forEach(
        (table, old) ->
            old.stream()
                .skip(now.getOrDefault(table, List.of()).size())
                .forEach(one -> truncation(one, "is no longer emptied here", false)));
    now.forEach(
        (table, fresh) -> {
          boolean isFirst = !then.containsKey(table);
          fresh.stream()
              .skip(then.getOrDefault(table, List.of()).size())
              .forEach(one -> truncation(one, "is emptied by one more statement", isFirst));
        });
  }

  private void truncation(Truncated one, String what, boolean mayBeNew) {
    changes.add(
        new FoundChange(
            "rows",
            one.table(),
            null,
            null,
            one.file(),
            one.line(),
            one.table() + " " + what,
            mayBeNew));
  }
}
