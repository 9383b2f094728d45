package longthread.core.sql;

import java.util.ArrayList;
import java.util.List;
import longthread.core.lineage.Flow;
import net.sf.jsqlparser.expression.Alias;
import net.sf.jsqlparser.expression.Expression;
import net.sf.jsqlparser.statement.insert.Insert;
import net.sf.jsqlparser.statement.insert.OracleMultiInsertBranch;
import net.sf.jsqlparser.statement.insert.OracleMultiInsertClause;
import net.sf.jsqlparser.statement.select.Values;
import net.sf.jsqlparser.statement.update.UpdateSet;
import net.sf.jsqlparser.statement.upsert.Upsert;
import org.jspecify.annotations.Nullable;

/** Reads statements that add rows: INSERT in its forms, and UPSERT. */
final class InsertReader {
  /** The name under which an upsert's assignments see the row that was to be inserted. */
  static final String INSERTED = "excluded";

  private final Context context;
  private final QueryReader queries;
  private final Writes writes;
  private final Assignments assignments;

  InsertReader(Context context, QueryReader queries, Writes writes, Assignments assignments) {
    this.context = context;
    this.queries = queries;
    this.writes = writes;
    this.assignments = assignments;
  }

  /** The rows inserted; null if it inserts none that are known. */
  @Nullable Relation insert(Insert insert) {
    if (insert.isOracleMultiInsert()) {
      multiInsert(insert);
      return null;
    }
    List<Ident> target = queries.nameOf(insert.getTable());
    List<Ident> columns = context.idents(insert.getColumns());
    if (insert.getSetUpdateSets() != null && !insert.getSetUpdateSets().isEmpty()) {
      var rows = new Relation(Relation.Kind.RESULT, "result", context.span());
      assignments.assign(rows, insert.getSetUpdateSets(), new Scope(null), null);
      writes.wrote("insert", target, rows);
      return rows;
    }
    if (insert.getSelect() == null) {
      return null; // DEFAULT VALUES
    }
    if (columns.isEmpty() && !context.parserInput().byName()) {
      columns = allColumns(target, insert);
    }
    List<UpdateSet> sets = onConflict(insert);
    Relation.Kind kind = sets.isEmpty() ? Relation.Kind.RESULT : Relation.Kind.SUBQUERY;
    Relation rows =
        queries.read(insert.getSelect(), null, kind, sets.isEmpty() ? "result" : INSERTED, columns);
    checkCount(insert, columns, rows);
    if (!sets.isEmpty()) {
      rows = upserted(insert, target, rows, sets);
    }
    if (insert.getPartitions() != null) {
      addPartitions(insert, rows);
    }
    writes.wrote(insert.isOverwrite() ? "insert-overwrite" : "insert", target, rows);
    return rows;
  }

  /** More values than columns to put them in: which is which is not certain then. */
  private void checkCount(Insert insert, List<Ident> columns, Relation rows) {
    if (!columns.isEmpty() && rows.fields().size() > columns.size()) {
      context.problem(
          "The query yields "
              + rows.fields().size()
              + " columns for the "
              + columns.size()
              + " of the table.",
          context.spanOf(insert.getTable()));
      rows.fields().subList(columns.size(), rows.fields().size()).clear();
    }
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

  /** Whether the column's value is given by PARTITION (c = …) and not by the query. */
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
    Relation table = assignments.targetRelation(target, insert.getTable());
    scope.add(new Scope.Entry(assignments.aliased(insert.getTable(), target), table));
    scope.add(new Scope.Entry(List.of(name), inserted));
    // An unqualified name in an assignment is the table's; the inserted row needs its qualifier.
    scope.entries().get(1).hidden().addAll(inserted.fields());
    assignments.assign(result, sets, scope, null);
    if (insert.getConflictAction() != null
        && insert.getConflictAction().getWhereExpression() != null) {
      Uses uses =
          queries.expressions().read(insert.getConflictAction().getWhereExpression(), scope);
      result.rows.addDeciding(uses, Flow.FILTER);
    }
    return result;
  }

  private void multiInsert(Insert insert) {
    Relation source =
        queries.read(insert.getSelect(), null, Relation.Kind.SUBQUERY, "source", List.of());
    var scope = new Scope(null);
    scope.add(new Scope.Entry(List.of(), source));
    // A row goes where a condition holds; into ELSE, and with FIRST into a later branch, only
    // where those before do not: so they decide there too.
    boolean first = context.textOf(context.span()).matches("(?is)insert\\s+first\\b.*");
    var before = new ArrayList<Expression>();
    for (OracleMultiInsertBranch branch : insert.getOracleMultiInsertBranches()) {
      boolean otherwise = branch.getWhenExpression() == null && !before.isEmpty();
      for (OracleMultiInsertClause clause : branch.getClauses()) {
        var rows = new Relation(Relation.Kind.RESULT, "result", context.span());
        List<Ident> target = queries.nameOf(clause.getTable());
        List<Ident> columns = context.idents(clause.getColumns());
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
        if (first || otherwise) {
          before.forEach(
              condition ->
                  rows.rows.addDeciding(queries.expressions().read(condition, scope), Flow.FILTER));
        }
        writes.wrote("insert", target, rows);
      }
      if (branch.getWhenExpression() != null) {
        before.add(branch.getWhenExpression());
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

  void upsert(Upsert upsert) {
    List<Ident> target = queries.nameOf(upsert.getTable());
    var columns = new ArrayList<>(context.idents(upsert.getColumns()));
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
      writes.wrote("insert", target, rows);
    } else if (upsert.getExpressions() != null) {
      var rows = new Relation(Relation.Kind.RESULT, "result", context.span());
      values(new Values(upsert.getExpressions()), columns, new Scope(null), rows);
      writes.wrote("insert", target, rows);
    } else {
      context.problem("This form of an upsert is not understood.", null);
      writes.emit(
          "insert",
          context.tables().fullName(target).name(),
          false,
          new Relation(Relation.Kind.RESULT, "result", context.span()),
          List.of());
    }
  }
}
