package longthread.core.sql;

import java.util.List;
import java.util.Objects;
import longthread.core.lineage.Flow;
import net.sf.jsqlparser.expression.AliasedExpression;
import net.sf.jsqlparser.expression.AnalyticExpression;
import net.sf.jsqlparser.expression.AnyComparisonExpression;
import net.sf.jsqlparser.expression.ArrayExpression;
import net.sf.jsqlparser.expression.CaseExpression;
import net.sf.jsqlparser.expression.CastExpression;
import net.sf.jsqlparser.expression.CollateExpression;
import net.sf.jsqlparser.expression.Expression;
import net.sf.jsqlparser.expression.ExtractExpression;
import net.sf.jsqlparser.expression.Function;
import net.sf.jsqlparser.expression.IntervalExpression;
import net.sf.jsqlparser.expression.JdbcNamedParameter;
import net.sf.jsqlparser.expression.JsonAggregateFunction;
import net.sf.jsqlparser.expression.JsonExpression;
import net.sf.jsqlparser.expression.LambdaExpression;
import net.sf.jsqlparser.expression.MySQLGroupConcat;
import net.sf.jsqlparser.expression.RowGetExpression;
import net.sf.jsqlparser.expression.StructType;
import net.sf.jsqlparser.expression.TrimFunction;
import net.sf.jsqlparser.expression.WhenClause;
import net.sf.jsqlparser.expression.operators.relational.ExistsExpression;
import net.sf.jsqlparser.expression.operators.relational.ExpressionList;
import net.sf.jsqlparser.expression.operators.relational.InExpression;
import net.sf.jsqlparser.expression.operators.relational.MemberOfExpression;
import net.sf.jsqlparser.expression.operators.relational.ParenthesedExpressionList;
import net.sf.jsqlparser.schema.Column;
import net.sf.jsqlparser.statement.select.AllColumns;
import net.sf.jsqlparser.statement.select.AllTableColumns;
import net.sf.jsqlparser.statement.select.OrderByElement;
import net.sf.jsqlparser.statement.select.ParenthesedSelect;
import net.sf.jsqlparser.statement.select.Select;
import net.sf.jsqlparser.statement.select.SelectItem;
import org.jspecify.annotations.Nullable;

/**
 * Reads what a value expression is made of. An expression that is not known here is computed from
 * whatever columns stand in it.
 */
final class ExpressionReader extends LiteralVisitor {
  private final Context context;
  private final QueryReader queries;
  private final ColumnReader columns;
  private final FunctionReader functions;
  private Scope scope;
  private Uses current = new Uses();
  private @Nullable Uses expanded;

  ExpressionReader(Context context, QueryReader queries) {
    this.context = context;
    this.queries = queries;
    this.columns = new ColumnReader(context, this);
    this.functions = new FunctionReader(context, this);
    this.scope = new Scope(null);
  }

  FunctionReader functions() {
    return functions;
  }

  /** What names mean where the expression being read stands. */
  Scope scope() {
    return scope;
  }

  /** Notes that the output being read yields as many rows as these values say. */
  void expandsBy(Uses values) {
    if (expanded != null) {
      expanded.addDeciding(values, Flow.JOIN);
    }
  }

  /** What {@code expression} is made of, where names mean what {@code in} says. */
  Uses read(Expression expression, Scope in) {
    Scope before = scope;
    scope = in;
    try {
      return part(expression);
    } finally {
      scope = before;
    }
  }

  /**
   * Reads an output expression.
   *
   * @param expandsInto takes what decides how many rows it yields, if it yields several
   */
  Uses readOutput(Expression expression, Scope in, Uses expandsInto) {
    Uses before = expanded;
    expanded = expandsInto;
    try {
      return read(expression, in);
    } finally {
      expanded = before;
    }
  }

  Uses part(Expression expression) {
    Uses before = current;
    var own = new Uses();
    current = own;
    try {
      expression.accept(this, null);
    } finally {
      current = before;
    }
    return passes(expression) ? own : computed(own, Flow.TRANSFORMATION, false, expression);
  }

  /** Whether the value of an expression is that of its part, or was worked out when visited. */
  private static boolean passes(Expression expression) {
    return expression instanceof Column
        || expression instanceof Select
        || expression instanceof Function
        || expression instanceof AnalyticExpression
        || expression instanceof CaseExpression
        || expression instanceof CastExpression
        || expression instanceof CollateExpression
        || expression instanceof AliasedExpression
        || expression instanceof JsonAggregateFunction
        || expression instanceof MySQLGroupConcat
        || expression instanceof RowGetExpression
        || expression instanceof JdbcNamedParameter
        || expression instanceof ArrayExpression
        || (expression instanceof ParenthesedExpressionList<?> list && list.size() == 1);
  }

