package longthread.core.sql;

import java.util.List;
import net.sf.jsqlparser.schema.Table;
import net.sf.jsqlparser.statement.ExplainStatement;
import net.sf.jsqlparser.statement.Statement;
import net.sf.jsqlparser.statement.create.table.CreateTable;
import net.sf.jsqlparser.statement.create.view.AlterView;
import net.sf.jsqlparser.statement.create.view.CreateView;
import net.sf.jsqlparser.statement.delete.Delete;
import net.sf.jsqlparser.statement.insert.Insert;
import net.sf.jsqlparser.statement.merge.Merge;
import net.sf.jsqlparser.statement.select.PlainSelect;
import net.sf.jsqlparser.statement.select.Select;
import net.sf.jsqlparser.statement.select.SetOperationList;
import net.sf.jsqlparser.statement.select.WithItem;
import net.sf.jsqlparser.statement.update.Update;
import net.sf.jsqlparser.statement.upsert.Upsert;
import org.jspecify.annotations.Nullable;

/** Reads a statement: what it writes, and from what. Each kind of statement has its own reader. */
final class StatementReader {
  private final boolean routine;
  private final Context context;
  private final QueryReader queries;
  private final Writes writes;
  private final DefinitionReader definitions;
  private final InsertReader inserts;
  private final ChangeReader changes;
  private final MergeReader merges;
  private final WithChangeReader changesInWith;

  StatementReader(int number, boolean routine, Context context) {
    this.routine = routine;
    this.context = context;
    this.queries = new QueryReader(context, this::changeInWith);
    this.writes = new Writes(number, context);
    var assignments = new Assignments(context, queries);
    var returning = new ReturningReader(queries);
    this.definitions = new DefinitionReader(context, queries, writes);
    this.inserts = new InsertReader(context, queries, writes, assignments);
    this.changes = new ChangeReader(context, queries, writes, assignments, returning);
    this.merges = new MergeReader(context, queries, writes, assignments);
    this.changesInWith =
        new WithChangeReader(context, queries, assignments, inserts, changes, returning);
  }

  private @Nullable Relation changeInWith(WithItem<?> item, String name) {
    return changesInWith.read(item, name);
  }

  /** What a statement, or several of its parts, write; empty if it has nothing to do with data. */
  List<SqlStatement> read(Statement statement) {
    if (statement instanceof Select select) {
      select(select);
    } else if (statement instanceof Insert insert) {
      queries.within(insert.getWithItemsList(), () -> inserts.insert(insert));
    } else if (statement instanceof CreateTable create) {
      definitions.createTable(create);
    } else if (statement instanceof CreateView view) {
      definitions.createView(view);
    } else if (statement instanceof AlterView view) {
      definitions.alterView(view);
    } else if (statement instanceof Update update) {
      queries.within(update.getWithItemsList(), () -> changes.update(update));
    } else if (statement instanceof Delete delete) {
      queries.within(delete.getWithItemsList(), () -> changes.delete(delete));
    } else if (statement instanceof Merge merge) {
      queries.within(
          merge.getWithItemsList(),
          () -> {
            merges.merge(merge);
            return null;
          });
    } else if (statement instanceof Upsert upsert) {
      inserts.upsert(upsert);
    } else if (!(statement instanceof ExplainStatement)) {
      definitions.other(statement);
    }
    return writes.statements();
  }

  private void select(Select select) {
    Table into = routine ? null : intoOf(select);
    VariableForms variables = context.parserInput().variables();
    if (variables != null) {
      List<Ident> names =
          variables.isRecord()
              ? List.of()
              : variables.names().stream().map(name -> new Ident(name, true)).toList();
      Relation values = queries.read(select, null, Relation.Kind.TEMPORARY, "variables", names);
      fill(variables, values);
      boolean reads =
          !values.from.isEmpty()
              || values.fields().stream()
                  .anyMatch(f -> !f.uses().direct.isEmpty() || !f.uses().rowsOf.isEmpty());
      if (reads) {
        writes.emit("assign", null, true, values, values.fields());
      }
      return;
    }
    List<Table> filled = routine ? intoTables(select) : List.of();
    if (!filled.isEmpty()) {
      Relation values = queries.read(select, null, Relation.Kind.TEMPORARY, "variables", List.of());
      for (int i = 0; i < Math.min(filled.size(), values.fields().size()); i++) {
        context.tables().fill(Ident.dotted(queries.nameOf(filled.get(i))), values.fields().get(i));
      }
      if (filled.size() == 1 && values.fields().size() > 1) {
        context.tables().loopOver(Ident.dotted(queries.nameOf(filled.get(0))), values);
      }
      writes.emit("select", null, false, values, values.fields());
      return;
    }
    Relation rows = queries.read(select, null, Relation.Kind.RESULT, "result", List.of());
    if (into == null) {
      writes.emit("select", null, false, rows, rows.fields());
      return;
    }
    List<Ident> target = queries.nameOf(into);
    if (context.parserInput().temporary()) {
      writes.intoTemporary("create-temporary", target, rows);
    } else {
      writes.write("create-table", target, rows, rows.fields());
    }
  }

  private void fill(VariableForms variables, Relation values) {
    if (variables.isRecord()) {
      context.tables().loopOver(variables.names().get(0), values);
      return;
    }
    for (int i = 0; i < Math.min(variables.names().size(), values.fields().size()); i++) {
      context.tables().fill(variables.names().get(i), values.fields().get(i));
    }
  }

  private static List<Table> intoTables(Select select) {
    List<Table> into = select instanceof PlainSelect plain ? plain.getIntoTables() : null;
    return into == null ? List.of() : into;
  }

  private static @Nullable Table intoOf(Select select) {
    if (select instanceof PlainSelect plain) {
      if (plain.getIntoTempTable() != null) {
        return plain.getIntoTempTable();
      }
      List<Table> into = plain.getIntoTables();
      return into == null || into.isEmpty() ? null : into.get(0);
    }
    return select instanceof SetOperationList list ? intoOf(list.getSelects().get(0)) : null;
  }
}
