package longthread.core.sql;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import longthread.core.lineage.Flow;
import net.sf.jsqlparser.expression.Alias;
import net.sf.jsqlparser.expression.Expression;
import net.sf.jsqlparser.expression.Function;
import net.sf.jsqlparser.expression.operators.relational.ExpressionList;
import net.sf.jsqlparser.schema.Column;
import net.sf.jsqlparser.statement.select.Pivot;
import net.sf.jsqlparser.statement.select.SelectItem;
import net.sf.jsqlparser.statement.select.UnPivot;
import org.jspecify.annotations.Nullable;

/** Reads PIVOT and UNPIVOT: the groups and columns that they make of a relation. */
final class PivotReader {
  private final Context context;
  private final ExpressionReader expressions;

  PivotReader(Context context, ExpressionReader expressions) {
    this.context = context;
    this.expressions = expressions;
  }

  Scope.Entry pivoted(Scope.Entry entry, Pivot pivot, Scope around) {
    var inner = new Scope(around.outer());
    inner.add(entry);
    Ident name = pivotName(pivot.getAlias(), entry);
    var result = new Relation(Relation.Kind.PIVOT, name.name(), null);
    var used = new HashSet<Field>();
    var choosing = new Uses();
    for (Object column : pivot.getForColumns()) {
      choosing.add(expressions.read((Expression) column, inner));
    }
    used.addAll(choosing.direct.keySet());
    var aggregates = new ArrayList<SelectItem<Function>>(pivot.getFunctionItems());
    var values = new ArrayList<Uses>();
    for (SelectItem<Function> item : aggregates) {
      Uses uses = expressions.read(item.getExpression(), inner);
      used.addAll(uses.direct.keySet());
      var chosen = uses.copy();
      chosen.addDeciding(choosing, Flow.CONDITIONAL);
      values.add(chosen);
    }
    for (Field field : List.copyOf(entry.relation().fields())) {
      if (entry.relation().isKnown(field) && !used.contains(field)) {
        result.add(field.name(), field.type(), Uses.of(field, Flow.IDENTITY), null);
        result.rows.decides(field, Flow.GROUP_BY, false);
      }
    }
    if (entry.relation().open()) {
      result.addStar(entry.relation());
      context.problem(
          "The columns of "
              + entry.relation().name()
              + " are not known, so PIVOT's groups are not.",
          null);
    }
    List<?> in = pivot.getInItems() == null ? List.of() : pivot.getInItems();
    for (Object item : in) {
      if (item instanceof SelectItem<?> choice) {
        String label =
            choice.getAlias() != null
                ? context.ident(choice.getAlias().getName()).name()
                : context.ident(choice.getExpression().toString()).name();
        for (int i = 0; i < aggregates.size(); i++) {
          Alias own = aggregates.get(i).getAlias();
          String column =
              own == null || own.getName() == null
                  ? label
                  : label + "_" + context.ident(own.getName()).name();
          result.add(column, null, values.get(i).copy(), context.spanOf(aggregates.get(i)));
        }
      }
    }
    result.from.add(entry.relation());
    return new Scope.Entry(List.of(name), result);
  }

  private Ident pivotName(@Nullable Alias alias, Scope.Entry entry) {
    if (alias != null && alias.getName() != null) {
      return context.ident(alias.getName());
    }
    return entry.names().isEmpty()
        ? new Ident("pivot " + context.nextUnnamed(), false)
        : entry.names().get(entry.names().size() - 1);
  }

  Scope.Entry unpivoted(Scope.Entry entry, UnPivot unpivot, Scope around) {
    var inner = new Scope(around.outer());
    inner.add(entry);
    Ident name = pivotName(unpivot.getAlias(), entry);
    var result = new Relation(Relation.Kind.PIVOT, name.name(), null);
    var values = new ArrayList<Uses>();
    var names = new Uses();
    var used = new HashSet<Field>();
    for (Column ignored : unpivot.getUnPivotClause()) {
      values.add(new Uses());
    }
    for (SelectItem<?> item : unpivot.getUnPivotInClause()) {
      Expression expression = item.getExpression();
      List<?> columns = expression instanceof ExpressionList<?> list ? list : List.of(expression);
      for (int i = 0; i < columns.size() && i < values.size(); i++) {
        Uses uses = expressions.read((Expression) columns.get(i), inner);
        used.addAll(uses.direct.keySet());
        values.get(i).add(uses);
      }
      Span at = context.spanOrWhole(item);
      names.constants.add(new Constant("'" + expression + "'", at));
    }
    for (Field field : List.copyOf(entry.relation().fields())) {
      if (entry.relation().isKnown(field) && !used.contains(field)) {
        result.add(field.name(), field.type(), Uses.of(field, Flow.IDENTITY), null);
      }
    }
    if (entry.relation().open()) {
      result.addStar(entry.relation());
    }
    for (int i = 0; i < values.size(); i++) {
      Column column = unpivot.getUnPivotClause().get(i);
      result.add(
          context.ident(column.getColumnName()).name(),
          null,
          values.get(i),
          context.spanOf(column));
      if (!unpivot.getIncludeNulls()) {
        result.rows.addDeciding(values.get(i), Flow.FILTER);
      }
    }
    for (Column column : unpivot.getUnPivotForClause()) {
      result.add(
          context.ident(column.getColumnName()).name(), null, names.copy(), context.spanOf(column));
    }
    result.from.add(entry.relation());
    return new Scope.Entry(List.of(name), result);
  }
}
