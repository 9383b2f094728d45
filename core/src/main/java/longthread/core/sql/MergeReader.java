package longthread.core.sql;

import java.util.List;
import longthread.core.lineage.Flow;
import net.sf.jsqlparser.expression.Expression;
import net.sf.jsqlparser.statement.merge.Merge;
import net.sf.jsqlparser.statement.merge.MergeDelete;
import net.sf.jsqlparser.statement.merge.MergeInsert;
import net.sf.jsqlparser.statement.merge.MergeOperation;
import net.sf.jsqlparser.statement.merge.MergeUpdate;
import net.sf.jsqlparser.statement.select.FromItem;

/** Reads MERGE: its source, its condition, and each of its branches. */
final class MergeReader {
  private final Context context;
  private final QueryReader queries;
  private final Writes writes;
  private final Assignments assignments;

  MergeReader(Context context, QueryReader queries, Writes writes, Assignments assignments) {
    this.context = context;
    this.queries = queries;
    this.writes = writes;
    this.assignments = assignments;
  }

  void merge(Merge merge) {
    List<Ident> target = queries.nameOf(merge.getTable());
    var scope = new Scope(null);
    var result = new Relation(Relation.Kind.RESULT, "result", context.span());
    Relation table = assignments.targetRelation(target, merge.getTable());
    FromItem using = merge.getFromItem();
    assignments.joins(using, null, scope, result);
    Relation source = scope.entries().get(0).relation();
    scope.add(new Scope.Entry(assignments.aliased(merge.getTable(), target), table));
    result.from.add(source);
    result.rows.addDeciding(queries.expressions().read(merge.getOnCondition(), scope), Flow.JOIN);
    if (merge.getOperations() != null) {
      for (MergeOperation operation : merge.getOperations()) {
        if (operation instanceof MergeUpdate update) {
          assignments.onlyIf(update.getDeleteWhereCondition(), scope, result);
          // Which rows are updated decides the values of the columns set here, and no others.
          var only = new Uses();
          for (Expression condition :
              new Expression[] {update.getAndPredicate(), update.getWhereCondition()}) {
            if (condition != null) {
              only.addDeciding(queries.expressions().read(condition, scope), Flow.CONDITIONAL);
            }
          }
          assignments.assign(result, update.getUpdateSets(), scope, source, only);
        } else if (operation instanceof MergeInsert insert) {
          assignments.onlyIf(insert.getAndPredicate(), scope, result);
          assignments.onlyIf(insert.getWhereCondition(), scope, result);
          mergeInsert(insert, target, source, scope, result);
        } else if (operation instanceof MergeDelete delete) {
          assignments.onlyIf(delete.getAndPredicate(), scope, result);
        }
      }
    }
    writes.changed("merge", target, table, result, false);
  }

  private void mergeInsert(
      MergeInsert insert, List<Ident> target, Relation source, Scope scope, Relation result) {
    List<Ident> columns =
        insert.getColumns() == null ? List.of() : context.idents(List.copyOf(insert.getColumns()));
    boolean all = columns.size() == 1 && columns.get(0).name().equals(ParserInput.ALL);
    if (all) {
      for (Field field : source.fields()) {
        Assignments.add(result, field.name(), Uses.of(field, Flow.IDENTITY), null);
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
      Assignments.add(
          result, name, queries.expressions().read(value, scope), context.spanOf(value));
    }
  }
}