  Uses computed(Uses uses, Flow flow, boolean masked, Expression whole) {
    Span span = span(whole);
    return uses.computed(flow, masked, span, () -> context.textOf(span));
  }

  private Span span(Expression expression) {
    return context.spanOrWhole(expression);
  }

  void partsInto(Uses target, @Nullable List<?> expressions) {
    if (expressions != null) {
      for (Object expression : expressions) {
        if (expression instanceof Expression one) {
          target.add(part(one));
        }
      }
    }
  }

  void decideBy(Uses target, @Nullable Expression expression, Flow flow) {
    if (expression != null) {
      target.addDeciding(part(expression), flow);
    }
  }

  void orderBy(Uses target, @Nullable List<OrderByElement> elements, Flow flow) {
    if (elements != null) {
      elements.forEach(element -> decideBy(target, element.getExpression(), flow));
    }
  }

  // ------------------------------------------------------------------ names

  @Override
  public <S> Void visit(Column column, S nothing) {
    current.add(columns.read(column, scope));
    return null;
  }

  @Override
  public <S> Void visit(AllTableColumns columns, S nothing) {
    List<Ident> names = queries.nameOf(columns.getTable());
    Scope.Entry entry = scope.named(names);
    if (entry == null) {
      context.problem("No table here is named " + columns.getTable() + ".", span(columns));
    } else {
      current.add(ColumnReader.wholeRow(entry.relation(), Flow.TRANSFORMATION));
    }
    return null;
  }

  @Override
  public <S> Void visit(AllColumns columns, S nothing) {
    scope
        .relations()
        .forEach(relation -> current.add(ColumnReader.wholeRow(relation, Flow.TRANSFORMATION)));
    return null;
  }

  @Override
  public <S> Void visit(RowGetExpression get, S nothing) {
    Uses whole = part(get.getExpression());
    current.add(computed(whole, Flow.TRANSFORMATION, false, get));
    return null;
  }

  // --------------------------------------------------------------- branches

  @Override
  public <S> Void visit(CaseExpression choice, S nothing) {
    var result = new Uses();
    decideBy(result, choice.getSwitchExpression(), Flow.CONDITIONAL);
    for (WhenClause when : choice.getWhenClauses()) {
      decideBy(result, when.getWhenExpression(), Flow.CONDITIONAL);
      result.add(part(when.getThenExpression()));
    }
    if (choice.getElseExpression() != null) {
      result.add(part(choice.getElseExpression()));
    }
    current.add(result);
    return null;
  }

  @Override
  public <S> Void visit(CastExpression cast, S nothing) {
    Uses inner = part(cast.getLeftExpression());
    String target = cast.getColDataType() == null ? "" : cast.getColDataType().toString();
    boolean keeps = inner.isConstant() || keepsValue(inner, target);
    current.add(keeps ? inner : computed(inner, Flow.TRANSFORMATION, false, cast));
    return null;
  }

  private static boolean keepsValue(Uses inner, String target) {
    if (inner.direct.isEmpty()) {
      return true;
    }
    String from = null;
    if (inner.direct.size() == 1) {
      from = inner.direct.keySet().iterator().next().type();
    }
    return Types.keepsValue(from, target);
  }

  // -------------------------------------------------------------- functions

  @Override
  public <S> Void visit(Function call, S nothing) {
    current.add(functions.read(call));
    return null;
  }

  @Override
  public <S> Void visit(AnalyticExpression call, S nothing) {
    current.add(functions.read(call));
    return null;
  }

  @Override
  public <S> Void visit(MySQLGroupConcat call, S nothing) {
    current.add(functions.read(call));
    return null;
  }

  @Override
  public <S> Void visit(JsonAggregateFunction call, S nothing) {
    current.add(functions.read(call));
    return null;
  }

  @Override
  public <S> Void visit(LambdaExpression lambda, S nothing) {
    Scope before = scope;
    scope = scope.withParameters(lambda.getIdentifiers());
    try {
      current.add(part(lambda.getExpression()));
    } finally {
      scope = before;
    }
    return null;
  }

