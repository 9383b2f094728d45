package longthread.core.sql;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import longthread.core.lineage.Flow;
import net.sf.jsqlparser.expression.AliasedExpression;
import net.sf.jsqlparser.expression.AnalyticExpression;
import net.sf.jsqlparser.expression.AnyComparisonExpression;
import net.sf.jsqlparser.expression.BooleanValue;
import net.sf.jsqlparser.expression.CaseExpression;
import net.sf.jsqlparser.expression.CastExpression;
import net.sf.jsqlparser.expression.CollateExpression;
import net.sf.jsqlparser.expression.DateTimeLiteralExpression;
import net.sf.jsqlparser.expression.DateValue;
import net.sf.jsqlparser.expression.DoubleValue;
import net.sf.jsqlparser.expression.Expression;
import net.sf.jsqlparser.expression.ExpressionVisitorAdapter;
import net.sf.jsqlparser.expression.ExtractExpression;
import net.sf.jsqlparser.expression.Function;
import net.sf.jsqlparser.expression.HexValue;
import net.sf.jsqlparser.expression.IntervalExpression;
import net.sf.jsqlparser.expression.JdbcNamedParameter;
import net.sf.jsqlparser.expression.JdbcParameter;
import net.sf.jsqlparser.expression.JsonAggregateFunction;
import net.sf.jsqlparser.expression.JsonExpression;
import net.sf.jsqlparser.expression.LambdaExpression;
import net.sf.jsqlparser.expression.LongValue;
import net.sf.jsqlparser.expression.MySQLGroupConcat;
import net.sf.jsqlparser.expression.NextValExpression;
import net.sf.jsqlparser.expression.NullValue;
import net.sf.jsqlparser.expression.NumericBind;
import net.sf.jsqlparser.expression.RowGetExpression;
import net.sf.jsqlparser.expression.StringValue;
import net.sf.jsqlparser.expression.StructType;
import net.sf.jsqlparser.expression.TimeKeyExpression;
import net.sf.jsqlparser.expression.TimeValue;
import net.sf.jsqlparser.expression.TimestampValue;
import net.sf.jsqlparser.expression.TrimFunction;
import net.sf.jsqlparser.expression.UserVariable;
import net.sf.jsqlparser.expression.WhenClause;
import net.sf.jsqlparser.expression.WindowDefinition;
import net.sf.jsqlparser.expression.operators.relational.ExistsExpression;
import net.sf.jsqlparser.expression.operators.relational.ExpressionList;
import net.sf.jsqlparser.expression.operators.relational.InExpression;
import net.sf.jsqlparser.expression.operators.relational.MemberOfExpression;
import net.sf.jsqlparser.expression.operators.relational.ParenthesedExpressionList;
import net.sf.jsqlparser.schema.Column;
import net.sf.jsqlparser.schema.Table;
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
final class ExpressionReader extends ExpressionVisitorAdapter<Void> {
  private static final Set<String> MOMENT_WORDS =
      Set.of(
          "current_date",
          "current_time",
          "current_timestamp",
          "localtime",
          "localtimestamp",
          "current_user",
          "session_user",
          "user",
          "current_schema",
          "current_catalog",
          "sysdate",
          "systimestamp",
          "default",
          "unknown",
          "true",
          "false",
          "null",
          "rownum",
          "sqlcode");
  private static final Set<String> BY_ANOTHER =
      Set.of("max_by", "min_by", "argmax", "argmin", "arg_max", "arg_min");
  private static final Set<String> OF_THOSE = Set.of("sumif", "sum_if", "avgif");
  private static final Set<String> HOW_MANY = Set.of("count_if", "countif");

  private final Context context;
  private final QueryReader queries;
  private Map<String, WindowDefinition> windows = Map.of();
  private Scope scope;
  private Uses current = new Uses();
  private @Nullable Uses expanded;

  ExpressionReader(Context context, QueryReader queries) {
    this.context = context;
    this.queries = queries;
    this.scope = new Scope(null);
  }

