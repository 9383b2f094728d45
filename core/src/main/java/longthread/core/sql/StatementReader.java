package longthread.core.sql;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import longthread.core.lineage.Flow;
import net.sf.jsqlparser.expression.Alias;
import net.sf.jsqlparser.expression.Expression;
import net.sf.jsqlparser.schema.Column;
import net.sf.jsqlparser.schema.Table;
import net.sf.jsqlparser.statement.ExplainStatement;
import net.sf.jsqlparser.statement.ReturningClause;
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
import net.sf.jsqlparser.statement.delete.Delete;
import net.sf.jsqlparser.statement.delete.ParenthesedDelete;
import net.sf.jsqlparser.statement.drop.Drop;
import net.sf.jsqlparser.statement.insert.Insert;
import net.sf.jsqlparser.statement.insert.OracleMultiInsertBranch;
import net.sf.jsqlparser.statement.insert.OracleMultiInsertClause;
import net.sf.jsqlparser.statement.insert.ParenthesedInsert;
import net.sf.jsqlparser.statement.merge.Merge;
import net.sf.jsqlparser.statement.merge.MergeDelete;
import net.sf.jsqlparser.statement.merge.MergeInsert;
import net.sf.jsqlparser.statement.merge.MergeOperation;
import net.sf.jsqlparser.statement.merge.MergeUpdate;
import net.sf.jsqlparser.statement.select.FromItem;
import net.sf.jsqlparser.statement.select.Join;
import net.sf.jsqlparser.statement.select.PlainSelect;
import net.sf.jsqlparser.statement.select.Select;
import net.sf.jsqlparser.statement.select.SelectItem;
import net.sf.jsqlparser.statement.select.SetOperationList;
import net.sf.jsqlparser.statement.select.Values;
import net.sf.jsqlparser.statement.select.WithItem;
import net.sf.jsqlparser.statement.truncate.Truncate;
import net.sf.jsqlparser.statement.update.ParenthesedUpdate;
import net.sf.jsqlparser.statement.update.Update;
import net.sf.jsqlparser.statement.update.UpdateSet;
import net.sf.jsqlparser.statement.upsert.Upsert;
import org.jspecify.annotations.Nullable;

/** Reads statements: what each writes, and from what. */
final class StatementReader {
  /** The name under which an upsert's assignments see the row that was to be inserted. */
  static final String INSERTED = "excluded";

  private final int number;
  private final boolean routine;
  private final Context context;
  private final QueryReader queries;
  private final List<SqlStatement> results = new ArrayList<>();

  StatementReader(int number, boolean routine, Context context) {
    this.number = number;
    this.routine = routine;
    this.context = context;
    this.queries = new QueryReader(context, this::modifying);
  }

  /** What a statement, or several of its parts, write; empty if it has nothing to do with data. */
  List<SqlStatement> read(Statement statement) {
    if (statement instanceof Select select) {
      select(select);
    } else if (statement instanceof Insert insert) {
      within(insert.getWithItemsList(), () -> insert(insert));
    } else if (statement instanceof CreateTable create) {
      createTable(create);
    } else if (statement instanceof CreateView view) {
      createView(view);
    } else if (statement instanceof AlterView view) {
      String[] names =
          view.getColumnNames() == null
              ? new String[0]
              : view.getColumnNames().toArray(String[]::new);
      Relation rows =
          queries.read(view.getSelect(), null, Relation.Kind.RESULT, "result", idents(names));
      write("create-view", nameOf(view.getView()), rows, rows.fields());
    } else if (statement instanceof Update update) {
      within(update.getWithItemsList(), () -> update(update));
    } else if (statement instanceof Delete delete) {
      within(delete.getWithItemsList(), () -> delete(delete));
    } else if (statement instanceof Merge merge) {
      within(merge.getWithItemsList(), () -> merge(merge));
    } else if (statement instanceof Upsert upsert) {
      upsert(upsert);
    } else if (!(statement instanceof ExplainStatement)) {
      definition(statement);
    }
    return results;
  }

  private void within(@Nullable List<WithItem<?>> items, Runnable body) {
    queries.enter(items);
    try {
      body.run();
    } finally {
      queries.leave();
    }
  }

