package longthread.core.sql;

import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import longthread.core.lineage.Flow;
import net.sf.jsqlparser.expression.Alias;
import net.sf.jsqlparser.expression.AnalyticExpression;
import net.sf.jsqlparser.expression.CaseExpression;
import net.sf.jsqlparser.expression.CastExpression;
import net.sf.jsqlparser.expression.Expression;
import net.sf.jsqlparser.expression.Function;
import net.sf.jsqlparser.expression.operators.relational.EqualsTo;
import net.sf.jsqlparser.expression.operators.relational.ParenthesedExpressionList;
import net.sf.jsqlparser.schema.Column;
import net.sf.jsqlparser.statement.select.AllColumns;
import net.sf.jsqlparser.statement.select.AllTableColumns;
import net.sf.jsqlparser.statement.select.ParenthesedSelect;
import net.sf.jsqlparser.statement.select.PlainSelect;
import net.sf.jsqlparser.statement.select.SelectItem;
import org.jspecify.annotations.Nullable;

/** Reads select lists: what each output is made of, what it is called, what a star stands for. */
final class SelectList {
  private final Context context;
  private final ExpressionReader expressions;
  private final QueryReader queries;

  SelectList(Context context, ExpressionReader expressions, QueryReader queries) {
    this.context = context;
    this.expressions = expressions;
    this.queries = queries;
  }

  /** Adds what a select list yields to {@code result}. */
  void outputs(List<SelectItem<?>> items, Scope scope, Relation result, List<Ident> as) {
    for (SelectItem<?> item : items) {
      output(item, scope, result, as);
    }
    scope.relations().forEach(result.from::add);
  }

  /** Adds what one item of a select list yields to {@code result}. */
  void output(SelectItem<?> item, Scope scope, Relation result, List<Ident> as) {
    Expression expression = item.getExpression();
    if (context.dialect() == Dialect.BRACKET
        && expression instanceof EqualsTo named
        && named.getLeftExpression() instanceof Column alias
        && item.getAlias() == null) {
      // There, name = value gives the output its name.
      var labelled = new SelectItem<Expression>(named.getRightExpression());
      labelled.setAlias(new Alias(alias.getColumnName()));
      output(labelled, scope, result, as);
      return;
    }
    if (expression instanceof AllTableColumns all) {
      Scope.Entry entry = scope.named(queries.nameOf(all.getTable()));
      if (entry == null) {
        starOfStruct(all, scope, result);
      } else {
        star(all, List.of(entry), scope, result, as);
      }
      return;
    }
    if (expression instanceof AllColumns all) {
      star(all, scope.entries(), scope, result, as);
      return;
    }
    Uses uses = expressions.readOutput(expression, scope, result.rows);
    int position = result.fields().size();
    String name =
        position < as.size()
            ? as.get(position).name()
            : item.getAlias() != null && item.getAlias().getName() != null
                ? context.ident(item.getAlias().getName()).name()
                : impliedName(expression, position + 1);
    Span span = context.spanOf(expression);
    Field field =
        result.add(
            name, typeOf(expression, uses), uses, span == null ? context.spanOf(item) : span);
    if (item.getAlias() != null) {
      scope.give(field);
    }
  }

  private static @Nullable String typeOf(Expression expression, Uses uses) {
    if (expression instanceof CastExpression cast && cast.getColDataType() != null) {
      return cast.getColDataType().toString();
    }
    if (expression instanceof Column && uses.direct.size() == 1) {
      return uses.direct.keySet().iterator().next().type();
    }
    return null;
  }

  private String impliedName(Expression expression, int position) {
    if (expression instanceof Column column) {
      return context.ident(column.getColumnName()).name();
    }
    if (context.dialect() == Dialect.POSTGRES || context.dialect() == Dialect.ANSI) {
      if (expression instanceof Function function) {
        return FunctionReader.plainName(function.getName());
      }
      if (expression instanceof AnalyticExpression call) {
        return FunctionReader.plainName(call.getName());
      }
      if (expression instanceof CaseExpression) {
        return "case";
      }
      if (expression instanceof CastExpression cast) {
        String inner = impliedName(cast.getLeftExpression(), position);
        boolean none = inner.equals("column" + position);
        return none && cast.getColDataType() != null
            ? cast.getColDataType().getDataType().toLowerCase(Locale.ROOT)
            : inner;
      }
      if (expression instanceof ParenthesedExpressionList<?> list && list.size() == 1) {
        return impliedName((Expression) list.get(0), position);
      }
      if (expression instanceof ParenthesedSelect inner
          && inner.getSelect() instanceof PlainSelect plain
          && plain.getSelectItems().size() == 1) {
        SelectItem<?> item = plain.getSelectItems().get(0);
        return item.getAlias() != null && item.getAlias().getName() != null
            ? context.ident(item.getAlias().getName()).name()
            : impliedName(item.getExpression(), position);
      }
    }
    return "column" + position;
  }