  /** Sets the named windows of the query whose expressions are read next; returns those before. */
  Map<String, WindowDefinition> use(@Nullable List<WindowDefinition> definitions) {
    Map<String, WindowDefinition> before = windows;
    windows = new HashMap<>();
    if (definitions != null) {
      definitions.forEach(
          window -> windows.put(window.getWindowName().toLowerCase(Locale.ROOT), window));
    }
    return before;
  }

  void restore(Map<String, WindowDefinition> before) {
    windows = before;
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

  private Uses part(Expression expression) {
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
        || (expression instanceof ParenthesedExpressionList<?> list && list.size() == 1);
  }

  private Uses computed(Uses uses, Flow flow, boolean masked, Expression whole) {
    Span span = span(whole);
    return uses.computed(flow, masked, span, context.textOf(span));
  }

  private Span span(Expression expression) {
    return context.spanOrWhole(expression);
  }

  private void partsInto(Uses target, @Nullable List<?> expressions) {
    if (expressions != null) {
      for (Object expression : expressions) {
        if (expression instanceof Expression one) {
          target.add(part(one));
        }
      }
    }
  }

  private void decideBy(Uses target, @Nullable Expression expression, Flow flow) {
    if (expression != null) {
      target.addDeciding(part(expression), flow);
    }
  }

  private void orderBy(Uses target, @Nullable List<OrderByElement> elements, Flow flow) {
    if (elements != null) {
      elements.forEach(element -> decideBy(target, element.getExpression(), flow));
    }
  }

  // ------------------------------------------------------------------ names

  @Override
  public <S> Void visit(Column column, S nothing) {
    List<Ident> parts = nameOf(column);
    String last = parts.get(parts.size() - 1).name();
    boolean operatorEnd = last.length() > 1 && last.endsWith("#") && parts.size() < 3;
    Field output = scope.prefersGiven(parts) ? scope.givenAs(parts.get(0)) : null;
    if (output != null) {
      current.add(output.uses());
      return null;
    }
    Scope.Found found = scope.resolve(parts);
    if (found == null && operatorEnd) {
      // A JSON operator such as #> right behind the name is taken for its last character.
      parts.set(parts.size() - 1, new Ident(last.substring(0, last.length() - 1), false));
      found = scope.resolve(parts);
    }
    if (found == null) {
      unresolved(column, parts);
      return null;
    }
    if (found.whole() != null) {
      wholeRow(found.whole(), Flow.TRANSFORMATION);
      return null;
    }
    Flow flow = found.nested() || operatorEnd ? Flow.TRANSFORMATION : Flow.IDENTITY;
    for (Field field : found.fields()) {
      current.direct(field, new Uses.How(flow, false, !found.certain()));
    }
    if (!found.certain()) {
      context.problem(
          "It is not certain which table " + last + " belongs to; its sources are only possible.",
          context.spanOf(column));
    }
    return null;
  }

  private void unresolved(Column column, List<Ident> parts) {
    Ident last = parts.get(parts.size() - 1);
    Span at = span(column);
    boolean word = parts.size() == 1 && MOMENT_WORDS.contains(last.name().toLowerCase(Locale.ROOT));
    boolean text = column.getColumnName().startsWith("\"") && !context.dialect().quotedIsExact();
    boolean template = context.textOf(at).contains("{");
    if (word || text || template || last.name().startsWith("@")) {
      current.constants.add(new Constant(context.textOf(at), at));
      return;
    }
    Field given = parts.size() == 1 ? scope.givenAs(last) : null;
    if (given != null) {
      current.add(given.uses());
      return;
    }
    context.problem("No table here has a column " + context.textOf(at) + ".", at);
  }

  private List<Ident> nameOf(Column column) {
    var parts = new ArrayList<Ident>();
    Table table = column.getTable();
    if (table != null) {
      List<String> names = table.getNameParts();
      for (int i = names.size() - 1; i >= 0; i--) {
        if (names.get(i) != null && !names.get(i).isEmpty()) {
          parts.add(context.ident(names.get(i)));
        }
      }
    }
    parts.add(context.ident(column.getColumnName()));
    return parts;
  }

  private void wholeRow(Relation relation, Flow flow) {
    for (Field field : List.copyOf(relation.fields())) {
      current.direct(field, Uses.How.of(flow));
    }
    if (relation.open()) {
      Field all = relation.findOrMake(new Ident("*", true));
      current.direct(all, Uses.How.of(flow));
    }
  }

  @Override
  public <S> Void visit(AllTableColumns columns, S nothing) {
    List<Ident> names = queries.nameOf(columns.getTable());
    Scope.Entry entry = scope.named(names);
    if (entry == null) {
      context.problem("No table here is named " + columns.getTable() + ".", span(columns));
    } else {
      wholeRow(entry.relation(), Flow.TRANSFORMATION);
    }
    return null;
  }

  @Override
  public <S> Void visit(AllColumns columns, S nothing) {
    scope.relations().forEach(relation -> wholeRow(relation, Flow.TRANSFORMATION));
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
  public <S> Void visit(Function function, S nothing) {
    String name = plainName(function.getName());
    List<?> arguments = function.getParameters() == null ? List.of() : function.getParameters();
    if (name.equals("values") && arguments.size() == 1 && fromInserted(arguments.get(0))) {
      return null;
    }
    if (Functions.aggregates(name)) {
      current.add(aggregate(name, arguments, function.getOrderByElements(), function));
      return null;
    }
    current.add(scalar(name, function, arguments));
    return null;
  }

  /** In the assignments of an upsert, {@code values(c)} is the value that was to be inserted. */
  private boolean fromInserted(Object argument) {
    Scope.Entry inserted = scope.named(List.of(new Ident(StatementReader.INSERTED, false)));
    if (inserted == null || !(argument instanceof Column column)) {
      return false;
    }
    Field field = inserted.relation().find(context.ident(column.getColumnName()));
    if (field == null) {
      return false;
    }
    current.direct(field, Uses.How.of(Flow.IDENTITY));
    return true;
  }

  static String plainName(@Nullable String name) {
    if (name == null) {
      return "";
    }
    String last = name.substring(name.lastIndexOf('.') + 1);
    return last.replace("\"", "").replace("`", "").toLowerCase(Locale.ROOT);
  }

  private Uses aggregate(
      String name, List<?> arguments, @Nullable List<OrderByElement> order, Expression whole) {
    var inner = new Uses();
    boolean star = arguments.size() == 1 && arguments.get(0) instanceof AllColumns;
    if (HOW_MANY.contains(name)) {
      arguments.forEach(a -> decideBy(inner, (Expression) a, Flow.CONDITIONAL));
    } else if ((BY_ANOTHER.contains(name) || OF_THOSE.contains(name)) && arguments.size() > 1) {
      inner.add(part((Expression) arguments.get(0)));
      arguments.stream().skip(1).forEach(a -> decideBy(inner, (Expression) a, Flow.CONDITIONAL));
    } else if (!star) {
      partsInto(inner, arguments);
    }
    Uses result = computed(inner, Flow.AGGREGATION, Functions.counts(name), whole);
    result.constants.clear();
    if (result.direct.isEmpty()) {
      // What it aggregates is the same in all rows, or told by a condition: it counts rows.
      result.counted.addAll(scope.relations());
    }
    orderBy(result, order, Flow.SORT);
    return result;
  }

  private Uses scalar(String name, Function function, List<?> arguments) {
    var result = new Uses();
    if (Functions.chooses(name) && arguments.size() == 3) {
      decideBy(result, (Expression) arguments.get(0), Flow.CONDITIONAL);
      partsInto(result, arguments.subList(1, 3));
      return result;
    }
    if (name.equals("decode") && arguments.size() >= 3) {
      return decode(arguments);
    }
    if (name.equals("grouping") || name.equals("grouping_id")) {
      // Which columns a row is grouped by; nothing of their values.
      result.constants.add(constant(function));
      return result;
    }
    if (Functions.yieldsEither(name)) {
      for (Object argument : arguments) {
        Uses one = part((Expression) argument);
        result.add(
            one.isConstant()
                ? one
                : computed(one, Flow.TRANSFORMATION, false, (Expression) argument));
      }
      return result;
    }
    var inner = new Uses();
    boolean collects = false;
    for (Object argument : arguments) {
      if (argument instanceof Expression one) {
        inner.add(part(one));
        collects |= name.equals("array") && one instanceof Select;
      }
    }
    if (function.getNamedParameters() != null) {
      partsInto(inner, function.getNamedParameters());
    }
    partsInto(inner, function.getChainedParameters());
    Flow flow = collects ? Flow.AGGREGATION : Flow.TRANSFORMATION;
    if (inner.direct.isEmpty() && inner.constants.isEmpty()) {
      inner.constants.add(constant(function));
    }
    result = computed(inner, flow, context.functions().masks(name), function);
    if (Functions.expands(name) && expanded != null) {
      expanded.addDeciding(inner, Flow.JOIN);
    }
    if (function.getKeep() != null) {
      orderBy(result, function.getKeep().getOrderByElements(), Flow.SORT);
    }
    return result;
  }

  private Uses decode(List<?> arguments) {
    var result = new Uses();
    decideBy(result, (Expression) arguments.get(0), Flow.CONDITIONAL);
    for (int i = 1; i < arguments.size(); i += 2) {
      boolean otherwise = i + 1 == arguments.size();
      if (!otherwise) {
        decideBy(result, (Expression) arguments.get(i), Flow.CONDITIONAL);
      }
      result.add(part((Expression) arguments.get(otherwise ? i : i + 1)));
    }
    return result;
  }

  @Override
  public <S> Void visit(AnalyticExpression call, S nothing) {
    String name = plainName(call.getName());
    var inner = new Uses();
    if (HOW_MANY.contains(name)) {
      decideBy(inner, call.getExpression(), Flow.CONDITIONAL);
    } else if (call.getExpression() != null && !(call.getExpression() instanceof AllColumns)) {
      inner.add(part(call.getExpression()));
      decideOrAdd(inner, name, call.getOffset());
      decideOrAdd(inner, name, call.getDefaultValue());
    }
    boolean within = call.getType().name().startsWith("WITHIN_GROUP");
    boolean inOrder = within && isOfOrdered(name, inner);
    if (inOrder) {
      for (OrderByElement element : call.getOrderByElements()) {
        inner.add(part(element.getExpression()));
      }
    }
    boolean aggregates = Functions.aggregates(name) || within;
    Uses result =
        computed(
            inner,
            aggregates ? Flow.AGGREGATION : Flow.TRANSFORMATION,
            Functions.counts(name) || context.functions().masks(name),
            call);
    result.constants.clear();
    if (result.direct.isEmpty()) {
      result.counted.addAll(scope.relations());
    }
    if (within && !inOrder) {
      orderBy(result, call.getOrderByElements(), Flow.SORT);
    }
    orderBy(result, call.getFuncOrderBy(), Flow.SORT);
    decideBy(result, call.getFilterExpression(), Flow.CONDITIONAL);
    if (call.getKeep() != null) {
      orderBy(result, call.getKeep().getOrderByElements(), Flow.SORT);
    }
    window(result, call, within);
    current.add(result);
    return null;
  }

  private void decideOrAdd(Uses inner, String name, @Nullable Expression argument) {
    if (argument == null) {
      return;
    }
    if (BY_ANOTHER.contains(name) || OF_THOSE.contains(name)) {
      decideBy(inner, argument, Flow.CONDITIONAL);
    } else {
      inner.add(part(argument));
    }
  }

  /** Whether a WITHIN GROUP's order holds the values themselves, as of a percentile. */
  private static boolean isOfOrdered(String name, Uses arguments) {
    return arguments.direct.isEmpty() || name.startsWith("percentile") || name.equals("mode");
  }

  private void window(Uses result, AnalyticExpression call, boolean within) {
    if (call.getPartitionExpressionList() != null) {
      call.getPartitionExpressionList().forEach(e -> decideBy(result, e, Flow.WINDOW));
    }
    if (!within) {
      orderBy(result, call.getOrderByElements(), Flow.WINDOW);
    }
    String named = call.getWindowName();
    if (named == null && call.getWindowDefinition() != null) {
      named = call.getWindowDefinition().getWindowName();
    }
    // A window may be defined on another one; names that go round in a circle end the search.
    for (int depth = 0; named != null && depth < windows.size(); depth++) {
      WindowDefinition window = windows.get(named.toLowerCase(Locale.ROOT));
      if (window == null) {
        break;
      }
      if (window.getPartitionExpressionList() != null) {
        for (Object expression : window.getPartitionExpressionList()) {
          decideBy(result, (Expression) expression, Flow.WINDOW);
        }
      }
      orderBy(result, window.getOrderByElements(), Flow.WINDOW);
      named = null;
    }
  }

  @Override
  public <S> Void visit(MySQLGroupConcat call, S nothing) {
    current.add(
        aggregate("group_concat", call.getExpressionList(), call.getOrderByElements(), call));
    return null;
  }

  @Override
  public <S> Void visit(JsonAggregateFunction call, S nothing) {
    var arguments = new ArrayList<Object>();
    for (Object part : new Object[] {call.getExpression(), call.getKey(), call.getValue()}) {
      if (part instanceof Expression) {
        arguments.add(part);
      } else if (part instanceof String name && !name.isBlank()) {
        arguments.add(new Column(name));
      }
    }
    Uses result = aggregate("json_agg", arguments, call.getExpressionOrderByElements(), call);
    decideBy(result, call.getFilterExpression(), Flow.CONDITIONAL);
    if (call.getPartitionExpressionList() != null) {
      call.getPartitionExpressionList().forEach(e -> decideBy(result, e, Flow.WINDOW));
    }
    orderBy(result, call.getOrderByElements(), Flow.WINDOW);
    current.add(result);
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
      wholeRow(rows, Flow.IDENTITY);
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

  // --------------------------------------------------------------- literals

  private Constant constant(Expression expression) {
    Span at = span(expression);
    return new Constant(context.textOf(at), at);
  }

  private Void literal(Expression expression) {
    current.constants.add(constant(expression));
    return null;
  }

  @Override
  public <S> Void visit(NullValue value, S nothing) {
    return literal(value);
  }

  @Override
  public <S> Void visit(LongValue value, S nothing) {
    return literal(value);
  }

  @Override
  public <S> Void visit(DoubleValue value, S nothing) {
    return literal(value);
  }

  @Override
  public <S> Void visit(HexValue value, S nothing) {
    return literal(value);
  }

  @Override
  public <S> Void visit(StringValue value, S nothing) {
    return literal(value);
  }

  @Override
  public <S> Void visit(BooleanValue value, S nothing) {
    return literal(value);
  }

  @Override
  public <S> Void visit(DateValue value, S nothing) {
    return literal(value);
  }

  @Override
  public <S> Void visit(TimeValue value, S nothing) {
    return literal(value);
  }

  @Override
  public <S> Void visit(TimestampValue value, S nothing) {
    return literal(value);
  }

  @Override
  public <S> Void visit(DateTimeLiteralExpression value, S nothing) {
    return literal(value);
  }

  @Override
  public <S> Void visit(TimeKeyExpression value, S nothing) {
    return literal(value);
  }

  @Override
  public <S> Void visit(JdbcParameter value, S nothing) {
    return literal(value);
  }

  @Override
  public <S> Void visit(JdbcNamedParameter value, S nothing) {
    return literal(value);
  }

  @Override
  public <S> Void visit(UserVariable value, S nothing) {
    return literal(value);
  }

  @Override
  public <S> Void visit(NumericBind value, S nothing) {
    return literal(value);
  }

  @Override
  public <S> Void visit(NextValExpression value, S nothing) {
    return literal(value);
  }

  @Override
  public <S> Void visit(IntervalExpression interval, S nothing) {
    if (interval.getExpression() == null) {
      return literal(interval);
    }
    current.add(part(interval.getExpression()));
    return null;
  }
}