  @Override
  public <S> Void visit(StructType struct, S nothing) {
    if (struct.getArguments() != null) {
      struct.getArguments().forEach(item -> current.add(part(item.getExpression())));
    }
    return null;
  }

  @Override
  public <S> Void visit(ExtractExpression extract, S nothing) {
    current.add(part(extract.getExpression()));
    return null;
  }

  @Override
  public <S> Void visit(TrimFunction trim, S nothing) {
    for (Expression part : new Expression[] {trim.getExpression(), trim.getFromExpression()}) {
      if (part != null) {
        current.add(part(part));
      }
    }
    return null;
  }

  @Override
  public <S> Void visit(JsonExpression json, S nothing) {
    current.add(part(json.getExpression()));
    for (Expression step : json.getIdents()) {
      Expression key = step instanceof CastExpression cast ? cast.getLeftExpression() : step;
      if (!(key instanceof Column)) { // a bare word is a key, not a column
        current.add(part(step));
      }
    }
    return null;
  }

  /** An element or a slice of an array: which one it is depends on the index. */
  @Override
  public <S> Void visit(ArrayExpression element, S nothing) {
    current.add(computed(part(element.getObjExpression()), Flow.TRANSFORMATION, false, element));
    for (Expression index :
        new Expression[] {
          element.getIndexExpression(),
          element.getStartIndexExpression(),
          element.getStopIndexExpression()
        }) {
      decideBy(current, index, Flow.CONDITIONAL);
    }
    return null;
  }

  // ------------------------------------------------------------- subqueries

  @Override
  public <S> Void visit(ParenthesedSelect select, S nothing) {
    return subquery(select);
  }

  @Override
  public <S> Void visit(Select select, S nothing) {
    return subquery(select);
  }

  private Void subquery(Select select) {
    Relation rows = queries.scalar(select, scope);
    for (Field field : rows.fields()) {
      current.direct(field, Uses.How.of(Flow.IDENTITY));
    }
    if (rows.open() && rows.fields().isEmpty()) {
      current.add(ColumnReader.wholeRow(rows, Flow.IDENTITY));
    }
    current.rowsOf.add(rows);
    return null;
  }

  @Override
  public <S> Void visit(ExistsExpression exists, S nothing) {
    Expression inside = exists.getRightExpression();
    if (inside instanceof Select select) {
      Relation rows = queries.scalar(select, scope);
      current.rowsOf.add(rows);
      current.counted.add(rows);
    } else {
      current.add(part(inside));
    }
    return null;
  }

  @Override
  public <S> Void visit(InExpression in, S nothing) {
    current.add(part(in.getLeftExpression()));
    current.add(part(in.getRightExpression()));
    if (in.getRightExpression() instanceof Select) {
      current.counted.addAll(current.rowsOf);
    }
    return null;
  }

  @Override
  public <S> Void visit(AnyComparisonExpression any, S nothing) {
    if (any.getSelect() != null) {
      subquery(any.getSelect());
      current.counted.addAll(current.rowsOf);
    }
    return null;
  }

  @Override
  public <S> Void visit(MemberOfExpression member, S nothing) {
    current.add(part(member.getLeftExpression()));
    current.add(part(member.getRightExpression()));
    return null;
  }

  @Override
  public <S> Void visit(ExpressionList<? extends Expression> list, S nothing) {
    partsInto(current, list);
    return null;
  }

  @Override
  public <S> Void visit(AliasedExpression aliased, S nothing) {
    current.add(part(aliased.getExpression()));
    return null;
  }

  @Override
  public <S> Void visit(SelectItem<? extends Expression> item, S nothing) {
    current.add(part(Objects.requireNonNull(item.getExpression())));
    return null;
  }

  // -------------------------------------------------------------- variables

  @Override
  public <S> Void visit(JdbcNamedParameter variable, S nothing) {
    Field filled = context.tables().filled(List.of(new Ident("@" + variable.getName(), false)));
    if (filled == null) {
      literal(variable);
    } else {
      current.add(ColumnReader.valueOf(filled));
    }
    return null;
  }

  // --------------------------------------------------------------- literals

  Constant constant(Expression expression) {
    Span at = span(expression);
    return new Constant(context.textOf(at), at);
  }

  @Override
  protected void literal(Expression expression) {
    current.constants.add(constant(expression));
  }

  @Override
  public <S> Void visit(IntervalExpression interval, S nothing) {
    if (interval.getExpression() == null) {
      literal(interval);
      return null;
    }
    current.add(part(interval.getExpression()));
    return null;
  }
}
