package longthread.core.sql;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import net.sf.jsqlparser.schema.Table;
import net.sf.jsqlparser.statement.Statement;
import net.sf.jsqlparser.statement.UseStatement;
import net.sf.jsqlparser.statement.alter.Alter;
import net.sf.jsqlparser.statement.alter.AlterExpression;
import net.sf.jsqlparser.statement.alter.RenameTableStatement;
import net.sf.jsqlparser.statement.create.table.ColumnDefinition;
import net.sf.jsqlparser.statement.create.table.CreateTable;
import net.sf.jsqlparser.statement.create.view.AlterView;
import net.sf.jsqlparser.statement.create.view.CreateView;
import net.sf.jsqlparser.statement.create.view.TemporaryOption;
import net.sf.jsqlparser.statement.drop.Drop;
import net.sf.jsqlparser.statement.truncate.Truncate;

/** Reads statements that create, rename, empty and drop tables and views. */
final class DefinitionReader {
  private final Context context;
  private final QueryReader queries;
  private final Writes writes;

  DefinitionReader(Context context, QueryReader queries, Writes writes) {
    this.context = context;
    this.queries = queries;
    this.writes = writes;
  }

  void createTable(CreateTable create) {
    List<Ident> target = queries.nameOf(create.getTable());
    boolean temporary =
        context.tables().isTemporaryName(target)
            || create.getCreateOptionsStrings() != null
                && create.getCreateOptionsStrings().stream()
                    .anyMatch(o -> o.toLowerCase(Locale.ROOT).startsWith("temp"));
    if (create.getSelect() != null) {
      Relation rows =
          queries.read(
              create.getSelect(),
              null,
              Relation.Kind.RESULT,
              "result",
              context.idents(namesOf(create).toArray(String[]::new)));
      if (temporary) {
        writes.intoTemporary("create-temporary", target, rows);
      } else {
        writes.write("create-table", target, rows, rows.fields());
      }
      return;
    }
    List<KnownColumn> columns = new ArrayList<>();
    Table like = create.getLikeTable();
    if (like != null) {
      columns.addAll(
          context.tables().columns(context.tables().fullName(queries.nameOf(like)).name()));
    } else if (create.getColumnDefinitions() != null) {
      for (ColumnDefinition column : create.getColumnDefinitions()) {
        columns.add(
            new KnownColumn(
                context.ident(column.getColumnName()).name(),
                column.getColDataType() == null ? null : column.getColDataType().toString()));
      }
    }
    if (temporary) {
      String name = Ident.dotted(target);
      var empty = new Relation(Relation.Kind.TEMPORARY, name, context.span());
      columns.forEach(c -> empty.add(c.name(), c.type(), new Uses(), null));
      context.tables().putTemporary(target, empty);
    } else {
      context.tables().created(target, columns);
    }
  }

  private static List<String> namesOf(CreateTable create) {
    if (create.getColumnDefinitions() != null && !create.getColumnDefinitions().isEmpty()) {
      return create.getColumnDefinitions().stream().map(ColumnDefinition::getColumnName).toList();
    }
    return create.getColumns() == null ? List.of() : create.getColumns();
  }

  void createView(CreateView view) {
    List<Ident> target = queries.nameOf(view.getView());
    List<Ident> columns =
        view.getColumnNames() == null
            ? List.of()
            : context.idents(List.copyOf(view.getColumnNames()));
    Relation rows = queries.read(view.getSelect(), null, Relation.Kind.RESULT, "result", columns);
    boolean temporary = view.getTemporary() != null && view.getTemporary() != TemporaryOption.NONE;
    if (temporary) {
      writes.intoTemporary("create-temporary", target, rows);
    } else {
      writes.write("create-view", target, rows, rows.fields());
    }
  }

  void alterView(AlterView view) {
    List<String> names = view.getColumnNames();
    List<Ident> columns = names == null ? List.of() : context.idents(names.toArray(String[]::new));
    Relation rows = queries.read(view.getSelect(), null, Relation.Kind.RESULT, "result", columns);
    writes.write("create-view", queries.nameOf(view.getView()), rows, rows.fields());
  }

  /** A statement that changes which tables there are, or is none of ours. */
  void other(Statement statement) {
    if (statement instanceof Alter alter) {
      if (alter.getAlterExpressions() != null) {
        for (AlterExpression change : alter.getAlterExpressions()) {
          if (change.getNewTableName() != null) {
            writes.rename(
                queries.nameOf(alter.getTable()),
                context.idents(change.getNewTableName().split("\\.")));
          }
        }
      }
    } else if (statement instanceof RenameTableStatement rename) {
      rename
          .getTableNames()
          .forEach(e -> writes.rename(queries.nameOf(e.getKey()), queries.nameOf(e.getValue())));
    } else if (statement instanceof Drop drop) {
      if (drop.getName() != null) {
        context.tables().drop(queries.nameOf(drop.getName()));
      }
    } else if (statement instanceof Truncate truncate && truncate.getTable() != null) {
      writes.emptied(queries.nameOf(truncate.getTable()));
    } else if (statement instanceof UseStatement use) {
      context.tables().searchPath(List.of(use.getName()));
    }
  }
}