  private List<Ident> nameOf(Table table) {
    return queries.nameOf(table);
  }

  private List<Ident> idents(String... names) {
    var idents = new ArrayList<Ident>();
    for (String name : names) {
      idents.add(context.ident(name));
    }
    return idents;
  }

  private List<Ident> idents(@Nullable List<Column> columns) {
    var idents = new ArrayList<Ident>();
    if (columns != null) {
      columns.forEach(column -> idents.add(context.ident(column.getColumnName())));
    }
    return idents;
  }

  // ----------------------------------------------------------------- results

  /** Notes what a relation writes to a table, and makes it known to what follows. */
  private void write(String kind, List<Ident> target, Relation rows, List<Field> fields) {
    boolean passing = context.tables().isPassing(target);
    String name = passing ? Ident.dotted(target) : context.tables().fullName(target).name();
    boolean create = kind.startsWith("create");
    emit(passing && create ? "create-temporary" : kind, name, passing, rows, fields);
    if (passing) {
      context.tables().putTemporary(target, temporary(name, rows));
    } else if (create) {
      context.tables().created(target, columnsOf(fields, rows));
    }
  }

  private static List<KnownColumn> columnsOf(List<Field> fields, Relation rows) {
    return rows.open()
        ? List.of()
        : fields.stream().map(f -> new KnownColumn(f.name(), f.type())).toList();
  }

  void emit(
      String kind, @Nullable String target, boolean temporary, Relation rows, List<Field> fields) {
    var shown = new ArrayList<>(fields);
    for (String unknown : unknownBehind(rows, new HashSet<>())) {
      context.problem(
          "The columns of " + unknown + " are not known, so * cannot be told apart.", null);
    }
    if (rows.open() && rows.stars().size() > 0) {
      shown.add(rows.findOrMake(new Ident("*", true)));
    }
    Origins.Result found = Origins.of(rows, shown);
    results.add(
        new SqlStatement(
            number,
            context.span(),
            kind,
            target,
            temporary,
            found.outputs(),
            found.rows(),
            found.reads(),
            found.steps(),
            context.problems().isEmpty(),
            List.copyOf(context.problems())));
  }

  private static List<String> unknownBehind(Relation rows, Set<Relation> seen) {
    var names = new ArrayList<String>();
    for (Relation star : rows.stars()) {
      if (!seen.add(star)) {
        continue;
      }
      if (star.stars().isEmpty()) {
        names.add(star.name());
      } else {
        names.addAll(unknownBehind(star, seen));
      }
    }
    return names;
  }

  /** A temporary table that holds the rows of a query. */
  private static Relation temporary(String name, Relation rows) {
    var table = new Relation(Relation.Kind.TEMPORARY, name, rows.span());
    for (Field field : rows.fields()) {
      if (rows.isKnown(field)) {
        table.add(field.name(), field.type(), Uses.of(field, Flow.IDENTITY), null);
      }
    }
    if (rows.open()) {
      table.addStar(rows);
    }
    table.from.add(rows);
    return table;
  }

  // ----------------------------------------------------------------- queries