  /** {@code t.s.*}: all fields of a struct column. */
  private void starOfStruct(AllTableColumns all, Scope scope, Relation result) {
    Scope.Found found = scope.resolve(queries.nameOf(all.getTable()));
    if (found == null || found.fields().isEmpty()) {
      context.problem("No table here is named " + all.getTable() + ".", context.spanOf(all));
      return;
    }
    var uses = new Uses();
    found.fields().forEach(f -> uses.direct(f, Uses.How.of(Flow.TRANSFORMATION)));
    result.openWith(uses);
    result.add("*", null, uses, context.spanOf(all));
    context.problem(
        "The fields of " + all.getTable() + " are not known, so its * is not expanded.",
        context.spanOf(all));
  }

  /** Adds what a star yields, but for the columns it leaves out. */
  void star(
      AllColumns all, List<Scope.Entry> entries, Scope scope, Relation result, List<Ident> as) {
    var leftOut = new HashSet<String>();
    if (all.getExceptColumns() != null) {
      all.getExceptColumns()
          .forEach(
              c -> leftOut.add(context.ident(c.getColumnName()).name().toLowerCase(Locale.ROOT)));
    }
    Map<String, SelectItem<?>> replaced = new HashMap<>();
    Map<String, String> renamed = new HashMap<>();
    if (all.getReplaceExpressions() != null) {
      for (SelectItem<?> item : all.getReplaceExpressions()) {
        if (item.getAlias() == null) {
          continue;
        }
        String alias = context.ident(item.getAlias().getName()).name();
        if (context.parserInput().isRename(context.spanOf(all))
            && item.getExpression() instanceof Column column) {
          renamed.put(context.ident(column.getColumnName()).name().toLowerCase(Locale.ROOT), alias);
        } else {
          replaced.put(alias.toLowerCase(Locale.ROOT), item);
        }
      }
    }
    Span span = context.spanOf(all);
    boolean every = entries == scope.entries();
    if (every) {
      for (List<Field> sources : scope.merged().values()) {
        Field first = sources.get(0);
        String key = first.name().toLowerCase(Locale.ROOT);
        if (leftOut.contains(key)) {
          continue;
        }
        var uses = new Uses();
        SelectItem<?> other = replaced.get(key);
        if (other != null) {
          uses.add(expressions.read(other.getExpression(), scope));
        } else {
          sources.forEach(f -> uses.direct(f, Uses.How.of(Flow.IDENTITY)));
        }
        String name = renamed.getOrDefault(key, first.name());
        addStarred(name, first.type(), uses, span, result, as);
      }
    }
    for (Scope.Entry entry : entries) {
      for (Field field : List.copyOf(entry.relation().fields())) {
        String key = field.name().toLowerCase(Locale.ROOT);
        boolean shown = entry.relation().isKnown(field) || !entry.relation().open();
        boolean hidden = every && entry.hidden().contains(field);
        if (!shown || hidden || leftOut.contains(key)) {
          continue;
        }
        SelectItem<?> other = replaced.get(key);
        if (other != null) {
          Uses uses = expressions.read(other.getExpression(), scope);
          addStarred(field.name(), null, uses, context.spanOf(other.getExpression()), result, as);
        } else {
          addStarred(
              renamed.getOrDefault(key, field.name()),
              field.type(),
              Uses.of(field, Flow.IDENTITY),
              span,
              result,
              as);
        }
      }
      if (entry.relation().open() && !entry.isHidden()) {
        result.addStar(entry.relation());
      }
    }
  }

  private void addStarred(
      String name,
      @Nullable String type,
      Uses uses,
      @Nullable Span span,
      Relation result,
      List<Ident> as) {
    int position = result.fields().size();
    result.add(position < as.size() ? as.get(position).name() : name, type, uses, span);
  }

  /** Adds all columns of a relation to another. */
  void star(Relation result, Scope.Entry entry, List<Ident> as) {
    for (Field field : List.copyOf(entry.relation().fields())) {
      if (entry.relation().isKnown(field)) {
        addStarred(field.name(), field.type(), Uses.of(field, Flow.IDENTITY), null, result, as);
      }
    }
    if (entry.relation().open()) {
      result.addStar(entry.relation());
    }
  }
}
