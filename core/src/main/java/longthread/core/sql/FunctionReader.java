package longthread.core.sql;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import longthread.core.lineage.Flow;
import net.sf.jsqlparser.expression.AnalyticExpression;
import net.sf.jsqlparser.expression.Expression;
import net.sf.jsqlparser.expression.Function;
import net.sf.jsqlparser.expression.JsonAggregateFunction;
import net.sf.jsqlparser.expression.MySQLGroupConcat;
import net.sf.jsqlparser.expression.WindowDefinition;
import net.sf.jsqlparser.schema.Column;
import net.sf.jsqlparser.statement.select.AllColumns;
import net.sf.jsqlparser.statement.select.OrderByElement;
import net.sf.jsqlparser.statement.select.Select;
import org.jspecify.annotations.Nullable;

/**
 * Reads calls of functions: aggregates, windows, those that choose among their arguments, all
 * others.
 */
final class FunctionReader {
  private static final Set<String> BY_ANOTHER =
      Set.of("max_by", "min_by", "argmax", "argmin", "arg_max", "arg_min");
  private static final Set<String> OF_THOSE = Set.of("sumif", "sum_if", "avgif");
  private static final Set<String> HOW_MANY = Set.of("count_if", "countif");

  private final Context context;
  private final ExpressionReader expressions;
  private Map<String, WindowDefinition> windows = Map.of();

  FunctionReader(Context context, ExpressionReader expressions) {
    this.context = context;
    this.expressions = expressions;
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

  Uses read(Function function) {
    String name = plainName(function.getName());
    List<?> arguments = function.getParameters() == null ? List.of() : function.getParameters();
    if (name.equals("values") && arguments.size() == 1) {
      Field inserted = inserted(arguments.get(0));
      if (inserted != null) {
        return Uses.of(inserted, Flow.IDENTITY);
      }
    }
    return Functions.aggregates(name)
        ? aggregate(name, arguments, function.getOrderByElements(), function)
        : scalar(name, function, arguments);
  }

  /** In the assignments of an upsert, {@code values(c)} is the value that was to be inserted. */
  private @Nullable Field inserted(Object argument) {
    Scope.Entry inserted =
        expressions.scope().named(List.of(new Ident(InsertReader.INSERTED, false)));
    return inserted == null || !(argument instanceof Column column)
        ? null
        : inserted.relation().find(context.ident(column.getColumnName()));
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
      arguments.forEach(a -> expressions.decideBy(inner, (Expression) a, Flow.CONDITIONAL));
    } else if ((BY_ANOTHER.contains(name) || OF_THOSE.contains(name)) && arguments.size() > 1) {
      inner.add(expressions.part((Expression) arguments.get(0)));
      arguments.stream()
          .skip(1)
          .forEach(a -> expressions.decideBy(inner, (Expression) a, Flow.CONDITIONAL));
    } else if (!star) {
      expressions.partsInto(inner, arguments);
    }
    Uses result = expressions.computed(inner, Flow.AGGREGATION, Functions.counts(name), whole);
    result.constants.clear();
    if (result.direct.isEmpty()) {
      // What it aggregates is the same in all rows, or given by a condition: it counts rows.
      result.counted.addAll(expressions.scope().relations());
    }
    expressions.orderBy(result, order, Flow.SORT);
    if (whole instanceof Function function && function.getKeep() != null) {
      expressions.orderBy(result, function.getKeep().getOrderByElements(), Flow.SORT);
    }
    return result;
  }

  private Uses scalar(String name, Function function, List<?> arguments) {
    var result = new Uses();
    if (Functions.chooses(name) && arguments.size() == 3) {
      expressions.decideBy(result, (Expression) arguments.get(0), Flow.CONDITIONAL);
      expressions.partsInto(result, arguments.subList(1, 3));
      return result;
    }
    if (name.equals("decode") && arguments.size() >= 3) {
      return decode(arguments);
    }
    if (name.equals("grouping") || name.equals("grouping_id")) {
      // Which columns a row is grouped by; nothing of their values.
      result.constants.add(expressions.constant(function));
      return result;
    }
    if (Functions.yieldsEither(name)) {
      for (Object argument : arguments) {
        Uses one = expressions.part((Expression) argument);
        result.add(
            one.isConstant()
                ? one
                : expressions.computed(one, Flow.TRANSFORMATION, false, (Expression) argument));
      }
      return result;
    }
    var inner = new Uses();
    boolean collects = false;
    for (Object argument : arguments) {
      if (argument instanceof Expression one) {
        inner.add(expressions.part(one));
        collects |= name.equals("array") && one instanceof Select;
      }
    }
    if (function.getNamedParameters() != null) {
      expressions.partsInto(inner, function.getNamedParameters());
    }
    expressions.partsInto(inner, function.getChainedParameters());
    Flow flow = collects ? Flow.AGGREGATION : Flow.TRANSFORMATION;
    if (inner.direct.isEmpty() && inner.constants.isEmpty()) {
      inner.constants.add(expressions.constant(function));
    }
    result = expressions.computed(inner, flow, context.functions().masks(name), function);
    if (Functions.expands(name)) {
      expressions.expandsBy(inner);
    }
    if (function.getKeep() != null) {
      expressions.orderBy(result, function.getKeep().getOrderByElements(), Flow.SORT);
    }
    return result;
  }

