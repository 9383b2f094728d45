package longthread.core.gate;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeMap;
import longthread.core.compare.SchemaDifference;
import longthread.core.sql.TableDefinitions;
import org.jspecify.annotations.Nullable;

/** What becomes of tables and their columns between two versions of their definitions. */
final class TableComparison {
  private final List<FoundChange> changes;

  /**
   * @param changes where what is found is added
   */
  TableComparison(List<FoundChange> changes) {
    this.changes = changes;
  }

  /**
   * What statements do to tables that other files create, as one new migration does.
   *
   * @param written targets that statements write: what is dropped and made again is not gone
   */
  void loose(
      List<TableDefinitions.Loose> before,
      List<TableDefinitions.Loose> after,
      Set<String> written) {
    var known = new ArrayList<>(before.stream().map(TableComparison::what).toList());
    for (TableDefinitions.Loose one : after) {
      boolean isMadeAgain =
          one.change().equals("drop") && written.contains(Written.key(one.table()));
      if (!known.remove(what(one)) && !isMadeAgain) {
        String name =
            one.column() == null
                ? "table " + one.table()
                : "column " + one.column() + " of " + one.table();
        String why =
            switch (one.change()) {
              case "drop" -> name + " is dropped";
              case "rename" -> name + " becomes " + one.to();
              default -> name + " gets the type " + one.to();
            };
        changes.add(
            new FoundChange(
                one.change(), one.table(), one.column(), one.to(), one.file(), one.line(), why));
      }
    }
  }

  private static List<@Nullable String> what(TableDefinitions.Loose one) {
    return Arrays.asList(one.change(), Written.key(one.table()), one.column(), one.to());
  }

  /** What became of the tables, by name. */
  void tables(
      Map<String, TableDefinitions.Table> before, Map<String, TableDefinitions.Table> after) {
    var now = new TreeMap<String, TableDefinitions.Table>(String.CASE_INSENSITIVE_ORDER);
    now.putAll(after);
    var byOrigin = new TreeMap<String, TableDefinitions.Table>(String.CASE_INSENSITIVE_ORDER);
    after.values().forEach(table -> byOrigin.putIfAbsent(table.createdAs(), table));
    before.forEach(
        (name, old) -> {
          TableDefinitions.Table same = now.get(name);
          if (same == null) {
            TableDefinitions.Table other = byOrigin.get(old.createdAs());
            boolean renamed = other != null && !other.name().equalsIgnoreCase(name);
            if (renamed) {
              changes.add(
                  new FoundChange(
                      "rename",
                      name,
                      null,
                      other.name(),
                      other.file(),
                      other.line(),
                      "table " + name + " becomes " + other.name()));
              same = other;
            } else {
              changes.add(
                  new FoundChange(
                      "drop",
                      name,
                      null,
                      null,
                      old.file(),
                      old.line(),
                      "table " + name + " is gone"));
              return;
            }
          }
          compareColumns(name, old, same);
        });
  }

  private void compareColumns(
      String table, TableDefinitions.Table before, TableDefinitions.Table after) {
    var then = new LinkedHashMap<String, String>();
    var now = new LinkedHashMap<String, String>();
    var lines = new HashMap<String, Integer>();
    var renamed = new TreeMap<String, TableDefinitions.Column>(String.CASE_INSENSITIVE_ORDER);
    before.columns().forEach(column -> then.put(Written.key(column.name()), column.type()));
    for (TableDefinitions.Column column : after.columns()) {
      lines.put(Written.key(column.name()), column.line());
      // One that ALTER TABLE renamed is followed by the name it was created under.
      TableDefinitions.Column old =
          before.columns().stream()
              .filter(c -> c.createdAs().equalsIgnoreCase(column.createdAs()))
              .findFirst()
              .orElse(null);
      boolean isRenamed =
          old != null
              && !old.name().equalsIgnoreCase(column.name())
              && !column.name().equalsIgnoreCase(column.createdAs());
      if (isRenamed) {
        renamed.put(old.name(), column);
        now.put(Written.key(old.name()), column.type());
      } else {
        now.put(Written.key(column.name()), column.type());
      }
    }
    renamed.forEach(
        (old, column) ->
            changes.add(
                new FoundChange(
                    "rename",
                    table,
                    old,
                    column.name(),
                    after.file(),
                    column.line(),
                    "column " + old + " of " + table + " becomes " + column.name())));
    for (SchemaDifference.Column column : SchemaDifference.of(then, now)) {
      int line = lines.getOrDefault(column.name(), after.line());
      switch (column.what()) {
        case REMOVED -> add("drop", table, column.name(), null, after, "is gone", line);
        case RENAMED ->
            add(
                "rename",
                table,
                Objects.requireNonNull(column.before()),
                column.name(),
                after,
                "becomes " + column.name() + ", by its position and type",
                line);
        case RETYPED ->
            add(
                "retype",
                table,
                column.name(),
                column.after() == null ? "unknown" : column.after(),
                after,
                "has the type " + column.after() + ", before " + column.before(),
                line);
        default -> {} // a new column changes nothing that there was
      }
    }
  }

  private void add(
      String change,
      String table,
      String column,
      @Nullable String to,
      TableDefinitions.Table after,
      String why,
      int line) {
    changes.add(
        new FoundChange(
            change,
            table,
            column,
            to,
            after.file(),
            line,
            "column " + column + " of " + table + " " + why));
  }
}