  private void select(Select select) {
    Table into = intoOf(select);
    if (into != null && !routine) {
      Relation rows = queries.read(select, null, Relation.Kind.RESULT, "result", List.of());
      List<Ident> target = nameOf(into);
      if (context.repaired().temporary()) {
        intoTemporary("create-temporary", target, rows);
      } else {
        write("create-table", target, rows, rows.fields());
      }
      return;
    }
    Relation rows = queries.read(select, null, Relation.Kind.RESULT, "result", List.of());
    emit("select", null, false, rows, rows.fields());
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

  private void intoTemporary(String kind, List<Ident> target, Relation rows) {
    String name = Ident.dotted(target);
    emit(kind, name, true, rows, rows.fields());
    context.tables().putTemporary(target, temporary(name, rows));
  }

  // ------------------------------------------------------------- definitions

  private void createTable(CreateTable create) {
    List<Ident> target = nameOf(create.getTable());
    boolean temporary =
        context.tables().isPassing(target)
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
              idents(namesOf(create).toArray(String[]::new)));
      if (temporary) {
        intoTemporary("create-temporary", target, rows);
      } else {
        write("create-table", target, rows, rows.fields());
      }
      return;
    }
    List<KnownColumn> columns = new ArrayList<>();
    Table like = create.getLikeTable();
    if (like != null) {
      columns.addAll(context.tables().columns(context.tables().fullName(nameOf(like)).name()));
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

  private void createView(CreateView view) {
    List<Ident> target = nameOf(view.getView());
    List<Ident> columns =
        view.getColumnNames() == null ? List.of() : idents(List.copyOf(view.getColumnNames()));
    Relation rows = queries.read(view.getSelect(), null, Relation.Kind.RESULT, "result", columns);
    boolean temporary = view.getTemporary() != null && view.getTemporary() != TemporaryOption.NONE;
    if (temporary) {
      intoTemporary("create-temporary", target, rows);
    } else {
      write("create-view", target, rows, rows.fields());
    }
  }

  private void definition(Statement statement) {
    if (statement instanceof Alter alter) {
      if (alter.getAlterExpressions() != null) {
        for (AlterExpression change : alter.getAlterExpressions()) {
          if (change.getNewTableName() != null) {
            rename(nameOf(alter.getTable()), idents(change.getNewTableName().split("\\.")));
          }
        }
      }
    } else if (statement instanceof RenameTableStatement rename) {
      rename.getTableNames().forEach(e -> rename(nameOf(e.getKey()), nameOf(e.getValue())));
    } else if (statement instanceof Drop drop) {
      if (drop.getName() != null) {
        context.tables().drop(nameOf(drop.getName()));
      }
    } else if (statement instanceof Truncate truncate && truncate.getTable() != null) {
      emptied(nameOf(truncate.getTable()));
    } else if (statement instanceof UseStatement use) {
      context.tables().searchPath(List.of(use.getName()));
    }
  }

  private void rename(List<Ident> from, List<Ident> to) {
    String old = context.tables().fullName(from).name();
    context.tables().rename(from, to);
    context.tables().renamed(number, old, to);
  }

  private void emptied(List<Ident> target) {
    Relation before = context.tables().temporary(target);
    if (before != null) {
      var empty = new Relation(Relation.Kind.TEMPORARY, before.name(), context.span());
      before.fields().forEach(f -> empty.add(f.name(), f.type(), new Uses(), null));
      context.tables().putTemporary(target, empty);
    }
  }

  // ------------------------------------------------------------------ inserts

  private @Nullable Relation insert(Insert insert) {
    if (insert.isOracleMultiInsert()) {
      multiInsert(insert);
      return null;
    }
    List<Ident> target = nameOf(insert.getTable());
    List<Ident> columns = idents(insert.getColumns());
    if (insert.getSetUpdateSets() != null && !insert.getSetUpdateSets().isEmpty()) {
      var rows = new Relation(Relation.Kind.RESULT, "result", context.span());
      assign(rows, insert.getSetUpdateSets(), new Scope(null), null);
      wrote("insert", target, rows);
      return rows;
    }
    if (insert.getSelect() == null) {
      return null; // DEFAULT VALUES
    }
    if (columns.isEmpty() && !context.repaired().byName()) {
      columns = allColumns(target, insert);
    }
    List<UpdateSet> sets = onConflict(insert);
    Relation.Kind kind = sets.isEmpty() ? Relation.Kind.RESULT : Relation.Kind.SUBQUERY;
    Relation rows =
        queries.read(insert.getSelect(), null, kind, sets.isEmpty() ? "result" : INSERTED, columns);
    if (!sets.isEmpty()) {
      rows = upserted(insert, target, rows, sets);
    }
    if (insert.getPartitions() != null) {
      addPartitions(insert, rows);
    }
    wrote(insert.isOverwrite() ? "insert-overwrite" : "insert", target, rows);
    return rows;
  }

  /** The columns of a table that an INSERT without a list fills, in order. */
  private List<Ident> allColumns(List<Ident> target, Insert insert) {
    Relation temporary = context.tables().temporary(target);
    List<String> names =
        temporary != null
            ? temporary.fields().stream().map(Field::name).toList()
            : context.tables().columns(context.tables().fullName(target).name()).stream()
                .map(KnownColumn::name)
                .toList();
    if (names.isEmpty()) {
      boolean values = insert.getSelect() instanceof Values;
      context.problem(
          "The columns of "
              + context.tables().fullName(target).name()
              + " are not known, so "
              + (values ? "its values have no names." : "they are taken to be named as selected."),
          context.spanOf(insert.getTable()));
    }
    return names.stream()
        .filter(name -> !isFixedPartition(insert, name))
        .map(name -> new Ident(name, true))
        .toList();
  }

  /** Whether the column's value is told by PARTITION (c = …) and not by the query. */
  private static boolean isFixedPartition(Insert insert, String name) {
    return insert.getPartitions() != null
        && insert.getPartitions().stream()
            .anyMatch(
                p ->
                    p.getValue() != null
                        && p.getColumn() != null
                        && p.getColumn().getColumnName().equalsIgnoreCase(name));
  }

  private static void addPartitions(Insert insert, Relation rows) {
    insert
        .getPartitions()
        .forEach(
            partition -> {
              if (partition.getValue() != null && partition.getColumn() != null) {
                var uses = new Uses();
                uses.constants.add(new Constant(partition.getValue().toString(), rowsSpan(rows)));
                rows.add(partition.getColumn().getColumnName(), null, uses, null);
              }
            });
  }

  private static Span rowsSpan(Relation rows) {
    Span span = rows.span();
    return span == null ? new Span(0, 0) : span;
  }

  private static List<UpdateSet> onConflict(Insert insert) {
    var sets = new ArrayList<UpdateSet>();
    if (insert.getConflictAction() != null && insert.getConflictAction().getUpdateSets() != null) {
      sets.addAll(insert.getConflictAction().getUpdateSets());
    }
    if (insert.getDuplicateUpdateSets() != null) {
      sets.addAll(insert.getDuplicateUpdateSets());
    }
    return sets;
  }

  /** The rows of an upsert: what it inserts or, where a row is there, what it assigns. */
  private Relation upserted(
      Insert insert, List<Ident> target, Relation inserted, List<UpdateSet> sets) {
    var result = new Relation(Relation.Kind.RESULT, "result", context.span());
    for (Field field : inserted.fields()) {
      result.add(field.name(), field.type(), Uses.of(field, Flow.IDENTITY), null);
    }
    inserted.stars().forEach(result::addStar);
    result.from.add(inserted);
    var scope = new Scope(null);
    Alias row = insert.getRowAlias();
    Ident name = row == null ? new Ident(INSERTED, false) : context.ident(row.getName());
    Relation table = targetRelation(target, insert.getTable());
    scope.add(new Scope.Entry(aliased(insert.getTable(), target), table));
    scope.add(new Scope.Entry(List.of(name), inserted));
    // An unqualified name in an assignment is the table's; the inserted row needs its qualifier.
    scope.entries().get(1).hidden().addAll(inserted.fields());
    assign(result, sets, scope, null);
    if (insert.getConflictAction() != null
        && insert.getConflictAction().getWhereExpression() != null) {
      Uses uses =
          queries.expressions().read(insert.getConflictAction().getWhereExpression(), scope);
      result.rows.addDeciding(uses, Flow.FILTER);
    }
    return result;
  }

  private void wrote(String kind, List<Ident> target, Relation rows) {
    Relation before = context.tables().temporary(target);
    if (before != null || context.tables().isPassing(target)) {
      String name = before != null ? before.name() : Ident.dotted(target);
      emit(kind, name, true, rows, rows.fields());
      context.tables().putTemporary(target, grown(name, before, rows));
      return;
    }
    emit(kind, context.tables().fullName(target).name(), false, rows, rows.fields());
  }

  /** A temporary table after more rows came in, or some of its columns were set anew. */
  private static Relation grown(String name, @Nullable Relation before, Relation rows) {
    if (before == null) {
      return temporary(name, rows);
    }
    var table = new Relation(Relation.Kind.TEMPORARY, name, rows.span());
    for (Field field : before.fields()) {
      Uses uses = Uses.of(field, Flow.IDENTITY);
      Field more = rows.find(new Ident(field.name(), false));
      if (more != null) {
        uses.add(Uses.of(more, Flow.IDENTITY));
      }
      table.add(field.name(), field.type(), uses, null);
    }
    if (before.open()) {
      before.stars().forEach(table::addStar);
      for (Field field : rows.fields()) {
        if (before.find(new Ident(field.name(), false)) == null) {
          table.add(field.name(), field.type(), Uses.of(field, Flow.IDENTITY), null);
        }
      }
    }
    table.from.add(before);
    table.from.add(rows);
    return table;
  }

  private void multiInsert(Insert insert) {
    Relation source =
        queries.read(insert.getSelect(), null, Relation.Kind.SUBQUERY, "source", List.of());
    var scope = new Scope(null);
    scope.add(new Scope.Entry(List.of(), source));
    for (OracleMultiInsertBranch branch : insert.getOracleMultiInsertBranches()) {
      for (OracleMultiInsertClause clause : branch.getClauses()) {
        var rows = new Relation(Relation.Kind.RESULT, "result", context.span());
        List<Ident> target = nameOf(clause.getTable());
        List<Ident> columns = idents(clause.getColumns());
        if (columns.isEmpty()) {
          columns = allColumns(target, insert);
        }
        rows.from.add(source);
        if (clause.getSelect() instanceof Values values) {
          values(values, columns, scope, rows);
        } else {
          for (int i = 0; i < source.fields().size(); i++) {
            Field field = source.fields().get(i);
            String name = i < columns.size() ? columns.get(i).name() : field.name();
            rows.add(name, field.type(), Uses.of(field, Flow.IDENTITY), null);
          }
        }
        if (branch.getWhenExpression() != null) {
          rows.rows.addDeciding(
              queries.expressions().read(branch.getWhenExpression(), scope), Flow.FILTER);
        }
        wrote("insert", target, rows);
      }
    }
  }

  private void values(Values values, List<Ident> columns, Scope scope, Relation rows) {
    List<?> list = values.getExpressions();
    if (list.size() == 1 && list.get(0) instanceof List<?> inner) {
      list = inner;
    }
    for (int i = 0; i < list.size(); i++) {
      String name = i < columns.size() ? columns.get(i).name() : "column" + (i + 1);
      Expression value = (Expression) list.get(i);
      rows.add(name, null, queries.expressions().read(value, scope), context.spanOf(value));
    }
  }

  private void upsert(Upsert upsert) {
    List<Ident> target = nameOf(upsert.getTable());
    var columns = new ArrayList<>(idents(upsert.getColumns()));
    if (columns.isEmpty()) {
      context
          .tables()
          .columns(context.tables().fullName(target).name())
          .forEach(c -> columns.add(new Ident(c.name(), true)));
    }
    if (columns.isEmpty()) {
      context.problem("The columns of the table are not known, so they have no names.", null);
    }
    if (upsert.getSelect() != null) {
      Relation rows =
          queries.read(upsert.getSelect(), null, Relation.Kind.RESULT, "result", columns);
      wrote("insert", target, rows);
    } else if (upsert.getExpressions() != null) {
      var rows = new Relation(Relation.Kind.RESULT, "result", context.span());
      values(new Values(upsert.getExpressions()), columns, new Scope(null), rows);
      wrote("insert", target, rows);
    } else {
      context.problem("This form of an upsert is not understood.", null);
      emit(
          "insert",
          context.tables().fullName(target).name(),
          false,
          new Relation(Relation.Kind.RESULT, "result", context.span()),
          List.of());
    }
  }

  // ------------------------------------------------------- updates, deletions

  private Relation targetRelation(List<Ident> target, Table table) {
    Relation temporary = context.tables().temporary(target);
    return temporary != null ? temporary : queries.stored(target, context.spanOf(table));
  }

  private List<Ident> aliased(Table table, List<Ident> name) {
    return table.getAlias() == null ? name : List.of(context.ident(table.getAlias().getName()));
  }

  /** Adds the columns that assignments set; a column that is there gets another alternative. */
  private void assign(
      Relation result, List<UpdateSet> sets, Scope scope, @Nullable Relation source) {
    Map<String, Uses> set = new LinkedHashMap<>();
    Map<String, @Nullable Span> spans = new LinkedHashMap<>();
    for (UpdateSet one : sets) {
      List<Column> columns = List.copyOf(one.getColumns());
      List<?> values = one.getValues();
      boolean query = values.size() == 1 && values.get(0) instanceof Select && columns.size() > 1;
      if (query) {
        Relation rows = queries.scalar((Select) values.get(0), scope);
        for (int i = 0; i < Math.min(columns.size(), rows.fields().size()); i++) {
          Uses uses = Uses.of(rows.fields().get(i), Flow.IDENTITY);
          uses.rowsOf.add(rows);
          put(columns.get(i), uses, context.spanOf(values.get(0)), set, spans);
        }
        continue;
      }
      if (values.size() == 1 && values.get(0) instanceof List<?> inner && columns.size() > 1) {
        values = inner;
      }
      for (int i = 0; i < Math.min(columns.size(), values.size()); i++) {
        if (columns.get(i).getColumnName().equals(ParserInput.ALL) && source != null) {
          source.fields().forEach(f -> set.put(f.name(), Uses.of(f, Flow.IDENTITY)));
          source.stars().forEach(result::addStar);
          if (source.isTable() && source.open()) {
            result.addStar(source);
          }
          continue;
        }
        Expression value = (Expression) values.get(i);
        Uses uses = queries.expressions().read(value, scope);
        put(columns.get(i), uses, context.spanOf(value), set, spans);
      }
    }
    set.forEach(
        (name, uses) -> {
          Field there = result.find(new Ident(name, false));
          if (there != null) {
            there.uses().add(uses);
          } else {
            result.add(name, null, uses, spans.get(name));
          }
        });
  }

  private void put(
      Column column,
      Uses uses,
      @Nullable Span span,
      Map<String, Uses> set,
      Map<String, @Nullable Span> spans) {
    String name = context.ident(column.getColumnName()).name();
    set.merge(
        name,
        uses,
        (one, other) -> {
          one.add(other);
          return one;
        });
    spans.putIfAbsent(name, span);
  }

  private @Nullable Relation update(Update update) {
    List<Ident> target = nameOf(update.getTable());
    var scope = new Scope(null);
    var result = new Relation(Relation.Kind.RESULT, "result", context.span());
    Relation table = targetRelation(target, update.getTable());
    List<Ident> named = aliased(update.getTable(), target);
    if (update.getStartJoins() != null) {
      scope.add(new Scope.Entry(named, table));
      update.getStartJoins().forEach(join -> queries.from().join(join, scope, result));
    }
    joins(update.getFromItem(), update.getJoins(), scope, result);
    Scope.Entry own = scope.named(named);
    // UPDATE x … FROM t x names its target by an alias that stands in FROM.
    if (own != null && update.getStartJoins() == null && own.relation() != table) {
      table = own.relation();
      target = List.of(new Ident(table.name(), true));
    } else if (own == null) {
      scope.add(new Scope.Entry(named, table));
    }
    List<UpdateSet> sets = update.getUpdateSets();
    assign(result, sets == null ? List.of() : sets, scope, null);
    if (update.getWhere() != null) {
      result.rows.addDeciding(queries.expressions().read(update.getWhere(), scope), Flow.FILTER);
    }
    for (Relation relation : scope.relations()) {
      if (relation != table) {
        result.from.add(relation);
      }
    }
    changed("update", target, table, result, false);
    return returned(update.getReturningClause(), table, named, result, scope);
  }

  private void joins(
      @Nullable FromItem item, @Nullable List<Join> joins, Scope scope, Relation result) {
    if (item != null) {
      var first = new Join();
      first.setSimple(true);
      first.setFromItem(item);
      queries.from().join(first, scope, result);
    }
    if (joins != null) {
      joins.forEach(join -> queries.from().join(join, scope, result));
    }
  }

  /** Notes a change of rows that are there. */
  private void changed(
      String kind, List<Ident> target, Relation table, Relation result, boolean rowsGo) {
    if (table.isTable()) {
      boolean named = target.size() == 1 && target.get(0).exact();
      String name = named ? target.get(0).name() : context.tables().fullName(target).name();
      emit(kind, name, false, result, result.fields());
      return;
    }
    emit(kind, table.name(), true, result, result.fields());
    Relation after = grown(table.name(), table, result);
    if (rowsGo) {
      after.rows.addDeciding(result.rows, Flow.FILTER);
      after.from.remove(result);
    } else if (kind.equals("update")) {
      // What chooses the rows to update decides the values of those columns, not which rows are
      // there.
      after.from.remove(result);
      for (Field set : result.fields()) {
        Field field = after.find(new Ident(set.name(), false));
        if (field != null) {
          field.uses().rowsOf.add(result);
        }
      }
    }
    context.tables().putTemporary(target, after);
  }

  private @Nullable Relation delete(Delete delete) {
    Table named = delete.getTable();
    List<Ident> target = nameOf(named);
    var scope = new Scope(null);
    var result = new Relation(Relation.Kind.RESULT, "result", context.span());
    Relation table = targetRelation(target, named);
    List<Ident> alias = aliased(named, target);
    scope.add(new Scope.Entry(alias, table));
    if (delete.getUsingFromItemList() != null) {
      delete.getUsingFromItemList().forEach(item -> joins(item, null, scope, result));
    } else if (delete.getUsingList() != null) {
      delete.getUsingList().forEach(item -> joins(item, null, scope, result));
    }
    joins(null, delete.getJoins(), scope, result);
    if (delete.getWhere() != null) {
      result.rows.addDeciding(queries.expressions().read(delete.getWhere(), scope), Flow.FILTER);
    }
    for (Relation relation : scope.relations()) {
      if (relation != table) {
        result.from.add(relation);
      }
    }
    if (delete.getTables() != null && !delete.getTables().isEmpty()) {
      Scope.Entry own = scope.named(nameOf(delete.getTables().get(0)));
      if (own != null && own.relation().isTable()) {
        emit("delete", own.relation().name(), false, result, List.of());
        return null;
      }
    }
    changed("delete", target, table, result, true);
    return returned(delete.getReturningClause(), table, alias, result, scope);
  }

  private void merge(Merge merge) {
    List<Ident> target = nameOf(merge.getTable());
    var scope = new Scope(null);
    var result = new Relation(Relation.Kind.RESULT, "result", context.span());
    Relation table = targetRelation(target, merge.getTable());
    FromItem using = merge.getFromItem();
    joins(using, null, scope, result);
    Relation source = scope.entries().get(0).relation();
    scope.add(new Scope.Entry(aliased(merge.getTable(), target), table));
    result.from.add(source);
    result.rows.addDeciding(queries.expressions().read(merge.getOnCondition(), scope), Flow.JOIN);
    if (merge.getOperations() != null) {
      for (MergeOperation operation : merge.getOperations()) {
        if (operation instanceof MergeUpdate update) {
          onlyIf(update.getAndPredicate(), scope, result);
          onlyIf(update.getWhereCondition(), scope, result);
          onlyIf(update.getDeleteWhereCondition(), scope, result);
          assign(result, update.getUpdateSets(), scope, source);
        } else if (operation instanceof MergeInsert insert) {
          onlyIf(insert.getAndPredicate(), scope, result);
          onlyIf(insert.getWhereCondition(), scope, result);
          mergeInsert(insert, target, source, scope, result);
        } else if (operation instanceof MergeDelete delete) {
          onlyIf(delete.getAndPredicate(), scope, result);
        }
      }
    }
    changed("merge", target, table, result, false);
  }

  private void onlyIf(@Nullable Expression condition, Scope scope, Relation result) {
    if (condition != null) {
      result.rows.addDeciding(queries.expressions().read(condition, scope), Flow.FILTER);
    }
  }

  private void mergeInsert(
      MergeInsert insert, List<Ident> target, Relation source, Scope scope, Relation result) {
    List<Ident> columns =
        insert.getColumns() == null ? List.of() : idents(List.copyOf(insert.getColumns()));
    boolean all = columns.size() == 1 && columns.get(0).name().equals(ParserInput.ALL);
    if (all) {
      for (Field field : source.fields()) {
        add(result, field.name(), Uses.of(field, Flow.IDENTITY), null);
      }
      if (source.open()) {
        result.addStar(source);
      }
      return;
    }
    if (columns.isEmpty()) {
      columns =
          context.tables().columns(context.tables().fullName(target).name()).stream()
              .map(c -> new Ident(c.name(), true))
              .toList();
      if (columns.isEmpty()) {
        context.problem("The columns of the merged table are not known.", null);
      }
    }
    List<?> values = insert.getValues() == null ? List.of() : insert.getValues();
    for (int i = 0; i < values.size(); i++) {
      String name = i < columns.size() ? columns.get(i).name() : "column" + (i + 1);
      Expression value = (Expression) values.get(i);
      add(result, name, queries.expressions().read(value, scope), context.spanOf(value));
    }
  }

  private static void add(Relation result, String name, Uses uses, @Nullable Span span) {
    Field there = result.find(new Ident(name, false));
    if (there != null) {
      there.uses().add(uses);
    } else {
      result.add(name, null, uses, span);
    }
  }

  // ------------------------------------------------------ changes within WITH

  private @Nullable Relation modifying(WithItem<?> item, String name) {
    Object inside = item.getParenthesedStatement();
    Relation returned = null;
    if (inside instanceof Insert outer) {
      Insert insert =
          outer instanceof ParenthesedInsert p && p.getInsert() != null ? p.getInsert() : outer;
      Relation[] rows = new Relation[1];
      within(insert.getWithItemsList(), () -> rows[0] = insert(insert));
      if (rows[0] != null && insert.getReturningClause() != null) {
        List<Ident> target = nameOf(insert.getTable());
        returned =
            returned(
                insert.getReturningClause(),
                null,
                aliased(insert.getTable(), target),
                rows[0],
                new Scope(null));
      }
    } else if (inside instanceof Update outer) {
      Update update =
          outer instanceof ParenthesedUpdate p && p.getUpdate() != null ? p.getUpdate() : outer;
      Relation[] rows = new Relation[1];
      within(update.getWithItemsList(), () -> rows[0] = update(update));
      returned = rows[0];
    } else if (inside instanceof Delete outer) {
      Delete delete =
          outer instanceof ParenthesedDelete p && p.getDelete() != null ? p.getDelete() : outer;
      Relation[] rows = new Relation[1];
      within(delete.getWithItemsList(), () -> rows[0] = delete(delete));
      returned = rows[0];
    } else {
      context.problem("What " + name + " does within WITH is not understood.", null);
    }
    if (returned == null) {
      return null;
    }
    var cte = new Relation(Relation.Kind.CTE, name, returned.span());
    for (Field field : returned.fields()) {
      if (returned.isKnown(field)) {
        cte.add(field.name(), field.type(), Uses.of(field, Flow.IDENTITY), null);
      }
    }
    returned.stars().forEach(cte::addStar);
    cte.from.add(returned);
    return cte;
  }

  /**
   * What RETURNING yields: the columns of the table as they stand after the change.
   *
   * @param table the rows as they stood before; null if there were none
   * @param around the other relations that it may name
   */
  private @Nullable Relation returned(
      @Nullable ReturningClause clause,
      @Nullable Relation table,
      List<Ident> named,
      Relation written,
      Scope around) {
    if (clause == null || clause.isEmpty()) {
      return null;
    }
    var after =
        new Relation(Relation.Kind.SUBQUERY, named.get(named.size() - 1).name(), written.span());
    for (Field field : written.fields()) {
      after.add(field.name(), field.type(), Uses.of(field, Flow.IDENTITY), null);
    }
    after.rows.addDeciding(written.rows, Flow.FILTER);
    after.from.addAll(written.from);
    if (table != null) {
      for (Field field : table.fields()) {
        if (table.isKnown(field) && after.find(new Ident(field.name(), true)) == null) {
          after.add(field.name(), field.type(), Uses.of(field, Flow.IDENTITY), null);
        }
      }
      if (table.open()) {
        after.addStar(table);
      }
      after.from.add(table);
    }
    var scope = new Scope(null);
    scope.add(new Scope.Entry(named, after));
    for (Scope.Entry entry : around.entries()) {
      if (entry.relation() != table) {
        scope.add(entry);
      }
    }
    var result = new Relation(Relation.Kind.SUBQUERY, "returned", written.span());
    for (SelectItem<?> item : clause) {
      queries.outputs().output(item, scope, result, List.of());
    }
    result.from.add(after);
    return result;
  }
}