  private Uses decode(List<?> arguments) {
    var result = new Uses();
    expressions.decideBy(result, (Expression) arguments.get(0), Flow.CONDITIONAL);
    for (int i = 1; i < arguments.size(); i += 2) {
      boolean otherwise = i + 1 == arguments.size();
      if (!otherwise) {
        expressions.decideBy(result, (Expression) arguments.get(i), Flow.CONDITIONAL);
      }
      result.add(expressions.part((Expression) arguments.get(otherwise ? i : i + 1)));
    }
    return result;
  }

  Uses read(AnalyticExpression call) {
    String name = plainName(call.getName());
    var inner = new Uses();
    if (HOW_MANY.contains(name)) {
      expressions.decideBy(inner, call.getExpression(), Flow.CONDITIONAL);
    } else if (call.getExpression() != null && !(call.getExpression() instanceof AllColumns)) {
      inner.add(expressions.part(call.getExpression()));
      decideOrAdd(inner, name, call.getOffset());
      decideOrAdd(inner, name, call.getDefaultValue());
    }
    boolean within = call.getType().name().startsWith("WITHIN_GROUP");
    boolean inOrder = within && isOfOrdered(name, inner);
    if (inOrder) {
      for (OrderByElement element : call.getOrderByElements()) {
        inner.add(expressions.part(element.getExpression()));
      }
    }
    boolean aggregates = Functions.aggregates(name) || within;
    Uses result =
        expressions.computed(
            inner,
            aggregates ? Flow.AGGREGATION : Flow.TRANSFORMATION,
            Functions.counts(name) || context.functions().masks(name),
            call);
    result.constants.clear();
    if (result.direct.isEmpty()) {
      result.counted.addAll(expressions.scope().relations());
    }
    if (within && !inOrder) {
      expressions.orderBy(result, call.getOrderByElements(), Flow.SORT);
    }
    expressions.orderBy(result, call.getFuncOrderBy(), Flow.SORT);
    expressions.decideBy(result, call.getFilterExpression(), Flow.CONDITIONAL);
    if (call.getKeep() != null) {
      expressions.orderBy(result, call.getKeep().getOrderByElements(), Flow.SORT);
    }
    window(result, call, within);
    return result;
  }

  private void decideOrAdd(Uses inner, String name, @Nullable Expression argument) {
    if (argument == null) {
      return;
    }
    if (BY_ANOTHER.contains(name) || OF_THOSE.contains(name)) {
      expressions.decideBy(inner, argument, Flow.CONDITIONAL);
    } else {
      inner.add(expressions.part(argument));
    }
  }

  /** Whether a WITHIN GROUP's order holds the values themselves, as of a percentile. */
  private static boolean isOfOrdered(String name, Uses arguments) {
    return arguments.direct.isEmpty() || name.startsWith("percentile") || name.equals("mode");
  }

  private void window(Uses result, AnalyticExpression call, boolean within) {
    if (call.getPartitionExpressionList() != null) {
      call.getPartitionExpressionList().forEach(e -> expressions.decideBy(result, e, Flow.WINDOW));
    }
    if (!within) {
      expressions.orderBy(result, call.getOrderByElements(), Flow.WINDOW);
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
          expressions.decideBy(result, (Expression) expression, Flow.WINDOW);
        }
      }
      expressions.orderBy(result, window.getOrderByElements(), Flow.WINDOW);
      named = null;
    }
  }

  Uses read(MySQLGroupConcat call) {
    return aggregate("group_concat", call.getExpressionList(), call.getOrderByElements(), call);
  }

  Uses read(JsonAggregateFunction call) {
    var arguments = new ArrayList<Object>();
    for (Object part : new Object[] {call.getExpression(), call.getKey(), call.getValue()}) {
      if (part instanceof Expression) {
        arguments.add(part);
      } else if (part instanceof String name && !name.isBlank()) {
        arguments.add(new Column(name));
      }
    }
    Uses result = aggregate("json_agg", arguments, call.getExpressionOrderByElements(), call);
    expressions.decideBy(result, call.getFilterExpression(), Flow.CONDITIONAL);
    if (call.getPartitionExpressionList() != null) {
      call.getPartitionExpressionList().forEach(e -> expressions.decideBy(result, e, Flow.WINDOW));
    }
    expressions.orderBy(result, call.getOrderByElements(), Flow.WINDOW);
    return result;
  }
}
